import type { Project } from '@rubato/core/document'
import type { Rectangle } from '@rubato/core/geometry'
import type { TakeStage } from '@rubato/core/stage'

/** A shot as whoever writes its set and cameras has it. */
export interface StageShot {
  readonly label: string
  /** Of the film, counted with its start timecode. */
  readonly startFrame: number
  readonly stage: TakeStage
  readonly project: Project
  /** A drawing as a picture, as fine as the shot sees it; null where it is empty. */
  picture(drawingId: string): Promise<{ readonly picture: Blob; readonly bounds: Rectangle } | null>
}
