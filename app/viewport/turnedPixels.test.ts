import fc from 'fast-check'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import type { ArtRaster } from './artRaster'
import { artOfPx, boxSeen, SAMPLES, turnedPixels } from './turnedPixels'

/** Canvases of plain pixels: a raster and its halves, as the pyramid has them. */
interface Plain {
  readonly width: number
  readonly height: number
  readonly data: Uint8ClampedArray
}
vi.mock('./artRaster', () => ({ contextOf: (canvas: Plain) => ({ getImageData: () => ({ data: Uint8ClampedArray.from(canvas.data) }) }) }))
vi.mock('./mips', () => ({ mipsOf: ({ canvases }: { canvases: readonly Plain[] }) => canvases }))
beforeAll(() => {
  vi.stubGlobal(
    'ImageData',
    class {
      readonly data: Uint8ClampedArray
      constructor(
        readonly width: number,
        readonly height: number,
      ) {
        this.data = new Uint8ClampedArray(width * height * 4)
      }
    },
  )
})

type Rgba = readonly [number, number, number, number]
/** Straight colours at a place, from 0 to 1 along and down. */
function rasterOf(width: number, height: number, at: (x: number, y: number) => Rgba): ArtRaster {
  const canvases: Plain[] = []
  for (let [w, h] = [width, height]; ; [w, h] = [Math.max(1, w >> 1), Math.max(1, h >> 1)]) {
    const data = new Uint8ClampedArray(w * h * 4)
    for (let row = 0; row < h; row++) for (let column = 0; column < w; column++) data.set(at((column + 0.5) / w, (row + 0.5) / h), (row * w + column) * 4)
    canvases.push({ width: w, height: h, data })
    if (w === 1 && h === 1) break
  }
  return { canvas: canvases[0], canvases, version: 1 } as unknown as ArtRaster
}
type Corners = Parameters<typeof artOfPx>[0]
/** A level whose four corners are seen there, each times its distance: bottom left, then on around. */
const cornersOf = (points: readonly (readonly [x: number, y: number, w: number])[]) => points.map(([x, y, w]) => [x * w, y * w, w]) as unknown as Corners
const square = (left: number, top: number, right: number, bottom: number, w = 1) => cornersOf([[right, top, w], [right, bottom, w], [left, bottom, w], [left, top, w]])
/** As the compositor lists them: what stands at the art's right top, right bottom, left bottom, left top. */
const LEVEL = (raster: ArtRaster, corners: Corners, more: object = {}) => ({ raster, corners, opacity: 1, air: null, ...more }) as Parameters<typeof turnedPixels>[0]
const pixel = (image: ImageData, x: number, y: number) => [...image.data.slice((y * image.width + x) * 4, (y * image.width + x) * 4 + 4)]

