import { describe, expect, it } from 'vitest'
import { findArea, outlinesOf } from './areaOutlines'

/** RGBA pixels with black rings; `gap` px are open at the right of each. */
function rings(size: number, radii: readonly number[], gap = 0): ArrayBuffer {
  const pixels = new Uint8ClampedArray(size * size * 4)
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const [dx, dy] = [x - size / 2, y - size / 2]
      if (radii.some((r) => Math.abs(Math.hypot(dx, dy) - r) < 1.5) && !(dx > 0 && Math.abs(dy) < gap / 2)) pixels[(y * size + x) * 4 + 3] = 255
    }
  }
  return pixels.buffer
}
const area = (outlines: readonly (readonly number[])[]) =>
  Math.abs(outlines.reduce((sum, outline) => {
    let twice = 0
    for (let i = 0; i < outline.length; i += 2) twice += outline[i]! * outline[(i + 3) % outline.length]! - outline[(i + 2) % outline.length]! * outline[i + 1]!
    return sum + twice / 2
  }, 0))
const fill = (pixels: ArrayBuffer, size: number, xPx: number, gapPx: number) => findArea({ kind: 'fill', pixels, widthPx: size, heightPx: size, xPx, yPx: size / 2, gapPx, tolerance: 60 })

describe('a filled area', () => {
  it('has the outline of what encloses it, reaching under the line', () => {
    const found = fill(rings(200, [60]), 200, 100, 6)
    if (found.kind !== 'found') throw new Error(found.kind)
    expect(found.outlines).toHaveLength(1)
    expect(area(found.outlines) / (Math.PI * 60.5 ** 2)).toBeCloseTo(1, 1)
  })

  it('between two rings has a hole', () => {
    const found = fill(rings(200, [40, 80]), 200, 160, 0)
    if (found.kind !== 'found') throw new Error(found.kind)
    expect(found.outlines).toHaveLength(2)
    expect(area(found.outlines)).toBeGreaterThan(Math.PI * (78 ** 2 - 42 ** 2) * 0.97)
    expect(area(found.outlines)).toBeLessThan(Math.PI * (82 ** 2 - 38 ** 2) * 1.03)
  })

  it('in an open ring is held by closing the gap, and else told where it runs out', () => {
    expect(fill(rings(200, [60], 9), 200, 100, 3)).toMatchObject({ kind: 'refused', refusal: { code: 'runs-out' } })
    expect(fill(rings(200, [60], 9), 200, 100, 12).kind).toBe('found')
  })

  it('stays in a tone that is there already: white on the level is no line, another tone is', () => {
    const pixels = rings(200, [60])
    const view = new Uint8ClampedArray(pixels)
    // A white backing with a grey left half.
    for (let y = 0; y < 200; y++) {
      for (let x = 0; x < 200; x++) {
        const i = (y * 200 + x) * 4
        if (Math.hypot(x - 100, y - 100) > 58 || view[i + 3] === 255) continue
        view.set(x < 100 ? [128, 128, 128, 255] : [255, 255, 255, 255], i)
      }
    }
    const right = fill(pixels, 200, 130, 0)
    if (right.kind !== 'found') throw new Error(right.kind)
    // Half the disc, and two px under the line and the tone beside it.
    expect(area(right.outlines)).toBeGreaterThan((Math.PI * 58 ** 2) / 2)
    expect(area(right.outlines)).toBeLessThan((Math.PI * 62 ** 2) / 2 + 2 * 124)
  })
})

describe('the back of a figure', () => {
  const back = (pixels: ArrayBuffer, size: number) => findArea({ kind: 'back', pixels, widthPx: size, heightPx: size, gapPx: 4 })

  it('is its whole silhouette though the outline is open, in the place of the figure', () => {
    const found = back(rings(200, [60], 14), 200)
    if (found.kind !== 'found') throw new Error(found.kind)
    expect(area(found.outlines) / (Math.PI * 61.5 ** 2)).toBeCloseTo(1, 1)
    const xs = found.outlines.flatMap((outline) => outline.filter((_, i) => i % 2 === 0))
    // The ring is drawn about the middle of px 100.
    expect((Math.min(...xs) + Math.max(...xs)) / 2).toBeCloseTo(100.5, 5)
  })

  it('reaches to the edge where the figure does', () => {
    const found = back(rings(130, [62]), 130)
    if (found.kind !== 'found') throw new Error(found.kind)
    expect(area(found.outlines) / (Math.PI * 63.5 ** 2)).toBeCloseTo(1, 1)
  })

  it('is refused where nothing is drawn', () => {
    expect(back(new ArrayBuffer(50 * 50 * 4), 50)).toEqual({ kind: 'refused', refusal: { code: 'no-ink' } })
  })
})

describe('outlines', () => {
  it('leave out specks', () => {
    const cells = new Uint8Array(100)
    cells[55] = 1
    expect(outlinesOf({ widthPx: 10, heightPx: 10, cells })).toEqual([])
    expect(outlinesOf({ widthPx: 10, heightPx: 10, cells: new Uint8Array(100) })).toEqual([])
  })
})
