/** What a WAV file holds: whole-number samples of 16 or 24 bits. */
export interface WavShape {
  readonly sampleRateHz: number
  readonly channels: number
  readonly bits: 16 | 24
}

export const WAV_HEADER_BYTES = 44
/** RIFF counts its bytes in 32 bits. */
const MOST_BYTES = 2 ** 32 - 1 - WAV_HEADER_BYTES

/**
 * The header of a WAV file of `frames` samples a channel (RIFF WAVE, "Multimedia Programming Interface and Data
 * Specifications 1.0", IBM and Microsoft, 1991). Throws for more than 4 GB, which the format can't say.
 */
export function wavHeader({ sampleRateHz, channels, bits }: WavShape, frames: number): Uint8Array<ArrayBuffer> {
  const block = channels * (bits / 8)
  const bytes = frames * block
  if (bytes > MOST_BYTES) throw new Error(`A WAV file holds at most 4 GB; this would be ${Math.ceil(bytes / 1e9)} GB. Choose a shorter range.`)
  const header = new Uint8Array(WAV_HEADER_BYTES)
  const view = new DataView(header.buffer)
  const text = (at: number, word: string) => [...word].forEach((letter, i) => view.setUint8(at + i, letter.charCodeAt(0)))
  text(0, 'RIFF')
  view.setUint32(4, WAV_HEADER_BYTES - 8 + bytes, true)
  text(8, 'WAVEfmt ')
  view.setUint32(16, 16, true)
  view.setUint16(20, 1, true)
  view.setUint16(22, channels, true)
  view.setUint32(24, sampleRateHz, true)
  view.setUint32(28, sampleRateHz * block, true)
  view.setUint16(32, block, true)
  view.setUint16(34, bits, true)
  text(36, 'data')
  view.setUint32(40, bytes, true)
  return header
}

/** Samples of −1…1, a channel each, as a WAV file has them: one after the other, lowest byte first. What is louder is cut off. */
export function wavSamples(channels: readonly Float32Array[], bits: 16 | 24): Uint8Array<ArrayBuffer> {
  const frames = channels[0]?.length ?? 0
  const width = bits / 8
  const bytes = new Uint8Array(frames * channels.length * width)
  const view = new DataView(bytes.buffer)
  const most = 2 ** (bits - 1) - 1
  let at = 0
  for (let i = 0; i < frames; i++) {
    for (const channel of channels) {
      const value = Math.round(Math.max(-1, Math.min(1, channel[i]!)) * most)
      if (bits === 24) view.setUint8(at, value & 0xff)
      view.setInt16(at + width - 2, bits === 24 ? value >> 8 : value, true)
      at += width
    }
  }
  return bytes
}

/** A whole WAV file. */
export function wavFile(channels: readonly Float32Array[], sampleRateHz: number, bits: 16 | 24 = 16): Uint8Array<ArrayBuffer> {
  const header = wavHeader({ sampleRateHz, channels: channels.length, bits }, channels[0]?.length ?? 0)
  const samples = wavSamples(channels, bits)
  const file = new Uint8Array(header.length + samples.length)
  file.set(header)
  file.set(samples, header.length)
  return file
}
