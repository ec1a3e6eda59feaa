/**
 * RGBA (opaque) to planar YUV 4:2:0, BT.709, limited range: 16–235 luma, 16–240 chroma, chroma from each 2×2 mean
 * (ITU-R BT.709-6, 3.2 and 3.3). Width and height are even. `out` has width·height·3/2 bytes.
 */
export function i420OfRgba(rgba: Uint8ClampedArray, width: number, height: number, out: Uint8Array): void {
  if (width % 2 !== 0 || height % 2 !== 0) throw new Error(`i420OfRgba: ${width} × ${height} is not even`)
  // Signed words: unsigned ones above 2³¹ would be computed as floating-point numbers.
  const pixels = new Int32Array(rgba.buffer, rgba.byteOffset, width * height)
  const uStart = width * height
  const vStart = uStart + (width / 2) * (height / 2)
  let flatPixel = 0
  let flatLuma = 16
  let flatU = 128
  let flatV = 128
  let chroma = 0
  for (let y = 0; y < height; y += 2) {
    const upper = y * width
    const lower = upper + width
    for (let x = 0; x < width; x += 2) {
      const a = pixels[upper + x]!
      const b = pixels[upper + x + 1]!
      const c = pixels[lower + x]!
      const d = pixels[lower + x + 1]!
      // Drawn frames are mostly flat: four alike, and like the last such four, is by far the commonest.
      if (a === b && a === c && a === d) {
        if (a !== flatPixel) {
          flatPixel = a
          flatLuma = luma(a)
          const red = (a & 255) << 2
          const green = ((a >> 8) & 255) << 2
          const blue = ((a >> 16) & 255) << 2
          flatU = (HALF - red * 6596 - green * 22189 + blue * 28784) >> 18
          flatV = (HALF + red * 28784 - green * 26145 - blue * 2639) >> 18
        }
        out[upper + x] = flatLuma
        out[upper + x + 1] = flatLuma
        out[lower + x] = flatLuma
        out[lower + x + 1] = flatLuma
        out[uStart + chroma] = flatU
        out[vStart + chroma] = flatV
      } else {
        out[upper + x] = luma(a)
        out[upper + x + 1] = luma(b)
        out[lower + x] = luma(c)
        out[lower + x + 1] = luma(d)
        const red = (a & 255) + (b & 255) + (c & 255) + (d & 255)
        const green = ((a >> 8) & 255) + ((b >> 8) & 255) + ((c >> 8) & 255) + ((d >> 8) & 255)
        const blue = ((a >> 16) & 255) + ((b >> 16) & 255) + ((c >> 16) & 255) + ((d >> 16) & 255)
        out[uStart + chroma] = (HALF - red * 6596 - green * 22189 + blue * 28784) >> 18
        out[vStart + chroma] = (HALF + red * 28784 - green * 26145 - blue * 2639) >> 18
      }
      chroma++
    }
  }
}

/** 128.5 with 18 fractional bits, two of which divide the sum of four pixels. */
const HALF = 33_685_504

/** Luma of a little-endian RGBA pixel, 16 fractional bits. */
function luma(pixel: number): number {
  return (1081344 + (pixel & 255) * 11966 + ((pixel >> 8) & 255) * 40254 + ((pixel >> 16) & 255) * 4064) >> 16
}
