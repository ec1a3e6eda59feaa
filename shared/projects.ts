import type { TakeFacts } from '@rubato/core/checks'
import { projectSchema, textSchema, type Breakdown, type Drawing, type Outline, type Project, type SetBody, type TakeBody, type TryBody, type Work } from '@rubato/core/document'
import { z } from 'zod'

/** What a new project needs; the server makes ids, the first sequence and the first shot. */
export const newProjectSchema = projectSchema.omit({ id: true })
export type NewProject = z.infer<typeof newProjectSchema>

/** What Home changes of a project. */
export const projectPatchSchema = z.strictObject({
  title: projectSchema.shape.title.optional(),
  archived: z.boolean().optional(),
  author: textSchema(60).trim().optional(),
})
export type ProjectPatch = z.infer<typeof projectPatchSchema>

/** Where Home keeps a project: on the desk, put away, or in the trash for `TRASH_DAYS` days. */
export const SHELVES = Object.freeze(['desk', 'archive', 'trash'] as const)
export type Shelf = (typeof SHELVES)[number]
export const TRASH_DAYS = 30

/** A project as Home lists it. */
export interface ProjectCard {
  readonly project: Project
  readonly shotCount: number
  readonly lengthFrames: number
  /** ISO 8601. */
  readonly updatedAt: string
  readonly trashedAt: string | null
  readonly archivedAt: string | null
  /** What its takes, drawings and versions fill in the database, and its pictures in the storage. */
  readonly bytes: number
}

/** What an editor opens with: no bodies yet. */
export interface OpenedProject {
  readonly outline: Outline
  readonly outlineRevision: number
  /** Where the journal was: what comes after it is not in here yet. */
  readonly journalSeq: number
  /** Each take's length in frames, so that the whole film can be laid out. */
  readonly takeLengths: Readonly<Record<string, number>>
  /** How many panels each take has. */
  readonly takePanels: Readonly<Record<string, number>>
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

export interface LoadedTry {
  readonly id: string
  readonly revision: number
  readonly tried: TryBody
}

export interface LoadedSet {
  readonly id: string
  readonly revision: number
  readonly body: SetBody
}

export interface LoadedBreakdown {
  readonly id: string
  readonly revision: number
  readonly body: Breakdown
}

/** What is known of the circled takes, by take; and those of which it is still to be worked out. */
export interface KnownFacts {
  readonly facts: Readonly<Record<string, TakeFacts>>
  readonly missing: readonly string[]
}
/** What was said of one thing in the breakdown, by whom and when (ISO 8601); null where nothing was or is said. */
export interface WorkChange {
  readonly author: string
  readonly at: string
  readonly before: Work | null
  readonly after: Work | null
}
/** Facts are worked out for so many takes at once. */
export const FACTS_AT_ONCE = 40

/** The ids of the takes that stand in each set, by its id. */
export type SetUsers = Readonly<Record<string, readonly string[]>>

/** The first picture of a film: all that its card needs to be drawn. */
export interface ProjectCover {
  readonly take: LoadedTake | null
  readonly drawings: readonly LoadedDrawing[]
}

/** At most this many bodies or drawings in one request. */
export const LOAD_LIMIT = 200
