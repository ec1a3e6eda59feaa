import { applyAffine } from '@rubato/core/ink'
import { describe, expect, it } from 'vitest'
import { createShown } from './compositor'
import { composed, type ComposedLevel } from './composition'
import { drawingSheet, ghostsAround, onlyLevels, plannedGhosts } from './sheet'
import { inverseOf, pxOfFrame, turnOf, wholeFrame, type ViewBox } from './viewBox'

const canvas = { width: 8, height: 8, getContext: () => new Proxy({}, { get: () => () => undefined, set: () => true }) } as unknown as OffscreenCanvas
Object.assign(globalThis, { OffscreenCanvas: function () { return canvas } })

const VIEW = wholeFrame(640, 360)
let versions = 1
const CORNERS = [[50, 150, 1], [150, 150, 1], [150, 50, 1], [50, 50, 1]] as const
const level = (id: string, fields: Partial<ComposedLevel> = {}): ComposedLevel => ({
  levelId: id,
  raster: { canvas: { width: 100, height: 100 } as never, version: versions++, pxPerFw: 640, left: 0, top: 0, changes: [] },
  opacity: 1,
  affine: [1, 0, 0, 1, 50, 50],
  corners: CORNERS,
  reach: CORNERS,
  part: null,
  air: null,
  ...fields,
})
const names = (levels: readonly ComposedLevel[]) => levels.map((each) => each.levelId)

describe('the sheet to draw on', () => {
  const picture = composed(VIEW, [level('sky'), level('tilda'), level('reeds')])
  const ghost = level('tilda')

  it('has the level that is drawn on above all, over ghosts and the fading paper', () => {
    const sheet = drawingSheet(picture, 'tilda', 0.5, [{ ...ghost, levelId: 'ghost' }])
    expect(names(sheet.levels)).toEqual(['sky', 'reeds', 'veil', 'ghost', 'tilda'])
    expect(sheet.levels[2]!.opacity).toBe(0.5)
    // The veil covers the whole view.
    const [bottomLeft, , topRight] = sheet.levels[2]!.corners
    expect(bottomLeft![0]).toBeLessThan(0)
    expect(topRight![0]).toBeGreaterThan(640)
  })

  it('without fading keeps the picture’s order, ghosts right under the level', () => {
    expect(names(drawingSheet(picture, 'tilda', 0, [{ ...ghost, levelId: 'ghost' }]).levels)).toEqual(['sky', 'ghost', 'tilda', 'reeds'])
    expect(drawingSheet(picture, 'tilda', 0, [])).toBe(picture)
  })

  it('is another picture than without the level', () => {
    const without = onlyLevels(picture, (each) => each.levelId !== 'tilda')
    expect(names(without.levels)).toEqual(['sky', 'reeds'])
    expect(without.signature).not.toEqual(picture.signature)
  })
})

describe('ghosts', () => {
  const plan = (panelIndex: number, before: number, after: number, halfway = false) => plannedGhosts({ panelIndex }, 5, { before, after, strength: 0.5, halfway }).map(({ panelIndex: at, side, strength }) => [at, side, Number(strength.toFixed(2))])

  it('are fainter the farther off, farthest first, and end with the shot', () => {
    expect(plan(2, 2, 1)).toEqual([[0, 'before', 0.3], [1, 'before', 0.5], [3, 'after', 0.5]])
    expect(plan(0, 3, 0)).toEqual([])
    expect(plan(4, 0, 3)).toEqual([])
  })

  it('halfway are both neighbours at half strength, whatever else is set', () => {
    expect(plannedGhosts({ panelIndex: 2 }, 5, { before: 0, after: 3, strength: 0.9, halfway: true })).toEqual([{ panelIndex: 1, side: 'before', strength: 0.5 }, { panelIndex: 3, side: 'after', strength: 0.5 }])
  })

  it('of a level’s own exposures: the nearest on each side, none twice, none that shows, none of nothing', () => {
    const runs = [...'abac.dd'].map((letter) => ({ drawingId: letter === '.' ? null : letter }))
    const told = (at: number, before: number, after: number, halfway = false) => ghostsAround(runs, at, { before, after, strength: 0.5, halfway }).map(({ drawingId, side, strength }) => `${drawingId} ${side} ${strength.toFixed(2)}`)
    expect(told(2, 1, 1)).toEqual(['c after 0.50', 'b before 0.50'])
    // The farthest come first, to lie under the others.
    expect(told(3, 2, 2)).toEqual(['d after 0.50', 'b before 0.30', 'a before 0.50'])
    expect(told(0, 3, 0)).toEqual([])
    expect(told(4, 1, 1, true)).toEqual(['c before 0.50', 'd after 0.50'].sort().reverse())
  })
})