describe('what a px of the canvas shows of turned art', () => {
  it('is carried back to where the art is: each corner to its own, whatever the turn', () => {
    const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
    fc.assert(
      fc.property(fc.tuple(number(0, 40), number(0, 40)), fc.tuple(number(60, 100), number(0, 40)), fc.tuple(number(0, 40), number(60, 100)), number(0.3, 3), number(0.3, 3), number(0.3, 3), (o, right, bottom, wo, wr, wb) => {
        // Of a plane the fourth corner is where the two ways from the first lead together.
        const far = [0, 1, 2].map((i) => [right[0] * wr, right[1] * wr, wr][i]! + [bottom[0] * wb, bottom[1] * wb, wb][i]! - [o[0] * wo, o[1] * wo, wo][i]!)
        fc.pre(far[2]! > 0.1)
        const corners = [[bottom[0] * wb, bottom[1] * wb, wb], far, [right[0] * wr, right[1] * wr, wr], [o[0] * wo, o[1] * wo, wo]] as unknown as Corners
        const back = artOfPx(corners)
        fc.pre(back !== null)
        const at = ([x, y, w]: readonly number[]) => {
          const [px, py] = [x! / w!, y! / w!]
          const z = back![6]! * px + back![7]! * py + back![8]!
          return [(back![0]! * px + back![1]! * py + back![2]!) / z, (back![3]! * px + back![4]! * py + back![5]!) / z, z * w!]
        }
        const found = (corners as unknown as number[][]).map(at)
        const wanted = [[0, 1], [1, 1], [1, 0], [0, 0]]
        found.forEach(([x, y, one], i) => {
          expect(x).toBeCloseTo(wanted[i]![0]!, 5)
          expect(y).toBeCloseTo(wanted[i]![1]!, 5)
          // What comes third is one by the distance.
          expect(one).toBeCloseTo(1, 5)
        })
      }),
      { numRuns: 200 },
    )
  })

  it('is nothing where the plane is seen edge-on', () => {
    const flat = cornersOf([[10, 5, 1], [20, 5, 1], [20, 5, 1], [10, 5, 1]])
    expect(artOfPx(flat)).toBeNull()
    const image = turnedPixels(LEVEL(rasterOf(4, 4, () => [9, 9, 9, 255]), flat), { left: 0, top: 0, right: 8, bottom: 8 }, [], 'exact')
    expect(image.data.every((value) => value === 0)).toBe(true)
  })

  it('lies in the box that its corners take up, and in all of the canvas where it goes past the lens', () => {
    const view = { widthPx: 100, heightPx: 50 } as Parameters<typeof boxSeen>[1]
    expect(boxSeen(square(10.4, 5.2, 30.6, 20.1), view)).toEqual({ left: 10, top: 5, right: 31, bottom: 21 })
    expect(boxSeen(square(-20, -20, 20, 20), view)).toEqual({ left: 0, top: 0, right: 20, bottom: 20 })
    expect(boxSeen(square(200, 5, 300, 20), view)).toBeNull()
    expect(boxSeen(cornersOf([[10, 5, 1], [20, 5, -1], [20, 9, 1], [10, 9, 1]]), view)).toEqual({ left: 0, top: 0, right: 100, bottom: 50 })
  })
})

