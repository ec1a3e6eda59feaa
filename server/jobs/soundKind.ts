import type { SoundType } from '#shared/assets'

/** A frame of MPEG sound must come within this many bytes of where it ought to begin. */
const SEARCHED_BYTES = 64 * 1024
const FRAMES_IN_A_ROW = 3

type Read = (length: number, at: number) => Promise<Buffer>

/**
 * What a file of sound says it is, by its first bytes; null where it is nothing that is taken. Looked at before anything is
 * parsed: a search for the next frame through bytes that are none costs a parser seconds a megabyte.
 */
export async function soundKind(read: Read, bytes: number): Promise<SoundType | null> {
  const head = await read(12, 0)
  const word = (at: number) => head.toString('latin1', at, at + 4)
  if ((word(0) === 'RIFF' || word(0) === 'RF64') && word(8) === 'WAVE') return 'audio/wav'
  if (word(0) === 'fLaC') return 'audio/flac'
  if (word(0) === 'OggS') return 'audio/ogg'
  const begins = head.toString('latin1', 0, 3) === 'ID3' ? await afterTag(read) : 0
  return begins !== null && (await hasFrames(read, begins, bytes)) ? 'audio/mpeg' : null
}

/** ID3v2: its size is four bytes of seven bits each, without the header of ten. There may be more than one. */
async function afterTag(read: Read): Promise<number | null> {
  let at = 0
  for (let tags = 0; tags < 8; tags++) {
    const head = await read(10, at)
    if (head.length < 10 || head.toString('latin1', 0, 3) !== 'ID3') return at
    if (head.subarray(6, 10).some((byte) => byte > 0x7f)) return null
    at += 10 + (((head[6]! * 128 + head[7]!) * 128 + head[8]!) * 128 + head[9]!) + ((head[5]! & 0x10) === 0 ? 0 : 10)
  }
  return at
}

async function hasFrames(read: Read, from: number, bytes: number): Promise<boolean> {
  const searched = await read(SEARCHED_BYTES, from)
  for (let at = 0; at + 4 <= searched.length; at++) {
    if (searched[at] !== 0xff) continue
    let [place, found] = [from + at, 0]
    let length = frameBytes(searched.subarray(at, at + 4))
    while (length !== null) {
      found++
      place += length
      if (found === FRAMES_IN_A_ROW || place + 4 > bytes) break
      const inside = place - from
      length = frameBytes(inside + 4 <= searched.length ? searched.subarray(inside, inside + 4) : await read(4, place))
    }
    // A recording of less than three frames ends after its last.
    if (found === FRAMES_IN_A_ROW || (found > 0 && length !== null && place <= bytes)) return true
  }
  return false
}

const KBPS = {
  1: [[32, 64, 96, 128, 160, 192, 224, 256, 288, 320, 352, 384, 416, 448], [32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384], [32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320]],
  2: [[32, 48, 56, 64, 80, 96, 112, 128, 144, 160, 176, 192, 224, 256], [8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160], [8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160]],
} as const
const HZ = [44_100, 48_000, 32_000] as const

/** The length of a frame by its header (ISO/IEC 11172-3, 2.4.1.3; 13818-3); null where it is none. */
function frameBytes(header: Buffer): number | null {
  if (header.length < 4 || header[0] !== 0xff || (header[1]! & 0xe0) !== 0xe0) return null
  const [version, layer] = [(header[1]! >> 3) & 3, 4 - ((header[1]! >> 1) & 3)]
  const [rate, hz] = [header[2]! >> 4, HZ[(header[2]! >> 2) & 3]]
  if (version === 1 || layer === 4 || rate === 0 || rate === 15 || hz === undefined) return null
  const kbps = KBPS[version === 3 ? 1 : 2][layer - 1]![rate - 1]!
  const sampled = hz / (version === 3 ? 1 : version === 2 ? 2 : 4)
  const padding = (header[2]! >> 1) & 1
  if (layer === 1) return (Math.floor((12_000 * kbps) / sampled) + padding) * 4
  return Math.floor(((layer === 3 && version !== 3 ? 72_000 : 144_000) * kbps) / sampled) + padding
}