describe('a canvas that shows a composition', () => {
  const WHITE = { frame: '#ffffff', surround: null }

  it('is drawn whole at first, then not at all while nothing changes', () => {
    const shown = createShown()
    const picture = composed(VIEW, [level('a')])
    expect(shown.replacedBy(picture, WHITE, 'exact')).toEqual({ repaint: 'all', as: 'exact' })
    expect(shown.replacedBy(picture, WHITE, 'exact').repaint).toBe('nothing')
    expect(shown.replacedBy(picture, WHITE, 'fast').repaint).toBe('nothing')
  })

  it('is mended only where a raster changed, as exactly as it was drawn', () => {
    const shown = createShown()
    const one = level('a')
    const raster = one.raster as unknown as { version: number; changes: unknown[] }
    shown.replacedBy(composed(VIEW, [one]), WHITE, 'exact')
    const from = raster.version
    raster.version = versions++
    raster.changes = [{ from, to: raster.version, boxes: [{ left: 10, top: 10, right: 20, bottom: 20 }] }]
    expect(shown.replacedBy(composed(VIEW, [one]), WHITE, 'fast')).toEqual({ repaint: [{ left: 57, top: 57, right: 73, bottom: 73 }], as: 'exact' })
    expect(shown.replacedBy(composed(VIEW, [one]), WHITE, 'exact').repaint).toBe('nothing')
  })

  it('is drawn whole where a level moved, came, went, or changed in unknown ways', () => {
    const shown = createShown()
    const one = level('a')
    const first = composed(VIEW, [one])
    const all = (next: ReturnType<typeof composed>) => {
      shown.replacedBy(first, WHITE, 'exact')
      return shown.replacedBy(next, WHITE, 'exact').repaint
    }
    expect(all(composed(VIEW, [{ ...one, corners: one.corners.map(([x, y, w]) => [x + 1, y, w] as const) }]))).toBe('all')
    expect(all(composed(VIEW, []))).toBe('all')
    expect(all(composed(VIEW, [{ ...one, raster: level('a').raster }]))).toBe('all')
    ;(one.raster as { version: number }).version = versions++
    expect(all(composed(VIEW, [one]))).toBe('nothing')
  })
})

describe('a turned and flipped view', () => {
  const view: ViewBox = { widthPx: 640, heightPx: 360, frameLeftPx: 100, frameTopPx: 60, frameWidthPx: 400, turnDegrees: 30, flipped: true }

  it('turns clockwise about its middle, after it was flipped', () => {
    const quarter = turnOf({ ...wholeFrame(640, 360), turnDegrees: 90 })!
    const { x, y } = applyAffine(quarter, { x: 420, y: 180 })
    expect([x, y]).toEqual([expect.closeTo(320, 9), expect.closeTo(280, 9)])
    const flipped = turnOf({ ...wholeFrame(640, 360), flipped: true })!
    expect(applyAffine(flipped, { x: 0, y: 10 })).toEqual({ x: 640, y: 10 })
    expect(turnOf(wholeFrame(640, 360))).toBeNull()
  })

  it('has a way back to every place of the frame', () => {
    const there = pxOfFrame(view, 0.28125)
    const back = inverseOf(there)!
    for (const [u, v] of [[0, 0], [0.5, 0.2], [-0.3, -0.28]] as const) {
      const again = applyAffine(back, applyAffine(there, { x: u, y: v }))
      expect([again.x, again.y]).toEqual([expect.closeTo(u, 12), expect.closeTo(v, 12)])
    }
    expect(inverseOf({ a: 0, b: 0, c: 0, d: 0, e: 1, f: 1 })).toBeNull()
  })
})
