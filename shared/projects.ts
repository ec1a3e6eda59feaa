import { projectSchema, type Drawing, type Outline, type Project, type TakeBody } from '@rubato/core/document'
import { z } from 'zod'

/** What a new project needs; the server makes ids, the first sequence and the first shot. */
export const newProjectSchema = projectSchema.omit({ id: true })
export type NewProject = z.infer<typeof newProjectSchema>

export const renameProjectSchema = z.strictObject({ title: projectSchema.shape.title })

/** A project as Home lists it. */
export interface ProjectCard {
  readonly project: Project
  readonly shotCount: number
  readonly lengthFrames: number
  /** ISO 8601. */
  readonly updatedAt: string
  readonly trashedAt: string | null
}

/** What an editor opens with: no bodies yet. */
export interface OpenedProject {
  readonly outline: Outline
  readonly outlineRevision: number
  /** Where the journal was: what comes after it is not in here yet. */
  readonly journalSeq: number
  /** Each take's length in frames, so that the whole film can be laid out. */
  readonly takeLengths: Readonly<Record<string, number>>
}

export interface LoadedTake {
  readonly id: string
  readonly revision: number
  readonly body: TakeBody
}

export interface LoadedDrawing {
  readonly id: string
  readonly revision: number
  readonly drawing: Drawing
}

/** The first picture of a film: all that its card needs to be drawn. */
export interface ProjectCover {
  readonly take: LoadedTake | null
  readonly drawings: readonly LoadedDrawing[]
}

/** At most this many bodies or drawings in one request. */
export const LOAD_LIMIT = 200
