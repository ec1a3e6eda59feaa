import type { CutLine, CutPlan } from '@rubato/core/edits'
import { describe, expect, it } from 'vitest'
import { drawCuts, layCuts, rowTop, type CutInk, type CutView } from './drawCuts'

const placed = (n: number, startFrame: number, lengthFrames: number) => ({ shot: { id: `s${n}`, label: `0${n}0` }, startFrame, lengthFrames })
/** A film of three shots, and a list in which one is longer, one is dropped, one is new and one came first. */
const FILM = [placed(1, 0, 24), placed(2, 24, 36), placed(3, 60, 12)]
const line = (fields: object): CutLine => ({ id: Object.values(fields).map(String).join(':'), ...fields }) as CutLine
const plan = (pictures: readonly (readonly [label: string, lengthFrames: number, shotId: string | null])[], lines: readonly CutLine[]): CutPlan =>
  ({ list: { pictures: pictures.map(([label, lengthFrames]) => ({ label, lengthFrames })) }, shots: pictures.map(([, , shotId]) => shotId), lines }) as unknown as CutPlan
const changed = plan(
  [['030', 12, 's3'], ['010', 30, 's1'], ['new', 10, null], ['010', 8, 's1']],
  [line({ kind: 'ends', shotId: 's1', ends: { head: 0, tail: 6 }, lengthFrames: 30 }), line({ kind: 'dropped', shotId: 's2' }), line({ kind: 'moved', shotId: 's3' }), line({ kind: 'new', index: 2 }), line({ kind: 'again', index: 3, shotId: 's1' })],
)

describe('a cut over the film as it is', () => {
  const picture = layCuts(FILM, changed)
  const row = (name: 'now' | 'then') => picture.blocks.filter((block) => block.row === name)

  it('has each shot where it is, and each of the list where it would be', () => {
    expect(row('now').map(({ label, from, to, tone }) => [label, from, to, tone])).toEqual([['010', 0, 24, 'longer'], ['020', 24, 60, 'dropped'], ['030', 60, 72, 'moved']])
    expect(row('then').map(({ label, from, to, tone }) => [label, from, to, tone])).toEqual([['030', 0, 12, 'moved'], ['010', 12, 42, 'longer'], ['new', 42, 52, 'new'], ['010', 52, 60, 'new']])
    expect(picture.lengthFrames).toBe(72)
  })

  it('ties a shot to itself, and nothing to what is new or seen once more', () => {
    expect(picture.ties.map(({ now, then }) => [now.shotId, now.from, then.from])).toEqual([['s3', 60, 0], ['s1', 0, 12]])
  })

  it('knows of each block the lines that are about it', () => {
    expect(row('now').map(({ lines }) => lines.length)).toEqual([1, 1, 1])
    expect(row('then').map(({ lines }) => lines)).toEqual([[changed.lines[2]!.id], [changed.lines[0]!.id], [changed.lines[3]!.id], [changed.lines[4]!.id]])
  })

  it('of a shot that lost frames at one end and won as many at the other says longer, of one that lost more shorter', () => {
    const tone = (head: number, tail: number) => layCuts(FILM, plan([['010', 24 + head + tail, 's1']], [line({ kind: 'ends', shotId: 's1', ends: { head, tail }, lengthFrames: 1 })])).blocks[0]!.tone
    expect([tone(4, -4), tone(0, -1), tone(-5, 2), tone(0, 1)]).toEqual(['longer', 'shorter', 'shorter', 'longer'])
  })

  it('of the film’s own cut is all the same, and of nothing is a frame long', () => {
    const same = layCuts(FILM, plan([['010', 24, 's1'], ['020', 36, 's2'], ['030', 12, 's3']], []))
    expect(new Set(same.blocks.map(({ tone }) => tone))).toEqual(new Set(['same']))
    expect(same.ties.every(({ now, then }) => now.from === then.from && now.to === then.to)).toBe(true)
    expect(layCuts([], plan([], []))).toEqual({ blocks: [], ties: [], lengthFrames: 1 })
  })
})

describe('its drawing', () => {
  const INK: CutInk = { paper: 'paper', rule: 'rule', ink: 'ink', tones: { same: 'same', longer: 'longer', shorter: 'shorter', moved: 'moved', dropped: 'dropped', new: 'new' } }
  const VIEW: CutView = { widthPx: 360, heightPx: 120, from: 0, framesPerPx: 0.2, hover: null, off: new Set() }
  function drawn(view: Partial<CutView> = {}, picture = layCuts(FILM, changed)) {
    const found: { readonly x: number; readonly y: number; readonly style: string; readonly alpha: number }[] = []
    const ties: string[] = []
    const state = { fillStyle: '', strokeStyle: '', globalAlpha: 1, lineWidth: 1, font: '', textAlign: '', textBaseline: '' }
    const note = (x: number, y: number) => void found.push({ x, y, style: state.fillStyle, alpha: state.globalAlpha })
    const context = new Proxy(state as Record<string, unknown>, {
      get: (of, name: string) => (name in of ? of[name] : name === 'fillRect' ? note : name === 'roundRect' ? note : name === 'moveTo' ? (_x: number, y: number) => y === 30 && ties.push(state.fillStyle) : name === 'measureText' ? (text: string) => ({ width: text.length * 6 }) : () => undefined),
      set: (of, name: string, value) => ((of[name] = value), true),
    })
    drawCuts(context as unknown as CanvasRenderingContext2D, picture, { ...VIEW, ...view }, INK)
    expect(state.globalAlpha).toBe(1)
    return { found, ties }
  }

  it('has its rows at the top and at the bottom, and a band of its tone from a shot to where it goes', () => {
    expect([rowTop('now', 120), rowTop('then', 120)]).toEqual([0, 90])
    expect(drawn().ties).toEqual(['moved', 'longer'])
  })

  it('costs what is in view: of a film of a thousand shots no more blocks than of twenty', () => {
    const many = (count: number) => layCuts(Array.from({ length: count }, (_, i) => placed(i, i * 24, 24)), plan(Array.from({ length: count }, (_, i) => [`${i}`, 24, `s${i}`] as const), []))
    const view = { from: 96, framesPerPx: 0.5 }
    expect(drawn(view, many(1000)).found.length).toBe(drawn(view, many(20)).found.length)
    expect(drawn(view, many(20)).found.length).toBeGreaterThan(0)
  })
})
