import type { Drawing, LevelOwner, Picture, Project, TakeBody } from '@rubato/core/document'
import type { CameraPose, Optics } from '@rubato/core/camera'
import type { ArtNeed, DrawingHint, Finding, SheetPaper, SpeedOf, Strobe } from '@rubato/core/checks'
import type { DepthRange } from '@rubato/core/depth'
import type { Mend, MendKind, Slowing } from '@rubato/core/edits'
import type { Rectangle } from '@rubato/core/geometry'
import type { AreaRefusal } from '@rubato/core/ink'
import type { RasterLayer, SetFile, WayBack } from '@rubato/core/interchange'
import type { PrintChoice } from '../boards/printLayout'
import type { Rate } from '@rubato/core/time'
import type { BurnIn, Dress, Said } from '#shared/renders'
import type { ViewBox } from '../viewport/viewBox'
import type { DrawingMessage } from './artSender'
import type { ToldError } from './making'
import type { LineSpec } from './soundLine'
import type { Container } from './videoCodec'
import type { SoundPlan } from './soundPlan'
import type { MovieSound } from './soundWriter'
import type { ArtReach, Beyond, FilmSpan, PlacedShot, PlacedTransition } from '@rubato/core/stage'
import type { Peaks } from '@rubato/core/sound'

/** What is told to each worker that lives on, and what it tells. Those that do jobs have what they are asked and what they make below. */
export interface WorkerMessages {
  paint: { ask: PaintAsk; answer: PaintAnswer }
  thumb: { ask: ThumbAsk; answer: ThumbAnswer }
  frames: { ask: FramesAsk; answer: FramesAnswer }
  encode: { ask: EncodeAsk; answer: EncodeAnswer }
  sound: { ask: SoundAsk; answer: SoundAnswer }
  edges: { ask: EdgesAsk; answer: EdgesAnswer }
  survey: { ask: SurveyAsk; answer: SurveyAnswer }
}

/** A shot whose edges are to be looked at. A newer one of the same key ends an older; `cancel` ends it too. */
export type EdgesAsk =
  | { readonly kind: 'begin'; readonly optics: Optics; readonly baseWidthPx: number; readonly pictureBase: string }
  | DrawingMessage
  | { readonly kind: 'check'; readonly key: string; readonly number: number; readonly take: TakeBody; readonly beyond: Beyond }
  | { readonly kind: 'cancel'; readonly key: string }
  /** The least of a mend; the shot's outlines are known from its last check. */
  | { readonly kind: 'mend'; readonly key: string; readonly number: number; readonly take: TakeBody; readonly beyond: Beyond; readonly finding: Finding; readonly of: MendKind }
export type EdgesAnswer =
  | { readonly kind: 'progress'; readonly key: string; readonly number: number; readonly done: number; readonly total: number }
  /** `again`: of all its frames those that had to be looked at anew. `anyArt`: whether there is anything that could run out. */
  | { readonly kind: 'found'; readonly key: string; readonly number: number; readonly findings: readonly Finding[]; readonly frames: number; readonly again: number; readonly anyArt: boolean; readonly tookMs: number }
  /** Null where no amount of it closes every frame. */
  | { readonly kind: 'mended'; readonly key: string; readonly number: number; readonly mend: Mend | null }
  | { readonly kind: 'failed'; readonly key: string; readonly number: number; readonly what: string }

/** What art is needed, and how fast things go. Takes go by a serial: of one that is known as it is `take` is null. */
export type SurveyAsk =
  | { readonly kind: 'begin'; readonly optics: Optics }
  | { readonly kind: 'need'; readonly number: number; readonly of: readonly NeededBy[]; readonly margin: number; readonly takes: readonly { readonly takeId: string; readonly serial: number; readonly take: TakeBody | null; readonly beyond: Beyond }[] }
  | { readonly kind: 'speed'; readonly number: number; readonly take: TakeBody; readonly fps: number; readonly limit: number }
  | { readonly kind: 'slow'; readonly number: number; readonly take: TakeBody; readonly levelId: string; readonly strobe: Strobe; readonly fps: number; readonly limit: number }
