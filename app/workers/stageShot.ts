import type { Drawing, Project } from '@rubato/core/document'
import type { Rectangle } from '@rubato/core/geometry'
import type { PlacedLevel, StageFrame, TakeStage } from '@rubato/core/stage'
import type { ViewBox } from '../viewport/viewBox'
import type { DrawingPlaced } from './thumbPainter'

/** A shot as whoever writes its set and cameras has it. */
export interface StageShot {
  readonly label: string
  readonly takeId: string
  /** Of the film, counted with its start timecode. */
  readonly startFrame: number
  readonly stage: TakeStage
  /** Of its panels only this one is handed over; null: all. */
  readonly panelId: string | null
  readonly project: Project
  /** A drawing as a picture, as fine as the shot sees it; null where it is empty. */
  picture(drawingId: string): Promise<{ readonly picture: Blob; readonly bounds: Rectangle } | null>
  drawingOf(drawingId: string): Drawing | null
  /** A placed picture’s own file; null where it can’t be had. */
  placed(assetHash: string): Promise<Blob | null>
  /** A frame as the film shows it, on paper white, as a PNG file. */
  frame(frame: number, view: ViewBox): Promise<Uint8Array>
  /** One level as a frame shows it, its repeats as well, on nothing, as large as the picture, as a PNG file. */
  alone(frame: StageFrame, placed: PlacedLevel): Promise<Uint8Array>
  /** A drawing by itself, as a PNG file. */
  drawing(drawing: Drawing, place: DrawingPlaced): Promise<Uint8Array>
}

/** One of the files that a shot is handed over as. */
export interface StageFile {
  /** Of the film’s own, without a shot where there is but one. */
  readonly name: string
  readonly part: BlobPart
}
