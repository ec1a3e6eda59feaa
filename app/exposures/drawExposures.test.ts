import { describe, expect, it } from 'vitest'
import { drawExposures, endHandle, type SheetColumn, type SheetScene, type ShownRun } from './drawExposures'
import { COLUMN_PX, columnsSeen, HEAD_PX, hitSheet, LEFT_PX, levelsRight, ROW_PX, rowsSeen, xOfColumn, yOfFrame, type SheetScale } from './sheetScale'

const INK = { paper: 'paper', sheet: 'sheet', panel: 'panel', onPanel: 'onPanel', wrongOnPanel: 'wrong', ink: 'ink', quiet: 'quiet', faint: 'faint', rule: 'rule', blue: 'blue', vermilion: 'vermilion', ochre: 'ochre', sea: 'sea', plum: 'plum', ribbon: 'ribbon', beads: ['bead'], font: 'Sans', mono: 'Mono', serif: 'Serif' }

interface Word {
  readonly text: string
  readonly x: number
  readonly y: number
  readonly style: string
  readonly font: string
  readonly align: string
}
interface Area {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  readonly style: string
}
/** A canvas that notes what is asked of it. Letters are 6 px wide. */
function noted() {
  const words: Word[] = []
  const areas: Area[] = []
  const lines: (readonly [number, number])[] = []
  const state = { fillStyle: '', strokeStyle: '', font: '', textAlign: 'left', textBaseline: '', globalAlpha: 1, lineWidth: 1 }
  let saved = 0
  let calls = 0
  const context = Object.assign(state, {
    fillRect: (x: number, y: number, width: number, height: number) => (calls++, void areas.push({ x, y, width, height, style: state.fillStyle })),
    strokeRect: () => void calls++,
    fillText: (text: string, x: number, y: number) => (calls++, void words.push({ text, x, y, style: state.fillStyle, font: state.font, align: state.textAlign })),
    measureText: (text: string) => ({ width: text.length * 6 }),
    save: () => void saved++,
    restore: () => void saved--,
    beginPath: () => undefined,
    rect: () => void calls++,
    clip: () => undefined,
    roundRect: () => void calls++,
    arc: () => void calls++,
    fill: () => undefined,
    stroke: () => undefined,
    moveTo: (x: number, y: number) => void lines.push([x, y]),
    lineTo: () => undefined,
  })
  return { context: context as unknown as CanvasRenderingContext2D, words, areas, lines, balance: () => saved, calls: () => calls, alpha: () => state.globalAlpha }
}

const scaleOf = (fields: Partial<SheetScale> = {}): SheetScale => ({ widthPx: 900, heightPx: 400, scrollTop: 0, scrollLeft: 0, frames: 48, columns: 3, ...fields })
const run = (from: number, to: number, name: string | null, holdsFrom = 999): ShownRun => ({ from, to, name, holdsFrom })
const column = (id: string, runs: readonly ShownRun[], more: Partial<SheetColumn> = {}): SheetColumn => ({ id, name: id, locked: false, selected: false, runs: (first, last) => runs.filter(({ from, to }) => to > first && from <= last), ...more })
const sceneOf = (fields: Partial<SheetScene> = {}): SheetScene => ({
  columns: [column('Tilda', [run(0, 4, '1'), run(4, 12, '2'), run(12, 48, null)], { selected: true }), column('Boat', [run(0, 48, '1', 24)]), column('Sky', [], { locked: true })],
  panels: [{ startFrame: 0, number: 1 }, { startFrame: 10, number: 2 }],
  cameras: [{ from: 0, to: 20, letter: 'A', tone: 0 }, { from: 20, to: 48, letter: 'B', tone: 1 }],
  sound: (first, last, parts) => new Float32Array((last - first + 1) * parts).fill(0.5),
  said: [{ from: 2, to: 9, who: 'Oskar', line: '“Mind the lamp.”' }],
  playhead: 5,
  span: null,
  typed: null,
  end: null,
  ...fields,
})
function drawn(scale: SheetScale, scene: SheetScene) {
  const canvas = noted()
  drawExposures(canvas.context, scale, scene, INK)
  // What it clipped and dimmed it gives back.
  expect([canvas.balance(), canvas.alpha()]).toEqual([0, 1])
  return canvas
}
const rowOf = (scale: SheetScale, frame: number) => yOfFrame(scale, frame) + ROW_PX / 2 + 1
const inColumn = ({ words }: { readonly words: readonly Word[] }, scale: SheetScale, at: number) => words.filter(({ x, y }) => x >= xOfColumn(scale, at) && x < xOfColumn(scale, at) + COLUMN_PX && y > HEAD_PX)

