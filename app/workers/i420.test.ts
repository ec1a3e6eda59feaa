import { describe, expect, it } from 'vitest'
import { i420OfRgba } from './i420'

function convert(pixels: readonly (readonly [number, number, number])[], width: number, height: number) {
  const rgba = new Uint8ClampedArray(pixels.flatMap(([r, g, b]) => [r, g, b, 255]))
  const out = new Uint8Array((width * height * 3) / 2)
  i420OfRgba(rgba, width, height, out)
  return [...out]
}
const four = (colour: readonly [number, number, number]) => convert([colour, colour, colour, colour], 2, 2)

describe('BT.709 in limited range', () => {
  it('puts black at 16, white at 235, and grey between without colour', () => {
    expect(four([0, 0, 0])).toEqual([16, 16, 16, 16, 128, 128])
    expect(four([255, 255, 255])).toEqual([235, 235, 235, 235, 128, 128])
    expect(four([128, 128, 128])).toEqual([126, 126, 126, 126, 128, 128])
  })

  it('gives primaries their places', () => {
    // Y = 16 + 219·(0.2126, 0.7152, 0.0722); C = 128 ± 112 and their shares.
    expect(four([255, 0, 0])).toEqual([63, 63, 63, 63, 102, 240])
    expect(four([0, 255, 0])).toEqual([173, 173, 173, 173, 42, 26])
    expect(four([0, 0, 255])).toEqual([32, 32, 32, 32, 240, 118])
  })

  it('takes chroma from the mean of four', () => {
    const mixed = convert([[255, 0, 0], [0, 0, 255], [255, 0, 0], [0, 0, 255]], 2, 2)
    expect(mixed.slice(0, 4)).toEqual([63, 32, 63, 32])
    expect(mixed.slice(4)).toEqual([171, 179])
  })

  it('refuses odd sizes', () => {
    expect(() => convert([[0, 0, 0]], 1, 1)).toThrow('not even')
  })
})