describe('turned art as pixels', () => {
  const tones = rasterOf(16, 16, (x, y) => [Math.round(x * 255), Math.round(y * 255), 40, 255])
  /** The art's left top at the canvas's, one px on each. */
  const plain = [[0, 16, 1], [16, 16, 1], [16, 0, 1], [0, 0, 1]] as unknown as Corners
  const box = { left: 0, top: 0, right: 16, bottom: 16 }

  it('seen square on, a px of art on each of the canvas, is the art itself', () => {
    for (const resampling of ['exact', 'fast'] as const) {
      const image = turnedPixels(LEVEL(tones, plain), box, [], resampling)
      for (const [x, y] of [[0, 0], [5, 3], [15, 15], [8, 12]] as const) {
        const [r, g, b, a] = pixel(image, x, y)
        expect(Math.abs(r! - ((x + 0.5) / 16) * 255)).toBeLessThanOrEqual(1)
        expect(Math.abs(g! - ((y + 0.5) / 16) * 255)).toBeLessThanOrEqual(1)
        expect([b, a]).toEqual([40, 255])
      }
    }
  })

  it('of one tone has that tone everywhere that it is seen, however it is turned, and nothing beyond', () => {
    const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
    const one = rasterOf(32, 32, () => [200, 100, 50, 255])
    fc.assert(
      fc.property(number(2, 12), number(2, 12), number(20, 30), number(20, 30), number(0.5, 2), number(0.5, 2), fc.constantFrom('exact' as const, 'fast' as const), (left, top, right, bottom, wr, wb, resampling) => {
        const o = [left, top, 1]
        const r = [right * wr, top * wr, wr]
        const b = [left * wb, bottom * wb, wb]
        const far = [0, 1, 2].map((i) => r[i]! + b[i]! - o[i]!)
        fc.pre(far[2]! > 0.1)
        const image = turnedPixels(LEVEL(one, [b, far, r, o] as unknown as Corners, { opacity: 0.5 }), { left: 0, top: 0, right: 48, bottom: 48 }, [], resampling)
        let seen = 0
        for (let i = 0; i < image.data.length; i += 4) {
          if (image.data[i + 3] === 0) continue
          seen++
          expect([...image.data.slice(i, i + 3)].every((value, channel) => Math.abs(value - [200, 100, 50][channel]!) <= 1)).toBe(true)
          expect(Math.abs(image.data[i + 3]! - 127.5)).toBeLessThanOrEqual(1)
        }
        expect(seen).toBeGreaterThan(0)
        // Left of and over its corner there is none of it.
        for (let y = 0; y < Math.floor(top) - 1; y++) for (let x = 0; x < Math.floor(left) - 1; x++) expect(pixel(image, x, y)[3]).toBe(0)
      }),
      { numRuns: 60 },
    )
  })

  it('does not grow darker or lighter where it is seen small: fine stripes become their mean', () => {
    const stripes = rasterOf(256, 256, (x) => (Math.floor(x * 256) % 2 === 0 ? [255, 255, 255, 255] : [0, 0, 0, 255]))
    // The pyramid's own halves, as they are made: means of four.
    const canvases = (stripes as unknown as { canvases: Plain[] }).canvases
    for (let i = 1; i < canvases.length; i++) canvases[i]!.data.forEach((_, at) => (canvases[i]!.data[at] = at % 4 === 3 ? 255 : 128))
    const image = turnedPixels(LEVEL(stripes, [[0, 16, 1], [16, 16, 1], [16, 0, 1], [0, 0, 1]] as unknown as Corners), box, [], 'exact')
    for (const at of [2, 7, 13]) expect(Math.abs(pixel(image, at, at)[0]! - 128)).toBeLessThanOrEqual(2)
  })

  it('stays sharp across while it blurs along', () => {
    // As many px of art along as samples are taken, one across: rows of it are one tone each.
    const rows = rasterOf(16 * SAMPLES, 16, (_, y) => (Math.floor(y * 16) % 2 === 0 ? [255, 255, 255, 255] : [0, 0, 0, 255]))
    const canvases = (rows as unknown as { canvases: Plain[] }).canvases
    for (let i = 1; i < canvases.length; i++) canvases[i]!.data.forEach((_, at) => (canvases[i]!.data[at] = at % 4 === 3 ? 255 : 128))
    const contrast = (resampling: 'exact' | 'fast') => {
      const image = turnedPixels(LEVEL(rows, plain), box, [], resampling)
      return Math.abs(pixel(image, 8, 4)[0]! - pixel(image, 8, 5)[0]!)
    }
    expect(contrast('exact')).toBeGreaterThan(90)
    expect(contrast('fast')).toBeLessThan(contrast('exact'))
  })

  it('is only what of it is not cut away', () => {
    const one = rasterOf(8, 8, () => [0, 0, 0, 255])
    const half = turnedPixels(LEVEL(one, plain), box, [{ a: -1, b: 0, c: 16, before: true }], 'fast')
    expect([pixel(half, 3, 5)[3], pixel(half, 12, 5)[3]]).toEqual([255, 0])
  })

  it('is what all samples of all its pixels would be, though few are taken', () => {
    // Large patches, a hatching in a third of them, and nothing in a third.
    const art = rasterOf(200, 160, (x, y) => {
      const patch = (Math.floor(x * 4) + 2 * Math.floor(y * 3)) % 3
      return patch === 0 ? [0, 0, 0, 0] : patch === 1 ? [180, 90, 30, 255] : (Math.floor(x * 200) + Math.floor(y * 160)) % 7 < 3 ? [20, 20, 60, 255] : [240, 230, 200, 128]
    })
    const whole = { left: 0, top: 0, right: 90, bottom: 70 }
    const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
    let samplesSaved = 0
    fc.assert(
      fc.property(number(-20, 20), number(-20, 20), number(70, 120), number(50, 90), number(0.6, 1.6), number(0.6, 1.6), (left, top, right, bottom, wr, wb) => {
        const [o, r, b] = [[left, top, 1], [right * wr, top * wr, wr], [left * wb, bottom * wb, wb]]
        const far = [0, 1, 2].map((i) => r[i]! + b[i]! - o[i]!)
        fc.pre(far[2]! > 0.3)
        const corners = [b, far, r, o] as unknown as Corners
        const made = turnedPixels(LEVEL(art, corners), whole, [], 'exact')
        const wanted = ofAllSamples(art, corners, whole)
        let most = 0
        for (let i = 0; i < made.data.length; i += 4) {
          if (made.data[i + 3] === 255 && made.data[i] === 180) samplesSaved++
          // Of what is all but clear, rounding leaves no colour to speak of.
          for (let channel = 0; channel < 4; channel++) most = Math.max(most, Math.abs((made.data[i + channel]! * made.data[i + 3]!) / 255 - (wanted.data[i + channel]! * wanted.data[i + 3]!) / 255))
        }
        expect(most).toBeLessThanOrEqual(8)
      }),
      { numRuns: 20 },
    )
    expect(samplesSaved).toBeGreaterThan(1000)
  })
})