describe('the sheet', () => {
  it('writes each drawing at the frame that it begins at, in the middle of its level’s column', () => {
    const scale = scaleOf()
    const sheet = drawn(scale, sceneOf())
    expect(inColumn(sheet, scale, 0).map(({ text, y }) => [text, y])).toEqual([['1', rowOf(scale, 0)], ['2', rowOf(scale, 4)]])
    expect(inColumn(sheet, scale, 1).map(({ text }) => text)).toEqual(['1'])
    expect(inColumn(sheet, scale, 0).every(({ x, align }) => x === xOfColumn(scale, 0) + COLUMN_PX / 2 && align === 'center')).toBe(true)
    // From 12 on nothing is shown: a stroke, no words.
    expect(sheet.lines.map(([, y]) => y)).toEqual([rowOf(scale, 12) + 4])
  })

  it('draws a run as long as it is meant, and dots it where it only holds', () => {
    const scale = scaleOf({ columns: 1 })
    const { areas } = drawn(scale, sceneOf({ columns: [column('Boat', [run(0, 16, '1', 8)])] }))
    const middle = xOfColumn(scale, 0) + COLUMN_PX / 2 - 0.75
    const [meant, ...dots] = areas.filter(({ x, style, y }) => x === middle && style === 'quiet' && y >= HEAD_PX)
    expect([meant!.y, meant!.y + meant!.height]).toEqual([yOfFrame(scale, 1), yOfFrame(scale, 8) - 3])
    expect(dots.length).toBeGreaterThan(20)
    expect(dots.every(({ height, y }) => height === 2 && y >= yOfFrame(scale, 8) && y < yOfFrame(scale, 16))).toBe(true)
  })

  it('numbers the frames, panels’ first and every eighth boldly, and names panels and cameras', () => {
    const scale = scaleOf()
    const { words } = drawn(scale, sceneOf())
    const numbers = words.filter(({ x, text }) => x === 12 && /^\d+$/.test(text))
    const rows = rowsSeen(scale)
    expect([...new Set(numbers.map(({ text }) => Number(text)))].sort((a, b) => a - b)).toEqual(Array.from({ length: rows.last - rows.first + 1 }, (_, i) => i))
    expect(numbers.filter(({ font, style }) => font.startsWith('600') && style === 'ink').map(({ text }) => text).sort()).toEqual(['0', '10', '16', '8'])
    for (const { text, y } of numbers) expect(y).toBe(rowOf(scale, Number(text)))
    expect(words.filter(({ text }) => text.startsWith('p ')).map(({ text, y }) => [text, y])).toEqual([['p 1', rowOf(scale, 0)], ['p 2', rowOf(scale, 10)]])
    expect(words.filter(({ text }) => /^[AB]$/.test(text)).map(({ text }) => text)).toEqual(['A'])
    expect(words.map(({ text }) => text)).toEqual(expect.arrayContaining(['Frame', 'Camera', 'Sound', 'Said', 'Tilda', 'Sky, locked', 'Oskar', '“Mind the lamp.”']))
  })

  it('keeps a camera’s letter in view as long as its camera is', () => {
    const scale = scaleOf({ scrollTop: 12 * ROW_PX, heightPx: 300 })
    const letters = drawn(scale, sceneOf()).words.filter(({ text }) => /^[AB]$/.test(text))
    expect(letters.map(({ text, y }) => [text, y])).toEqual([['A', HEAD_PX + ROW_PX / 2 + 1], ['B', rowOf(scale, 20)]])
  })

  it('costs the same whatever the film’s length, and however many levels there are out of view', () => {
    const long = (frames: number, columns: number) => {
      const asked: string[] = []
      const many = Array.from({ length: columns }, (_, i) => ({ ...column(`L${i}`, []), runs: (first: number, last: number) => (asked.push(`L${i}`), Array.from({ length: last - first + 1 }, (_, at) => run(first + at, first + at + 1, '1'))) }))
      const scale = scaleOf({ frames, columns, scrollTop: Math.min(200 * ROW_PX, (frames - 30) * ROW_PX), scrollLeft: 2 * COLUMN_PX })
      return { calls: drawn(scale, sceneOf({ columns: many, said: [], cameras: [] })).calls(), asked: asked.length, seen: columnsSeen(scale) }
    }
    const [few, many] = [long(300, 12), long(10_000, 100)]
    expect(many.calls).toBe(few.calls)
    expect(many.asked).toBe(few.asked)
    expect(few.asked).toBe(few.seen.last - few.seen.first + 1)
  })

  it('shows what is chosen, what is being typed there, and where its end is taken hold of', () => {
    const scale = scaleOf()
    const scene = sceneOf({ span: { column: 0, from: 4, to: 8 }, typed: '3b', end: { column: 0, frame: 8 } })
    const { words, areas } = drawn(scale, scene)
    expect(areas).toContainEqual({ x: xOfColumn(scale, 0) + 1, y: yOfFrame(scale, 4), width: COLUMN_PX - 1, height: 4 * ROW_PX, style: 'blue' })
    expect(words.find(({ text }) => text === '3b|')).toMatchObject({ y: rowOf(scale, 4), style: 'blue' })
    const at = endHandle(scale, scene.end!)
    expect(hitSheet(scale, at.x, at.y, at)).toEqual({ kind: 'end' })
    expect(hitSheet(scale, xOfColumn(scale, 1) + 5, rowOf(scale, 7), at)).toEqual({ kind: 'cell', column: 1, frame: 7 })
  })

  it('marks the playhead’s row while that is in view, and not over its words', () => {
    const line = (scale: SheetScale, playhead: number) => drawn(scale, sceneOf({ playhead })).areas.filter(({ style, height }) => style === 'vermilion' && height === 1)
    const scale = scaleOf()
    expect(line(scale, 5)).toEqual([{ x: expect.any(Number), y: yOfFrame(scale, 5) + ROW_PX - 1, width: expect.any(Number), height: 1, style: 'vermilion' }])
    expect(line(scale, 40)).toEqual([])
    expect(line(scaleOf({ scrollTop: 20 * ROW_PX }), 5)).toEqual([])
  })

  it('breaks what is said into lines of its own room, three at most, and shortens a level’s long name', () => {
    const scale = scaleOf({ columns: 1, widthPx: 520 })
    const said = [{ from: 0, to: 40, who: '', line: 'mind the lamp and the tide and the kite and the boat and the reeds and every step along the boardwalk tonight until the light is lit' }]
    const { words } = drawn(scale, sceneOf({ said, columns: [column('A level with a very long name indeed', [])] }))
    const lines = words.filter(({ style }) => style === 'plum').map(({ text }) => text)
    expect(lines.length).toBe(3)
    expect(lines.at(-1)).toMatch(/…$/)
    const room = scale.widthPx - levelsRight(scale) - 84 - 16
    expect(lines.every((text) => text.length * 6 <= room + 6)).toBe(true)
    const name = words.find(({ text, y }) => y === HEAD_PX / 2 && text.startsWith('A level'))!.text
    expect(name).toMatch(/…$/)
    expect(name.length * 6).toBeLessThanOrEqual(COLUMN_PX - 18)
  })

  it('draws no level where there is none, and nothing of none', () => {
    const { words } = drawn(scaleOf({ columns: 0 }), sceneOf({ columns: [], panels: [], cameras: [], said: [] }))
    expect(words.some(({ x, y }) => x > LEFT_PX && y > HEAD_PX)).toBe(false)
  })
})
