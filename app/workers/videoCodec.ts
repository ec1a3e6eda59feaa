export type Container = 'webm' | 'mp4'

export interface ChosenCodec {
  readonly name: 'vp9' | 'vp8' | 'avc'
  readonly label: string
  readonly codecString: string
  readonly bitrate: number
}

/** VP9 levels by most luma samples a second and a picture (WebM project, VP9 levels). */
const VP9_LEVELS: readonly (readonly [level: string, samplesASecond: number, samplesAPicture: number])[] = [
  ['10', 829_440, 36_864],
  ['11', 2_764_800, 73_728],
  ['20', 4_608_000, 122_880],
  ['21', 9_216_000, 245_760],
  ['30', 20_736_000, 552_960],
  ['31', 36_864_000, 983_040],
  ['40', 83_558_400, 2_228_224],
  ['41', 160_432_128, 2_228_224],
  ['50', 311_951_360, 8_912_896],
  ['51', 588_251_136, 8_912_896],
  ['52', 1_176_502_272, 8_912_896],
  ['60', 1_176_502_272, 35_651_584],
  ['61', 2_353_004_544, 35_651_584],
]

/** Bits a pixel that keep thin ink clean. */
const BITS_A_PIXEL = 0.22

/** What each container's picture may be coded as, the best first. */
const CANDIDATES: Readonly<Record<Container, (vp9Level: string) => readonly Omit<ChosenCodec, 'bitrate'>[]>> = {
  webm: (level) => [
    { name: 'vp9', label: 'VP9', codecString: `vp09.00.${level}.08` },
    { name: 'vp8', label: 'VP8', codecString: 'vp8' },
  ],
  mp4: () => ['640034', '640028', '42E01F'].map((profile) => ({ name: 'avc', label: 'H.264', codecString: `avc1.${profile}` })),
}

/** Whether this browser makes MP4 files with both of their usual parts. */
export async function canMakeMp4(widthPx: number, heightPx: number, framesPerSecond: number): Promise<boolean> {
  if (typeof VideoEncoder === 'undefined' || typeof AudioEncoder === 'undefined') return false
  const audio = await AudioEncoder.isConfigSupported({ codec: 'mp4a.40.2', sampleRate: 48_000, numberOfChannels: 2, bitrate: 160_000 }).catch(() => ({ supported: false }))
  return audio.supported === true && (await chooseVideoCodec(widthPx, heightPx, framesPerSecond, 'mp4').catch(() => null)) !== null
}

/** The best codec this browser encodes at the size: in WebM VP9, else VP8; in MP4 H.264. Throws where there is none. */
export async function chooseVideoCodec(widthPx: number, heightPx: number, framesPerSecond: number, container: Container = 'webm'): Promise<ChosenCodec> {
  if (typeof VideoEncoder === 'undefined') throw new Error('This browser can’t encode movies. Choose numbered pictures, or use another browser.')
  const samples = widthPx * heightPx
  const level = VP9_LEVELS.find(([, aSecond, aPicture]) => samples * framesPerSecond <= aSecond && samples <= aPicture)?.[0] ?? '62'
  const bitrate = Math.min(60_000_000, Math.max(400_000, Math.round(samples * framesPerSecond * BITS_A_PIXEL)))
  for (const { name, label, codecString } of CANDIDATES[container](level)) {
    const config = { codec: codecString, width: widthPx, height: heightPx, bitrate, framerate: framesPerSecond }
    const { supported } = await VideoEncoder.isConfigSupported(config).catch(() => ({ supported: false }))
    if (supported === true) return { name, label, codecString, bitrate }
  }
  throw new Error(`This browser can’t encode a movie of ${widthPx} × ${heightPx}. Choose a smaller size or numbered pictures.`)
}