/** As the graphics card would with no eye to time: SAMPLES of them for each pixel, of the art's halves on either side. */
function ofAllSamples(art: ArtRaster, corners: Corners, box: { readonly right: number; readonly bottom: number }): { readonly data: Float64Array } {
  const { canvases } = art as unknown as { canvases: Plain[] }
  const [{ width, height }, back, data] = [canvases[0]!, artOfPx(corners)!, new Float64Array(4 * box.right * box.bottom)]
  const texel = ({ width: w, height: h, data: from }: Plain, x: number, y: number, channel: number) => {
    const i = 4 * (Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x)))
    return channel === 3 ? from[i + 3]! : (from[i + channel]! * from[i + 3]!) / 255
  }
  const bilinear = (of: Plain, x: number, y: number, channel: number) => {
    const [px, py] = [x * of.width - 0.5, y * of.height - 0.5]
    const [l, t] = [Math.floor(px), Math.floor(py)]
    const row = (dy: number) => texel(of, l, t + dy, channel) * (1 - px + l) + texel(of, l + 1, t + dy, channel) * (px - l)
    return row(0) * (1 - py + t) + row(1) * (py - t)
  }
  for (let j = 0; j < box.bottom; j++) {
    for (let i = 0; i < box.right; i++) {
      const [X, Y, z] = [0, 1, 2].map((row) => back[3 * row]! * (i + 0.5) + back[3 * row + 1]! * (j + 0.5) + back[3 * row + 2]!) as [number, number, number]
      const [x, y] = [X / z, Y / z]
      if (z <= 0 || x < 0 || x > 1 || y < 0 || y > 1) continue
      const slope = (axis: 0 | 1) => [((back[axis]! - x * back[6 + axis]!) / z) * width, ((back[3 + axis]! - y * back[6 + axis]!) / z) * height] as const
      const [[xx, yx], [xy, yy]] = [slope(0), slope(1)]
      const [e, f, g] = [xx * xx + xy * xy, xx * yx + xy * yy, yx * yx + yy * yy]
      const off = Math.hypot((e - g) / 2, f)
      const [long, short] = [Math.sqrt((e + g) / 2 + off), Math.sqrt(Math.max(0, (e + g) / 2 - off))]
      const wide = Math.max(1, long / SAMPLES, short)
      const angle = Math.atan2(2 * f, e - g) / 2
      const lod = Math.min(canvases.length - 1, Math.log2(wide))
      for (let channel = 0; channel < 4; channel++) {
        let sum = 0
        for (let n = 0; n < SAMPLES; n++) {
          const along = (n / (SAMPLES - 1) - 0.5) * Math.max(0, long - wide)
          const [u, v] = [x + (Math.cos(angle) * along) / width, y + (Math.sin(angle) * along) / height]
          for (const [mip, share] of [[Math.floor(lod), 1 - lod + Math.floor(lod)], [Math.floor(lod) + 1, lod - Math.floor(lod)]] as const) if (share > 0) sum += (bilinear(canvases[mip]!, u, v, channel) * share) / SAMPLES
        }
        data[4 * (j * box.right + i) + channel] = sum
      }
      const at = 4 * (j * box.right + i)
      if (data[at + 3]! > 0) for (let channel = 0; channel < 3; channel++) data[at + channel] = (data[at + channel]! * 255) / data[at + 3]!
    }
  }
  return { data }
}
