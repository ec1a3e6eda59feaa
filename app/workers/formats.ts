import { cuesOf, writeBoardedScript, writeSrt, writeVtt, type BoardedSequence, type TimedWords } from '@rubato/core/interchange'
import type { Rate } from '@rubato/core/time'
import { CUT_FORMATS, type CutFormat } from '#shared/cuts'
import type { FrameTaker } from './making'
import type { MovieRequest } from './messages'
import type { StageShot } from './stageShot'
import { moviePixels } from './moviePlan'
import type { MovieSound } from './soundWriter'
import { canMakeMp4 } from './videoCodec'

interface AnyFormat {
  readonly label: string
  readonly extension: string
}
/** How much of each frame's million pixels is made, bytes, and how long it takes, ms: until one has been made here. */
export interface Guess {
  readonly bytes: number
  readonly ms: number
}

/** What is made of the film's frames. */
export interface FrameFormat extends AnyFormat {
  readonly needs: 'frames'
  /** How it is handed each frame: as RGBA pixels, or as a PNG file. */
  readonly frame: 'pixels' | 'png'
  /** Whether the film's sound may be in it. */
  readonly sound: boolean
  readonly guess: Guess
  /** Whether this browser can make it; absent: every one can. */
  readonly canBeMade?: (widthPx: number, heightPx: number, framesPerSecond: number) => Promise<boolean>
  /** What takes the frames. Fetched when it is wanted: the page that only lists formats has none of it. */
  taker(request: MovieRequest, totalFrames: number): Promise<FrameTaker>
}

/** What is made of the film's sound alone. */
export interface SoundFormat extends AnyFormat {
  readonly needs: 'sound'
  /** What is in it, as the artist is told. */
  readonly codec: string
  /** Null where it was cancelled. */
  write(sound: MovieSound, fileName: string, tell: (done: number, total: number) => void, cancelled: () => boolean): Promise<Blob | null>
}

/** What the boards say. */
export interface FilmWords {
  readonly title: string
  readonly rate: Rate
  readonly panels: readonly TimedWords[]
  readonly sequences: readonly BoardedSequence[]
}
/** What is made of the words alone. */
export interface WordsFormat extends AnyFormat {
  readonly needs: 'words'
  readonly type: string
  /** Throws where there is nothing to write, saying so. */
  write(words: FilmWords): string
}

/** What is made of a shot's set and cameras: a file a shot. */
export interface StageFormat extends AnyFormat {
  readonly needs: 'stage'
  write(shot: StageShot): Promise<BlobPart>
}

/** What the server writes of the film's cut: all of it, without art. */
export interface CutEntry extends AnyFormat {
  readonly needs: 'cut'
  readonly as: CutFormat
}

export type Format = FrameFormat | SoundFormat | WordsFormat | CutEntry | StageFormat

const movie = (container: 'webm' | 'mp4') => async (request: MovieRequest) => {
  const { createMovieWriter } = await import('./movieWriter')
  return createMovieWriter({ fileName: request.fileName, rate: request.project.rate, ...moviePixels(request), container, sound: request.sound })
}

const cut = <F extends CutFormat>(as: F) => ({ needs: 'cut', as, label: CUT_FORMATS[as].label, extension: CUT_FORMATS[as].extension }) as const

const subtitles = (write: typeof writeSrt) => (words: FilmWords) => {
  const cues = cuesOf(words.panels)
  if (cues.length === 0) throw new Error('Nothing is said yet: no panel has dialogue.')
  return write(cues, words.rate)
}

/** Everything that a film is handed over as. Dialog, menus and workers read this; a new format is an entry. */
export const FORMATS = {
  webm: { needs: 'frames', label: 'Movie (WebM)', extension: 'webm', frame: 'pixels', sound: true, guess: { bytes: 9000, ms: 60 }, taker: movie('webm') },
  mp4: { needs: 'frames', label: 'Movie (MP4)', extension: 'mp4', frame: 'pixels', sound: true, guess: { bytes: 9000, ms: 45 }, canBeMade: canMakeMp4, taker: movie('mp4') },
  png: {
    needs: 'frames',
    label: 'Numbered pictures (PNG, zipped)',
    extension: 'zip',
    frame: 'png',
    sound: false,
    guess: { bytes: 300_000, ms: 90 },
    taker: async ({ fileName }, totalFrames) => (await import('./pictureWriter')).createPictureWriter(fileName, totalFrames),
  },
  wav: { needs: 'sound', label: 'Sound alone (WAV)', extension: 'wav', codec: 'WAV, 48 kHz, 24 bits', write: async (...asked) => (await import('./soundWriter')).writeWav(...asked) },
  glb: { needs: 'stage', label: 'Set and cameras in 3D (glTF, .glb)', extension: 'glb', write: async (shot) => (await import('./sceneWriter')).sceneOf(shot) },
  camera: { needs: 'stage', label: 'Camera, frame by frame (CSV)', extension: 'csv', write: async (shot) => (await import('./sceneWriter')).cameraCsv(shot) },
  cameraJson: { needs: 'stage', label: 'Camera, frame by frame (JSON)', extension: 'json', write: async (shot) => (await import('./sceneWriter')).cameraJson(shot) },
  otio: cut('otio'),
  edl: cut('edl'),
  edls: cut('edls'),
  marks: cut('marks'),
  fountain: { needs: 'words', label: 'Boarded words as Fountain', extension: 'fountain', type: 'text/plain', write: ({ title, sequences }) => writeBoardedScript(title, sequences) },
  srt: { needs: 'words', label: 'Dialogue as subtitles (SRT)', extension: 'srt', type: 'application/x-subrip', write: subtitles(writeSrt) },
  vtt: { needs: 'words', label: 'Dialogue as subtitles (WebVTT)', extension: 'vtt', type: 'text/vtt', write: subtitles(writeVtt) },
} as const satisfies Readonly<Record<string, Format>>

export type FormatId = keyof typeof FORMATS
export function formatOf(id: string): Format {
  if (!Object.hasOwn(FORMATS, id)) throw new Error(`There is no format ${id}.`)
  return FORMATS[id as FormatId]
}

/** The formats that need one of these, with their ids, in the order of the table. */
export const formatsOf = <N extends Format['needs']>(...needs: readonly N[]) =>
  (Object.entries(FORMATS) as [FormatId, Format][]).flatMap(([id, format]) => (needs.includes(format.needs as N) ? [{ id, format: format as Extract<Format, { readonly needs: N }> }] : []))
