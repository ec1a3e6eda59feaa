import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { FORMAT_VERSION, openDrawing, openTakeBody, takeProblems } from '.'
import { sameJson } from '../edits'
import { REST, sampleTake } from '../edits/testing'

describe('keeping', () => {
  it('opens a body of this format, and says what is wrong with others', () => {
    const take = sampleTake()
    expect(openTakeBody(JSON.parse(JSON.stringify(take)), FORMAT_VERSION)).toEqual({ ok: true, value: take })
    expect(openTakeBody(take, FORMAT_VERSION + 1)).toMatchObject({ ok: false, code: 'format-too-new' })
    expect(openTakeBody(take, 0)).toMatchObject({ ok: false, code: 'format-unknown' })
    expect(openTakeBody({ ...take, panels: { p1: {} } }, 5)).toMatchObject({ ok: false, code: 'malformed' })
  })

  it('opens what earlier formats kept: a level drawn anew in some panel is a figure, marks are listed in order', () => {
    for (const version of [1, 2]) {
      const opened = openTakeBody(JSON.parse(JSON.stringify(sampleTake())), version)
      expect(opened.ok && [opened.value.levels.tilda!.figure, opened.value.levels.sky!.figure]).toEqual([true, undefined])
    }
    const mark = (id: string, order: number) => ({ id, order, kind: 'stroke', mode: 'ink', points: [0, 0, 0.5], widthFw: 0.01, colour: '#27241e', opacity: 1 })
    const old = { marks: { b: mark('b', 2), c: mark('c', 1), a: mark('a', 2) } }
    const opened = openDrawing(old, 2)
    expect(opened.ok && opened.value.marks.map(({ id }) => id)).toEqual(['c', 'a', 'b'])
    expect(opened.ok && opened.value.marks.map(({ order }) => order)).toEqual(['a1', 'a2', 'a2'])
    expect(openDrawing({ marks: [mark('a', 2), mark('b', 1)] }, 3)).toMatchObject({ ok: false, code: 'malformed' })
    expect(openDrawing({ marks: [mark('a', 1), mark('a', 2)] }, 3)).toMatchObject({ ok: false, code: 'malformed' })
  })

  it('words and arrows are since version 20; a drawing of before is as it was', () => {
    const fill = { id: 'w', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[0, 0, 1, 0, 1, 1]], colour: '#27241e', opacity: 1 }
    expect(openDrawing({ marks: [fill] }, 19)).toEqual({ ok: true, value: { marks: [fill] } })
    const set = { ...fill, forPrint: true, words: { text: 'Dusk', font: 'hand', align: 'middle', place: [0.1, 0, 0, 0.1, 0, 0] } }
    expect(openDrawing({ marks: [set] }, 20)).toEqual({ ok: true, value: { marks: [set] } })
    for (const wrong of [{ ...set, words: { ...set.words, text: '' } }, { ...set, words: { ...set.words, place: [1, 0, 0, 1, 0] } }, { ...fill, forPrint: false }, { ...fill, arrow: { points: [0, 0], widthFw: 0.1, taper: 0, heads: 'tip' } }]) expect(openDrawing({ marks: [wrong] }, 20)).toMatchObject({ ok: false, code: 'malformed' })
  })

  const air = { air: {}, airKeys: {}, meant: {} }
  const tries = { tries: {}, ...air }
  const spans = { spans: {}, spanEnds: {}, ...tries }
  it.each([[8, { levelKeys: {}, levelDrawings: {}, ...spans }], [9, { levelDrawings: {}, ...spans }], [10, spans], [11, tries], [12, air], [13, air], [14, air], [15, air], [16, {}], [17, {}], [18, {}], [19, {}]])('opens a file of format %i: nothing that it does not know of is in it, and all else is as it was', (format, since) => {
    const saved = JSON.parse(readFileSync(new URL(`./fixtures/takeFormat${format}.json`, import.meta.url), 'utf8')) as { readonly format: number; readonly body: object }
    expect(saved.format).toBe(format)
    expect(openTakeBody(saved.body, saved.format)).toEqual({ ok: true, value: { ...saved.body, ...since } })
  })

  it('finds keys and cells that stand nowhere', () => {
    const take = sampleTake()
    const framing = { id: 'f', cameraId: 'zz', panelId: 'p1', offsetFrames: 24, pose: REST, move: { timing: { kind: 'even' as const }, path: { kind: 'straight' as const }, evenness: { kind: 'set' as const } }, locked: false }
    expect(takeProblems({ ...take, framings: { f: framing } }).map((problem) => problem.code)).toEqual(['offset-past-panel', 'missing-camera'])
    expect(takeProblems({ ...take, panels: { p1: take.panels.p1! } }).map((problem) => problem.code)).toEqual(['missing-panel'])
  })

  it('compares JSON whatever the order of keys', () => {
    expect(sameJson({ a: 1, b: [1, { c: null }] }, { b: [1, { c: null }], a: 1 })).toBe(true)
    expect(sameJson({ a: 1 }, { a: 1, b: undefined })).toBe(false)
    expect(sameJson([1, 2], [2, 1])).toBe(false)
  })
})
