import { drawingBounds } from '@rubato/core/ink'
import { orderOfNumber } from '@rubato/core/document'
import type { Drawing, Mark } from '@rubato/core/document'
import { describe, expect, it } from 'vitest'
import { ArtLibrary } from './artLibrary'
import { changedSince, PaintedRaster } from './artRaster'
import { INK, lookName, lookOf } from './looks'
import { boxOf, tilesOf, TILE_PX, type PixelGrid } from './pixelBox'

/** Fills are all these drawings have: there is no ink outliner's Path2D here. */
const area = (id: string, order: number, [left, bottom, right, top]: readonly [number, number, number, number], fields: Partial<Mark> = {}): Mark =>
  ({ id, order, kind: 'fill', mode: 'ink', outlines: [[left, bottom, right, bottom, right, top, left, top]], colour: '#27241e', opacity: 1, ...fields }) as Mark
const line = (id: string, order: number, points: number[]): Mark => ({ id, order: orderOfNumber(order), kind: 'stroke', mode: 'ink', points, widthFw: 0.01, colour: '#27241e', opacity: 1 })

class FakePath {
  moveTo() {}
  lineTo() {}
  quadraticCurveTo() {}
  closePath() {}
}
Object.assign(globalThis, { Path2D: FakePath })

/** A canvas that paints nothing and tells what it was asked. */
function telling(width: number, height: number) {
  const calls: string[] = []
  const canvas = { width, height, getContext: () => context } as unknown as OffscreenCanvas
  const context: object = new Proxy({} as Record<string, unknown>, {
    get: (_, name) => name === 'canvas' ? canvas : (...given: unknown[]) => {
      calls.push(String(name))
      if (name === 'getImageData') return { width: given[2], height: given[3] }
      return undefined
    },
    set: () => true,
  })
  return { canvas, context, calls, count: (name: string) => calls.filter((call) => call === name).length }
}
const aside = telling(1, 1)
Object.assign(globalThis, { OffscreenCanvas: function () { return Object.assign(aside.canvas, { getContext: () => aside.context }) } })
const GRID: PixelGrid = { widthPx: 1004, heightPx: 604, pxPerFw: 1000, left: -0.5, top: 0.3, padPx: 2 }
const room = { left: -0.5, top: 0.3 }

describe('the px of a mark', () => {
  it('are its box, with room for soft edges, cut at the raster', () => {
    expect(boxOf(area('a', 1, [-0.3995, 0.1005, -0.3005, 0.1995]), GRID)).toEqual({ left: 100, top: 100, right: 204, bottom: 204 })
    expect(boxOf(area('a', 1, [-2, -2, 2, 2]), GRID)).toEqual({ left: 0, top: 0, right: 1004, bottom: 604 })
    expect(boxOf(area('a', 1, [3, 3, 4, 4]), GRID)).toBeNull()
  })

  it('of a long diagonal are the tiles along it, few against its box', () => {
    const tiles = tilesOf(line('a', 1, [-0.49, -0.29, 0.5, 0.49, 0.29, 0.5]), GRID)
    const box = boxOf(line('a', 1, [-0.49, -0.29, 0.5, 0.49, 0.29, 0.5]), GRID)!
    const px = tiles.reduce((sum, tile) => sum + (tile.right - tile.left) * (tile.bottom - tile.top), 0)
    expect(px).toBeLessThan((box.right - box.left) * (box.bottom - box.top) * 0.5)
    for (const tile of tiles) expect(tile.right - tile.left).toBeLessThanOrEqual(TILE_PX)
    // Every point of it lies in one.
    for (let t = 0; t <= 1; t += 0.01) {
      const [x, y] = [12 + 980 * t, 2 + 1000 * (0.3 + 0.29 - 0.58 * t)]
      expect(tiles.some((tile) => x >= tile.left && x < tile.right && y >= tile.top && y < tile.bottom)).toBe(true)
    }
  })
})

describe('a raster that follows its drawing', () => {
  const three: Drawing = { marks: [area('a', 1, [-0.4, 0, -0.3, 0.1]), area('b', 2, [0.0005, 0.0005, 0.0995, 0.0995]), area('c', 3, [0.3, 0, 0.4, 0.1])] }
  const made = (drawing: Drawing) => {
    const told = telling(GRID.widthPx, GRID.heightPx)
    const raster = new PaintedRaster(told.canvas, drawing, room, 1000, () => null)
    raster.continue(() => 0, Infinity)
    told.calls.length = 0
    return { raster, ...told }
  }

  it('paints what was put on top and nothing else, and says which px changed', () => {
    const { raster, count } = made(three)
    const before = raster.version
    raster.follow({ marks: [...three.marks, area('d', 4, [-0.1, -0.1, 0, 0])] })
    expect(count('fill')).toBe(1)
    const boxes = changedSince(raster, before)!
    expect(Math.min(...boxes.map((box) => box.left))).toBe(400)
    expect(Math.max(...boxes.map((box) => box.bottom))).toBe(404)
  })

  it('takes it off again without painting at all', () => {
    const { raster, calls, count } = made(three)
    raster.follow({ marks: [...three.marks, area('d', 4, [-0.1, -0.1, 0, 0])] })
    calls.length = 0
    raster.follow(three)
    expect(count('fill')).toBe(0)
    expect(count('putImageData')).toBeGreaterThan(0)
  })

  it('paints anew only what a change below the top touches', () => {
    const { raster, count } = made(three)
    aside.calls.length = 0
    const before = raster.version
    raster.follow({ marks: [three.marks[0]!, three.marks[2]!] })
    // Neither of the others is near.
    expect(aside.count('fill')).toBe(0)
    expect(count('clearRect')).toBe(1)
    expect(changedSince(raster, before)).toEqual([{ left: 500, top: 200, right: 604, bottom: 304 }])
    raster.follow({ marks: [area('a2', 1, [-0.4, 0, -0.3, 0.1]), three.marks[2]!] })
    expect(aside.count('fill')).toBe(1)
    expect(count('fill')).toBe(0)
  })

  it('is the same version while its drawing is', () => {
    const { raster } = made(three)
    const { version } = raster
    raster.follow(three)
    raster.follow({ marks: [...three.marks] })
    expect(raster.version).toBe(version)
  })

  it('of thousands of marks is painted in slices, and a change waits for none of them', () => {
    const many: Drawing = { marks: Array.from({ length: 1000 }, (_, i) => area(`m${i}`, i + 1, [0, 0, 0.01, 0.01])) }
    const told = telling(GRID.widthPx, GRID.heightPx)
    let now = 0
    const raster = new PaintedRaster(told.canvas, many, room, 1000, () => null)
    expect(raster.continue(() => (now += 5), 8)).toBe(false)
    expect(raster.finished).toBe(false)
    expect(told.count('fill')).toBeLessThan(100)
    raster.follow({ marks: many.marks.slice(0, -1) })
    expect(raster.finished).toBe(true)
  })
})

