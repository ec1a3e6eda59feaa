import type { PictureType } from '#shared/assets'

export interface PictureHeader {
  readonly type: Exclude<PictureType, 'image/svg+xml'>
  readonly widthPx: number
  readonly heightPx: number
}

/** Reads type and size from a picture's first bytes. Null where they are not a PNG's, JPEG's or WebP's. */
export function pictureHeader(head: Buffer): PictureHeader | null {
  return pngHeader(head) ?? jpegHeader(head) ?? webpHeader(head)
}

function pngHeader(head: Buffer): PictureHeader | null {
  if (head.length < 24 || !head.subarray(0, 8).equals(Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]))) return null
  if (head.toString('latin1', 12, 16) !== 'IHDR') return null
  return { type: 'image/png', widthPx: head.readUInt32BE(16), heightPx: head.readUInt32BE(20) }
}

function jpegHeader(head: Buffer): PictureHeader | null {
  if (head.length < 4 || head[0] !== 0xff || head[1] !== 0xd8) return null
  let at = 2
  let lying = false
  while (at + 9 < head.length) {
    if (head[at] !== 0xff) return null
    const marker = head[at + 1]!
    if (marker === 0xff) {
      at += 1
      continue
    }
    // SOF0…SOF15 but for DHT, JPG and DAC.
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) {
      const [heightPx, widthPx] = [head.readUInt16BE(at + 5), head.readUInt16BE(at + 7)]
      return lying ? { type: 'image/jpeg', widthPx: heightPx, heightPx: widthPx } : { type: 'image/jpeg', widthPx, heightPx }
    }
    if (marker === 0xe1) lying = liesOnItsSide(head.subarray(at + 4, at + 2 + head.readUInt16BE(at + 2)))
    at += marker === 0x01 || (marker >= 0xd0 && marker <= 0xd9) ? 2 : 2 + head.readUInt16BE(at + 2)
  }
  return null
}

/** A camera's note (Exif, tag 0x0112) that the picture is to be turned by a quarter before it is shown, as browsers do. */
function liesOnItsSide(segment: Buffer): boolean {
  if (segment.length < 18 || segment.toString('latin1', 0, 6) !== 'Exif\0\0') return false
  const tiff = segment.subarray(6)
  const little = tiff.toString('latin1', 0, 2) === 'II'
  const short = (at: number) => (at + 2 > tiff.length ? 0 : little ? tiff.readUInt16LE(at) : tiff.readUInt16BE(at))
  const first = little ? tiff.readUInt32LE(4) : tiff.readUInt32BE(4)
  for (let i = 0; i < short(first); i++) {
    const at = first + 2 + i * 12
    if (short(at) === 0x0112) return short(at + 8) >= 5
  }
  return false
}

function webpHeader(head: Buffer): PictureHeader | null {
  if (head.length < 30 || head.toString('latin1', 0, 4) !== 'RIFF' || head.toString('latin1', 8, 12) !== 'WEBP') return null
  const chunk = head.toString('latin1', 12, 16)
  if (chunk === 'VP8X') return { type: 'image/webp', widthPx: head.readUIntLE(24, 3) + 1, heightPx: head.readUIntLE(27, 3) + 1 }
  if (chunk === 'VP8 ') return { type: 'image/webp', widthPx: head.readUInt16LE(26) & 0x3fff, heightPx: head.readUInt16LE(28) & 0x3fff }
  if (chunk !== 'VP8L') return null
  const bits = head.readUInt32LE(21)
  return { type: 'image/webp', widthPx: (bits & 0x3fff) + 1, heightPx: ((bits >>> 14) & 0x3fff) + 1 }
}
