/**
 * RGBA (opaque) to planar YUV 4:2:0, BT.709, limited range: 16–235 luma, 16–240 chroma, chroma from each 2×2 mean
 * (ITU-R BT.709-6, 3.2 and 3.3). Width and height are even. `out` has width·height·3/2 bytes.
 */
export function i420OfRgba(rgba: Uint8ClampedArray, width: number, height: number, out: Uint8Array): void {
  if (width % 2 !== 0 || height % 2 !== 0) throw new Error(`i420OfRgba: ${width} × ${height} is not even`)
  const pixels = new Uint32Array(rgba.buffer, rgba.byteOffset, width * height)
  const uStart = width * height
  const vStart = uStart + (width / 2) * (height / 2)
  let lastPixel = -1
  let lastLuma = 0
  let lastQuad = -1
  let lastU = 128
  let lastV = 128
  let chroma = 0
  for (let y = 0; y < height; y += 2) {
    const upper = y * width
    const lower = upper + width
    for (let x = 0; x < width; x += 2) {
      const a = pixels[upper + x]!
      const b = pixels[upper + x + 1]!
      const c = pixels[lower + x]!
      const d = pixels[lower + x + 1]!
      // Drawn frames are mostly flat, so a pixel like the one before is by far the commonest.
      if (a !== lastPixel) lastLuma = luma((lastPixel = a))
      out[upper + x] = lastLuma
      if (b !== lastPixel) lastLuma = luma((lastPixel = b))
      out[upper + x + 1] = lastLuma
      if (c !== lastPixel) lastLuma = luma((lastPixel = c))
      out[lower + x] = lastLuma
      if (d !== lastPixel) lastLuma = luma((lastPixel = d))
      out[lower + x + 1] = lastLuma
      if (a === b && a === c && a === d && a === lastQuad) {
        out[uStart + chroma] = lastU
        out[vStart + chroma] = lastV
      } else {
        const red = (a & 255) + (b & 255) + (c & 255) + (d & 255)
        const green = ((a >>> 8) & 255) + ((b >>> 8) & 255) + ((c >>> 8) & 255) + ((d >>> 8) & 255)
        const blue = ((a >>> 16) & 255) + ((b >>> 16) & 255) + ((c >>> 16) & 255) + ((d >>> 16) & 255)
        // 18 fractional bits: two of them divide the sum of four.
        lastU = (33685504 - red * 6596 - green * 22189 + blue * 28784 + 0) >> 18
        lastV = (33685504 + red * 28784 - green * 26145 - blue * 2639 + 0) >> 18
        out[uStart + chroma] = lastU
        out[vStart + chroma] = lastV
        lastQuad = a === b && a === c && a === d ? a : -1
      }
      chroma++
    }
  }
}

/** Luma of a little-endian RGBA pixel, 16 fractional bits. */
function luma(pixel: number): number {
  return (1081344 + (pixel & 255) * 11966 + ((pixel >>> 8) & 255) * 40254 + ((pixel >>> 16) & 255) * 4064) >> 16
}
