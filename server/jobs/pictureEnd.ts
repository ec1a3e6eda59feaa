import type { PictureHeader } from './pictureHeader'

/** Where a picture ends in its file; what comes after it is cut off where cameras are known to put it there. */
export function pictureEnd(file: Buffer, type: PictureHeader['type']): number | 'truncated' | 'hides' {
  const end = { 'image/png': pngEnd, 'image/jpeg': jpegEnd, 'image/webp': webpEnd }[type](file)
  if (end === null) return 'truncated'
  return end === file.length || isTrailer(file.subarray(end)) ? end : 'hides'
}

/** The chunks, up to IEND. */
function pngEnd(file: Buffer): number | null {
  for (let at = 8; at + 12 <= file.length; ) {
    const end = at + 12 + file.readUInt32BE(at)
    if (end > file.length) return null
    if (file.toString('latin1', at + 4, at + 8) === 'IEND') return end
    at = end
  }
  return null
}

/** Segments and scans (ITU-T T.81, annex B): in a scan 0xFF is followed by 0 or a restart, else a marker comes. */
function jpegEnd(file: Buffer): number | null {
  let at = 2
  let scanned = false
  while (at + 1 < file.length) {
    if (file[at] !== 0xff) return null
    const marker = file[at + 1]!
    if (marker === 0xff) {
      at++
      continue
    }
    if (marker === 0xd9) return scanned ? at + 2 : null
    if (marker === 0x01 || (marker >= 0xd0 && marker <= 0xd8)) {
      at += 2
      continue
    }
    if (at + 4 > file.length) return null
    at += 2 + file.readUInt16BE(at + 2)
    if (marker !== 0xda) continue
    scanned = true
    for (;;) {
      at = file.indexOf(0xff, at)
      if (at < 0 || at + 1 >= file.length) return null
      const next = file[at + 1]!
      if (next !== 0 && next !== 0xff && !(next >= 0xd0 && next <= 0xd7)) break
      at += next === 0xff ? 1 : 2
    }
  }
  return null
}

/** The length that the container says, to an even byte. */
function webpEnd(file: Buffer): number | null {
  const declared = file.readUInt32LE(4) + 8
  if (declared > file.length) return null
  return declared + (declared % 2 === 1 && declared < file.length && file[declared] === 0 ? 1 : 0)
}

const PADDING_BYTES = 1024 * 1024

/** Padding; further pictures (CIPA DC-007); a film of the moment or a block of settings, as phones write them. */
function isTrailer(rest: Buffer): boolean {
  if (rest.length <= PADDING_BYTES && rest.every((byte) => byte === 0 || byte === 0xff || byte === 0x0a || byte === 0x0d || byte === 0x20)) return true
  const pictures = rest.indexOf(Buffer.from([0xff, 0xd8, 0xff]))
  if (pictures >= 0 && pictures <= 64 * 1024 && rest.subarray(0, pictures).every((byte) => byte === 0 || byte === 0xff)) return !holdsArchive(rest)
  const box = rest.indexOf('ftyp', 0, 'latin1')
  const film = box >= 4 && box <= 1024 && rest.subarray(0, box - 4).every((byte) => byte === 0 || byte === 0xff)
  const settings = rest.subarray(-4).toString('latin1') === 'SEFT' && rest.includes('SEFH')
  return (film || settings) && !holdsArchive(rest)
}

/** What programs would open as something else: a zip is found by its end. */
function holdsArchive(rest: Buffer): boolean {
  return rest.lastIndexOf(Buffer.from('PK\x05\x06', 'latin1')) >= 0 || /<(?:html|script|svg|!doctype)[\s>]/i.test(rest.toString('latin1', 0, 4096))
}
