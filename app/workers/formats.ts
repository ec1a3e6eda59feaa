import { cuesOf, writeBoardedScript, writeSrt, writeVtt, type BoardedSequence, type TimedWords } from '@rubato/core/interchange'
import type { Rate } from '@rubato/core/time'
import type { CutFormat } from '#shared/cuts'
import { HANDED_OVER, type FormatFacts, type FormatId } from '#shared/handOver'
import type { FrameTaker } from './making'
import type { MovieRequest } from './messages'
import type { StageFile, StageShot } from './stageShot'
import { moviePixels } from './moviePlan'
import type { MovieSound } from './soundWriter'
import { canMakeMp4 } from './videoCodec'

type AnyFormat = Pick<FormatFacts, 'label' | 'extension' | 'made'>
/** How much of each frame's million pixels is made, bytes, and how long it takes, ms: until one has been made here. */
export interface Guess {
  readonly bytes: number
  readonly ms: number
}

/** What is made of the film's frames. */
export interface FrameFormat extends AnyFormat {
  readonly needs: 'frames'
  /** How it is handed each frame: as RGBA pixels, as a PNG file, or as one for each level, packed. */
  readonly frame: 'pixels' | 'png' | 'layers'
  /** Whether the film's sound may be in it. */
  readonly sound: boolean
  readonly guess: Guess
  /** Whether this browser can make it; absent: every one can. */
  readonly canBeMade?: (widthPx: number, heightPx: number, framesPerSecond: number) => Promise<boolean>
  /** What takes the frames. Fetched when it is wanted: the page that only lists formats has none of it. Null: only the server's workers make a file of them. */
  readonly taker: ((request: MovieRequest, totalFrames: number) => Promise<FrameTaker>) | null
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
  write(shot: StageShot): Promise<BlobPart | readonly StageFile[]>
}

/** What the server writes of the film's cut: all of it, without art. */
export interface CutEntry extends AnyFormat {
  readonly needs: 'cut'
  readonly as: CutFormat
}

/** What the checks find: worked out by a worker of the server's for all shots of a range. */
export interface ChecksFormat extends AnyFormat {
  readonly needs: 'checks'
}

/** The boards on paper, as they are usually printed: made by a worker of the server's; in the window, printing has a dialog of its own. */
export interface BoardsFormat extends AnyFormat {
  readonly needs: 'boards'
}

export type Format = BoardsFormat | ChecksFormat | FrameFormat | SoundFormat | WordsFormat | CutEntry | StageFormat

const movie = (container: 'webm' | 'mp4') => async (request: MovieRequest) => {
  const { createMovieWriter } = await import('./movieWriter')
  return createMovieWriter({ fileName: request.fileName, rate: request.project.rate, ...moviePixels(request), container, sound: request.sound })
}

const cut = <F extends CutFormat>(as: F) => ({ ...HANDED_OVER[as], as }) as const

const subtitles = (write: typeof writeSrt) => (words: FilmWords) => {
  const cues = cuesOf(words.panels)
  if (cues.length === 0) throw new Error('Nothing is said yet: no panel has dialogue.')
  return write(cues, words.rate)
}

/** How everything that a film is handed over as is made in the window. Dialog, menus and workers read this; what is known of each is in `HANDED_OVER`. */
export const FORMATS = {
  webm: { ...HANDED_OVER.webm, guess: { bytes: 9000, ms: 60 }, taker: movie('webm') },
  mp4: { ...HANDED_OVER.mp4, guess: { bytes: 9000, ms: 45 }, canBeMade: canMakeMp4, taker: movie('mp4') },
  mov: { ...HANDED_OVER.mov, guess: { bytes: 450_000, ms: 60 }, taker: null },
  png: { ...HANDED_OVER.png, guess: { bytes: 300_000, ms: 90 }, taker: async ({ fileName }, totalFrames) => (await import('./pictureWriter')).createPictureWriter(fileName, totalFrames) },
  layers: { ...HANDED_OVER.layers, guess: { bytes: 600_000, ms: 400 }, taker: async (request, totalFrames) => (await import('./layersWriter')).createLayersWriter(request, totalFrames) },
  wav: { ...HANDED_OVER.wav, codec: 'WAV, 48 kHz, 24 bits', write: async (...asked: Parameters<SoundFormat['write']>) => (await import('./soundWriter')).writeWav(...asked) },
  glb: { ...HANDED_OVER.glb, write: async (shot: StageShot) => (await import('./sceneWriter')).sceneOf(shot) },
  camera: { ...HANDED_OVER.camera, write: async (shot: StageShot) => (await import('./sceneWriter')).cameraCsv(shot) },
  cameraJson: { ...HANDED_OVER.cameraJson, write: async (shot: StageShot) => (await import('./sceneWriter')).cameraJson(shot) },
  ora: { ...HANDED_OVER.ora, write: async (shot: StageShot) => (await import('./panelStack')).panelStacks(shot) },
  oraLevels: { ...HANDED_OVER.oraLevels, write: async (shot: StageShot) => (await import('./panelStack')).levelStack(shot) },
  svg: { ...HANDED_OVER.svg, write: async (shot: StageShot) => (await import('./drawingLines')).drawingLines(shot) },
  otio: cut('otio'),
  edl: cut('edl'),
  edls: cut('edls'),
  marks: cut('marks'),
  fountain: { ...HANDED_OVER.fountain, type: 'text/plain', write: ({ title, sequences }: FilmWords) => writeBoardedScript(title, sequences) },
  srt: { ...HANDED_OVER.srt, type: 'application/x-subrip', write: subtitles(writeSrt) },
  pdf: HANDED_OVER.pdf,
  check: HANDED_OVER.check,
  vtt: { ...HANDED_OVER.vtt, type: 'text/vtt', write: subtitles(writeVtt) },
} as const satisfies Readonly<Record<FormatId, Format>>

export type { FormatId }
export function formatOf(id: string): Format {
  if (!Object.hasOwn(FORMATS, id)) throw new Error(`There is no format ${id}.`)
  return FORMATS[id as FormatId]
}

/** The formats that need one of these, with their ids, in the order of the table. */
export const formatsOf = <N extends Format['needs']>(...needs: readonly N[]) =>
  (Object.entries(FORMATS) as [FormatId, Format][]).flatMap(([id, format]) => (needs.includes(format.needs as N) ? [{ id, format: format as Extract<Format, { readonly needs: N }> }] : []))