/** Background sheets: of one level, or of a set's pieces one by one with a page of the whole before them. */
export interface SheetsAsk {
  /** `ora`: layers to paint on, instead of sheets. */
  readonly as: 'pdf' | 'svg' | 'ora'
  readonly paper: SheetPaper
  readonly film: string
  readonly dateText: string
  readonly optics: Optics
  readonly widthPx: number
  readonly fps: number
  readonly margin: number
  readonly pictureBase: string
  /** What the take that is open shows. */
  readonly drawings: readonly (readonly [id: string, drawing: Drawing])[]
  /** The open one first; labels are of their shots. */
  readonly takes: readonly { readonly takeId: string; readonly label: string; readonly take: TakeBody; readonly beyond: Beyond }[]
  /** Of the open take, that several levels are seen from. */
  readonly frame: number
  /** `rough`: the drawing that lies under it; null for none. `owner`, `levelId`: whose it is, and what it is called there. Names are of its drawings, in their order. */
  readonly levels: readonly (NeededBy & { readonly name: string; readonly laid: Rectangle | null; readonly rough: string | null; readonly owner: LevelOwner; readonly levelId: string; readonly drawingNames: readonly string[] })[]
  /** Of the set that they are pieces of; null for a level by itself. */
  readonly setName: string | null
}
export interface SheetsProgress {
  readonly done: number
  readonly total: number
}
export interface MadeSheets {
  /** SVGs: one, or several in a ZIP. */
  readonly file: Blob
  readonly extension: 'pdf' | 'svg' | 'zip' | 'ora'
  readonly pages: number
  /** Of the canvas; null where sheets were made. `share`: of the size that is needed. */
  readonly canvas: { readonly widthPx: number; readonly heightPx: number; readonly share: number } | null
  /** Levels that no shot sees. */
  readonly unseen: readonly string[]
}

/** Whose need it is, and the drawings that it shows. */
export interface NeededBy {
  readonly id: string
  readonly drawings: readonly (DrawingHint & { readonly id: string })[]
}
export type SurveyAnswer =
  /** Of each of those asked for, in their order; null of one that is never seen. */
  | { readonly kind: 'need'; readonly number: number; readonly needs: readonly (ArtNeed | null)[]; readonly tookMs: number }
  | { readonly kind: 'speed'; readonly number: number; readonly speeds: readonly SpeedOf[] }
  /** Null where no frames put in slow it down. */
  | { readonly kind: 'slow'; readonly number: number; readonly slowing: Slowing | null }
  | { readonly kind: 'failed'; readonly number: number; readonly what: string }

/** Which framings of a camera, or keys of a level, change nothing within a tolerance. */
/** Spans of a camera that are to be framings. */
export interface BakeAsk {
  readonly take: TakeBody
  readonly takeId: string
  /** Spans of a camera; or what a hand did with one, a pose a frame from the shot's frame `from` on. */
  readonly of: { readonly spanIds: readonly string[] } | { readonly cameraId: string; readonly from: number; readonly poses: readonly CameraPose[] }
  readonly optics: Optics
  readonly tolerancePx: number
  readonly outputWidthPx: number
  readonly reaches: ReadonlyMap<string, ArtReach>
  /** What new records' ids begin with. */
  readonly ids: string
}

export interface ThinAsk {
  readonly take: TakeBody
  readonly of: { readonly cameraId: string } | { readonly levelId: string }
  readonly optics: Optics
  readonly tolerancePx: number
  /** Of the output, which the tolerance is counted in. */
  readonly widthPx: number
  /** How far the art of levels reaches, by level. */
  readonly reaches: ReadonlyMap<string, ArtReach>
}

/** The film's sound: what it is, and what is to be heard of it. A playback is a generation, and its blocks follow each other. */
export type SoundAsk =
  | { readonly kind: 'begin'; readonly soundBase: string }
  | { readonly kind: 'sound'; readonly plan: SoundPlan }
  | { readonly kind: 'play'; readonly generation: number; readonly line: LineSpec }
  | { readonly kind: 'next'; readonly generation: number; readonly hops: number }
  /** Decodes what playing from here would need first. */
  | { readonly kind: 'warm'; readonly sample: number }
  | { readonly kind: 'grain'; readonly number: number; readonly sample: number; readonly count: number }

export type SoundAnswer =
  /** `levels`: highest sample and weighted power of each hop, in turn. */
  | { readonly kind: 'block'; readonly generation: number; readonly left: Float32Array; readonly right: Float32Array; readonly levels: Float32Array }
  | { readonly kind: 'grain'; readonly number: number; readonly left: Float32Array; readonly right: Float32Array }
  /** A recording can't be had: it stays silent. */
  | { readonly kind: 'trouble'; readonly assetHash: string; readonly what: string }
  | { readonly kind: 'failed'; readonly what: string }

/** A recording's peaks, from a file or from where it is kept. `bare` only decodes, to tell what that costs. */
export interface PeaksAsk {
  readonly source: Blob | string
  readonly bare?: boolean
}
/** It tells how far it is, 0…1. */
export interface MadePeaks {
  readonly peaks: Peaks
  readonly channels: number
  readonly tookMs: number
}

export interface MovieShot {
  readonly placed: PlacedShot
  /** Of the circled take. */
  readonly letter: string
  readonly body: TakeBody
}