describe('the library', () => {
  const library = () => {
    let made = 0
    return { art: new ArtLibrary(1000, () => null, { makeCanvas: (w, h) => (made++, telling(w, h).canvas) }), canvases: () => made }
  }
  const wide: Drawing = { marks: [area('a', 1, [-4, -2, 4, 2])] }

  it('keeps a drawing too large for a whole raster as a window onto what is seen', () => {
    const { art } = library()
    expect(art.fits(wide, 3)).toBe(false)
    const raster = art.raster('d', wide, 3, undefined, () => ({ left: 0, bottom: 0, right: 0.1, top: 0.05 }))!
    expect(raster.pxPerFw).toBe(8000)
    expect(raster.canvas.width).toBeLessThan(1400)
    expect(raster.left).toBeLessThanOrEqual(0)
    // Without being told what is seen, a coarser whole one.
    expect(art.raster('d', wide, 3)!.pxPerFw).toBeLessThan(8000)
  })

  it('keeps the window while what is seen lies in it, makes another when not, and none where nothing is', () => {
    const { art } = library()
    const at = (x: number) => art.raster('d', wide, 3, undefined, () => ({ left: x, bottom: 0, right: x + 0.1, top: 0.05 }))
    const first = at(0)
    expect(at(0.01)).toBe(first)
    expect(at(1)).not.toBe(first)
    expect(at(9)).toBeNull()
  })

  it('grows a raster that a stroke outgrows instead of painting all anew', () => {
    const { art } = library()
    const small: Drawing = { marks: [area('a', 1, [-0.1, -0.1, 0.1, 0.1])] }
    const first = art.raster('d', small, 0)!
    const grown = art.raster('d', { marks: [...small.marks, area('b', 2, [0.3, 0, 0.4, 0.1])] }, 0)!
    expect(grown).not.toBe(first)
    expect(grown.canvas.width).toBeGreaterThan(first.canvas.width)
    expect(art.made).toBe(1)
  })

  it('has looks by what they show: none at all is the ink itself', () => {
    expect(lookOf({ tint: { colour: '#c2452d', strength: 0 }, tone: { light: 0, colour: 1 } })).toBe(INK)
    expect(lookOf({ tint: null, tone: null })).toBe(INK)
    const names = [lookOf({ tint: null, tone: { light: 0.2, colour: 1 } }), lookOf({ tint: null, tone: { light: 0.2, colour: 0.5 } }), lookOf({ tint: { colour: '#c2452d', strength: 0.2 }, tone: null })].map(lookName)
    expect(new Set(names).size).toBe(3)
  })

  it('derives a tint from the ink, and follows it', () => {
    const { art } = library()
    const look = lookOf({ tint: { colour: '#c2452d', strength: 0.5 }, tone: { light: -0.2, colour: 1 } })
    const one: Drawing = { marks: [area('a', 1, [-0.1, -0.1, 0.1, 0.1])] }
    const tinted = art.raster('d', one, 0, look)!
    const { version } = tinted
    const again = art.raster('d', { marks: [...one.marks, area('b', 2, [0, 0, 0.05, 0.05])] }, 0, look)!
    expect(again).toBe(tinted)
    expect(again.version).not.toBe(version)
    expect(changedSince(again, version)!.length).toBeGreaterThan(0)
    expect(art.raster('d', one, 0)).not.toBe(tinted)
  })
})

describe('a drawing’s extent', () => {
  it('is found again for what grew and shrank, and erasing never adds', () => {
    const marks = [area('a', 1, [0, 0, 0.1, 0.1])]
    expect(drawingBounds({ marks })).toMatchObject({ left: 0, right: 0.1 })
    const more = [...marks, area('b', 2, [0.5, 0, 0.6, 0.1])]
    expect(drawingBounds({ marks: more })).toMatchObject({ left: 0, right: 0.6 })
    expect(drawingBounds({ marks: [...more, area('c', 3, [2, 2, 3, 3], { mode: 'erase' } as never)] })).toMatchObject({ right: 0.6 })
    expect(drawingBounds({ marks: [...marks] })).toMatchObject({ right: 0.1 })
    expect(drawingBounds({ marks: [] })).toBeNull()
  })
})