export interface MovieRequest {
  readonly project: Project
  /** The film's frames that are made; of a shot alone its own, which may lie past its ends. */
  readonly span: FilmSpan
  /** A shot by itself, without transitions. Absent: the film. */
  readonly alone?: string | null
  /** Those that are seen in the span, in film order. */
  readonly shots: readonly MovieShot[]
  readonly transitions: readonly PlacedTransition[]
  readonly burnIn: BurnIn
  readonly dress: Dress
  readonly said: Said
  /** Frames of slate and card before those of the span. */
  readonly lead: number
  /** Of the whole file that this is a piece of. */
  readonly fileSpan: FilmSpan
  /** Null without sound. */
  readonly sound: MovieSound | null
  readonly drawings: Readonly<Record<string, Drawing>>
  /** One of `FORMATS`, by its id. */
  readonly format: string
  /** Distances in the place of colours, in grey. Absent: as drawn. */
  readonly depth?: DepthRange | null
  /** Whether what nothing is drawn on is see-through. */
  readonly clear?: boolean
  /** Of each level's pictures: whether they are cut down to what is seen of it. */
  readonly trim?: boolean
  /** 1, 1/2 or 1/4 of the project's size, made even. */
  readonly size: 1 | 0.5 | 0.25
  /** Where frames are handed in one by one, in the place of a file. */
  readonly handIn?: string
  readonly fileName: string
  readonly pictureBase: string
}

export interface MovieProgress {
  readonly phase: 'frames' | 'sound' | 'closing'
  readonly done: number
  readonly total: number
}
export interface MadeMovie {
  readonly file: Blob
  readonly frames: number
  readonly codec: string | null
  readonly totalMs: number
}

/** `painters` is how many share the work, and the memory. */
export type PaintAsk = { readonly kind: 'begin'; readonly request: MovieRequest; readonly painters: number } | { readonly kind: 'paint'; readonly index: number }

/** `data` is RGBA pixels for a movie, a PNG file for pictures, or several packed; null where the frame is the one before. */
export type PaintAnswer =
  | { readonly kind: 'frame'; readonly index: number; readonly data: ArrayBuffer | null }
  | ({ readonly kind: 'failed' } & ToldError)

/** Frames come in order, from 0; `pixels` is RGBA, null where the frame is the one before. */
export type EncodeAsk =
  | { readonly kind: 'begin'; readonly fileName: string; readonly rate: Rate; readonly widthPx: number; readonly heightPx: number; readonly container: Container; readonly sound: MovieSound | null }
  | { readonly kind: 'frame'; readonly index: number; readonly pixels: ArrayBuffer | null }
  | { readonly kind: 'end' }
  | { readonly kind: 'abandon' }

export type EncodeAnswer =
  | { readonly kind: 'taken'; readonly frames: number }
  | { readonly kind: 'made'; readonly file: Blob; readonly codec: string }
  | ({ readonly kind: 'failed' } & ToldError)

/** Takes and drawings are sent once each; a take's `serial` names that very body. */
export type ThumbAsk =
  | { readonly kind: 'begin'; readonly optics: Optics; readonly baseWidthPx: number; readonly pictureBase: string }
  | { readonly kind: 'take'; readonly serial: number; readonly take: TakeBody }
  | DrawingMessage
  | { readonly kind: 'paint'; readonly number: number; readonly take: number; readonly frame: number; readonly widthPx: number }

export type ThumbAnswer = { readonly kind: 'thumb'; readonly number: number; readonly bitmap: ImageBitmap }
  /** `what` is null where only the take has been let go: it is to be asked for again. */
  | { readonly kind: 'failed'; readonly number: number; readonly what: string | null }

/** Frames of a take that are wanted finished, `to` exclusive. */
export interface WantedFrames {
  readonly takeId: string
  readonly serial: number
  readonly from: number
  readonly to: number
  /** Levels left out of playback. */
  readonly muted: readonly string[]
}

/** Finished frames of the lens view. A take is sent again, under another serial, when it has changed. */
export type FramesAsk =
  | { readonly kind: 'begin'; readonly optics: Optics; readonly baseWidthPx: number; readonly pictureBase: string; readonly budgetBytes: number }
  | DrawingMessage
  | { readonly kind: 'take'; readonly takeId: string; readonly serial: number; readonly take: TakeBody }
  /** Frames of a transition; after the takes of its shots. */
  | { readonly kind: 'mix'; readonly mixId: string; readonly serial: number; readonly at: PlacedTransition }
  /** Frames of another view are let go. */
  | { readonly kind: 'view'; readonly view: ViewBox }
  /** What is wanted, first what is wanted first; the rest is kept while there is room. */
  | { readonly kind: 'plan'; readonly parts: readonly WantedFrames[] }
  | { readonly kind: 'pause'; readonly paused: boolean }
  | { readonly kind: 'fetch'; readonly takeId: string; readonly serial: number; readonly frame: number }

export type FramesAnswer =
  /** Which frames of a take are finished: 1 for each that is. */
  | { readonly kind: 'coverage'; readonly takeId: string; readonly serial: number; readonly ready: Uint8Array }
  /** `picture` is null where the frame is not finished. */
  | { readonly kind: 'frame'; readonly takeId: string; readonly serial: number; readonly frame: number; readonly picture: Blob | null }
  | { readonly kind: 'state'; readonly bytes: number; readonly pictures: number; readonly painted: number; readonly full: boolean; readonly done: boolean }
  | { readonly kind: 'failed'; readonly what: string }

/** RGBA pixels of what is filled or backed; places and gaps are px of them. */
export type AreaAsk = { readonly widthPx: number; readonly heightPx: number; readonly pixels: ArrayBuffer; readonly gapPx: number } & (
  | { readonly kind: 'fill'; readonly xPx: number; readonly yPx: number; readonly tolerance: number }
  | { readonly kind: 'back' }
)
export type AreaFound =
  | { readonly kind: 'found'; readonly outlines: readonly (readonly number[])[]; readonly gapPx: number; readonly tookMs: number }
  | { readonly kind: 'refused'; readonly refusal: AreaRefusal | { readonly code: 'no-ink' } }

export interface BroughtRaster {
  readonly layer: RasterLayer
  readonly blob: Blob
  readonly widthPx: number
  readonly heightPx: number
}
/** A layered file, looked at; layers without pixels are skipped. */
export interface BroughtLayers {
  readonly stack: { readonly widthPx: number; readonly heightPx: number }
  readonly layers: readonly BroughtRaster[]
  readonly skipped: readonly string[]
  /** Pictures of turned levels, which have no place to go back to. */
  readonly seen: readonly string[]
  readonly back: readonly BroughtBack[]
}
/** A picture that came back for a drawing, where it lies in that. */
export interface SameArtAsk extends Pick<Picture, 'x' | 'y' | 'widthFw'> {
  readonly drawing: Drawing
  readonly picture: Blob
  readonly pictureBase: string
}

/** Art that was painted elsewhere for a drawing, as one picture; null where nothing was painted, or it can't be told where it lies: `why` says so. */
export interface BroughtBack {
  readonly way: WayBack
  readonly name: string
  /** Layers that were put in beside it, and are in it. */
  readonly added: readonly string[]
  readonly picture: (Pick<Picture, 'x' | 'y' | 'widthFw'> & { readonly blob: Blob }) | null
  readonly why: string | null
}

/** A set to be written with its pictures, or a file to be read. */
export type SetFileAsk = { readonly kind: 'write'; readonly file: SetFile; readonly pictureBase: string } | { readonly kind: 'read'; readonly file: Blob }
export interface SetFileProgress {
  readonly done: number
  readonly total: number
}
export type MadeSetFile = { readonly kind: 'written'; readonly blob: Blob } | { readonly kind: 'read'; readonly file: SetFile; readonly pictures: readonly { readonly hash: string; readonly blob: Blob }[] }

/** The breakdown as it is shown, to be printed. Widths are shares of the page; each cell has its words and what stands under them. */
export interface WorkPrintAsk {
  readonly project: Project
  readonly heading: string
  readonly dateText: string
  readonly columns: readonly { readonly name: string; readonly width: number }[]
  readonly rows: readonly { readonly takeId: string | null; readonly group: string | null; readonly cells: readonly (readonly [text: string, under: string])[] }[]
  /** Of the film, and of pictures. */
  readonly base: string
  readonly pictureBase: string
}
/** Of pages. */
export interface WorkPrintProgress {
  readonly done: number
  readonly total: number
}
export interface PrintedWork {
  readonly file: Blob
  readonly pages: number
}

export interface PrintAsk {
  readonly project: Project
  readonly choice: PrintChoice
  readonly shots: readonly { readonly takeId: string; readonly sequenceId: string; readonly label: string; readonly title: string }[]
  /** `takeId/panelId` of the panels to print; null for all. */
  readonly only: readonly string[] | null
  /** Sequences' names by id. */
  readonly sequences: Readonly<Record<string, string>>
  readonly dateText: string
  /** Where takes and drawings are asked for. */
  readonly base: string
  readonly pictureBase: string
}
export interface PrintProgress {
  readonly phase: 'reading' | 'panels' | 'closing'
  readonly done: number
  readonly total: number
}
export interface PrintedBoards {
  readonly file: Blob
  readonly pages: number
  readonly panels: number
  /** Letters that no font here has. */
  readonly missing: string
  readonly totalMs: number
}
