import { idSchema, textSchema } from '@rubato/core/document'
import { z } from 'zod'
import { HANDED_OVER, madeOnServer, type FormatId } from './handOver'

const names = (Object.keys(HANDED_OVER) as FormatId[]).filter(madeOnServer) as [FormatId, ...FormatId[]]
const distance = z.number().min(0.01).max(1e6).nullable()

export const BURNS = ['timecode', 'label', 'panel', 'take', 'version', 'date', 'text', 'captions'] as const
export type Burn = (typeof BURNS)[number]
const share = z.number().min(0).max(1)

/** What is written into the picture, and where: shares of its width and height, from the left and the top; where nothing is said, in its usual place. */
export const burnInSchema = z.strictObject({
  timecode: z.boolean(),
  label: z.boolean(),
  panel: z.boolean(),
  take: z.boolean(),
  version: z.boolean(),
  date: z.boolean(),
  captions: z.boolean(),
  /** Said in all frames; none where it is empty. */
  text: textSchema(120),
  at: z.partialRecord(z.enum(BURNS), z.strictObject({ x: share, y: share })),
  /** Height of letters, a share of the picture's. */
  size: z.number().min(0.015).max(0.12),
})
export type BurnIn = z.infer<typeof burnInSchema>
export const NO_BURN_IN: BurnIn = Object.freeze({ timecode: false, label: false, panel: false, take: false, version: false, date: false, captions: false, text: '', at: {}, size: 0.032 })

export const MOST_CARD_FRAMES = 1440
/** What is done to the finished picture, and put before it. */
export const dressSchema = z.strictObject({
  tone: z.enum(['drawn', 'grey', 'line']),
  /** Width to height of what is handed over, the picture whole inside it; null: the film's own. */
  aspect: z.number().min(0.2).max(5).nullable(),
  /** A dark line around the picture, a share of its width. */
  border: z.number().min(0).max(0.1),
  /** Lines around what any screen shows, and around what may be written on (SMPTE ST 2046-1: 93 % and 90 %). */
  safe: z.boolean(),
  /** Written all over, faintly; none where it is empty. */
  mark: textSchema(120),
  /** Before the first frame: what the file is of, and words of one's own; so many frames, 0 for none. */
  slate: z.number().int().min(0).max(MOST_CARD_FRAMES),
  card: z.strictObject({ text: textSchema(500), frames: z.number().int().min(0).max(MOST_CARD_FRAMES) }),
})
export type Dress = z.infer<typeof dressSchema>
export const UNDRESSED: Dress = Object.freeze({ tone: 'drawn', aspect: null, border: 0, safe: false, mark: '', slate: 0, card: { text: '', frames: 48 } })
/** Frames before a file's first. */
export const leadFrames = ({ slate, card }: Dress): number => slate + (card.text.trim() === '' ? 0 : card.frames)

/** What slates and burn-ins say of how a file came about. */
export interface Said {
  readonly version: string
  /** As it is written. */
  readonly date: string
  readonly who: string
}

/** How pictures and movies look and sound, wherever they are made. */
export const movieLookSchema = z.strictObject({
  /** Of the project's size. */
  size: z.union([z.literal(1), z.literal(0.5), z.literal(0.25)]),
  /** Whether a movie has the film's sound. */
  sound: z.boolean(),
  burnIn: burnInSchema,
  dress: dressSchema,
  /** Whether what stands in for something is seen. */
  standIns: z.boolean(),
  /** Distances in grey in the place of colours, from white to black; null: as drawn. Absent ends are those of the shots. */
  depth: z.strictObject({ nearest: distance, farthest: distance }).nullable(),
  /** Of pictures: whether what nothing is drawn on is see-through. */
  clear: z.boolean(),
  /** Of each level's pictures: whether they are cut down to what is seen of it. */
  trim: z.boolean(),
})
export type MovieLook = z.infer<typeof movieLookSchema>

export const even = (value: number) => Math.max(2, Math.round(value / 2) * 2)
/** The picture's size; even, as video wants it. */
export const picturePixels = ({ project, size }: { readonly project: { readonly widthPx: number; readonly heightPx: number }; readonly size: number }): { readonly widthPx: number; readonly heightPx: number } => ({ widthPx: even(project.widthPx * size), heightPx: even(project.heightPx * size) })

const frame = z.number().int().min(0).max(10_000_000)
export const MOST_HANDLES = 240
/** A render that is asked of the server. */
export const renderSchema = z.strictObject({
  format: z.enum(names),
  of: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('film') }),
    z.strictObject({ kind: z.literal('span'), start: frame, end: frame }),
    z.strictObject({ kind: z.literal('shots'), from: textSchema(40), to: textSchema(40) }),
  ]),
  /** One file, or one for each shot, with so many frames more at both ends. */
  each: z.enum(['whole', 'shot']),
  handles: z.number().int().min(0).max(MOST_HANDLES),
  look: movieLookSchema,
  /** Before others, in its turn, after others. */
  priority: z.union([z.literal(1), z.literal(0), z.literal(-1)]),
  author: textSchema(60).trim().default(''),
  /** A version in the place of the film as it is now. */
  version: idSchema.optional(),
})
export type RenderAsk = z.infer<typeof renderSchema>

/** Of a render, or of a piece of one. */
export type RenderState = 'running' | 'done' | 'failed' | 'cancelled'
export interface RenderFile {
  readonly number: number
  readonly name: string
  readonly bytes: number
}
export interface Render {
  readonly id: string
  readonly format: FormatId
  /** What of the film, as the artist says it. */
  readonly about: string
  readonly state: RenderState
  readonly priority: number
  readonly author: string
  /** Of all its files; 0 where it is not made of frames. */
  readonly frames: number
  readonly doneFrames: number
  readonly pieces: number
  readonly donePieces: number
  /** Pieces that are being made now, and how many hands there are for it at all. */
  readonly atWork: number
  readonly workers: number
  /** Why it failed, or why something of it was begun again. */
  readonly why: string | null
  readonly files: readonly RenderFile[]
  /** ISO 8601. */
  readonly createdAt: string
  readonly endedAt: string | null
  /** When its files are let go of. */
  readonly expiresAt: string | null
}

/** What a worker's page is to make, and where it hands it in. */
export interface PageJob {
  readonly projectId: string
  readonly version: string
  readonly format: FormatId
  readonly look: MovieLook
  /** Alone: one shot in frames of its own. */
  readonly shotId: string | null
  readonly start: number
  readonly end: number
  /** Whether what stands before a file is before this. */
  readonly lead: boolean
  /** Of the whole file that this is a piece of. */
  readonly fileSpan: { readonly start: number; readonly end: number }
  readonly said: Said
  /** Of frames, or of a file. */
  readonly url: string
  /** Frames are handed in one by one, or a file is made of all. */
  readonly as: 'frames' | 'file'
}

/** What the checks find in a film, or in shots of it; frames are of the shot. */
export interface Checked {
  readonly film: string
  /** Findings that are not meant so. */
  readonly open: number
  readonly shots: readonly {
    readonly shot: string
    readonly startFrame: number
    readonly lengthFrames: number
    readonly findings: readonly {
      readonly kind: 'runs-out' | 'gap'
      readonly says: string
      readonly level: string | null
      readonly side: string
      /** First and last frames. */
      readonly frames: readonly (readonly [first: number, last: number])[]
      readonly worstFrame: number
      /** fw of the picture that are missing, or the share of the frame that is bare. */
      readonly amount: number
      /** The note by which it was accepted; null where it was not. */
      readonly meant: string | null
    }[]
    /** The cut into it and those inside it, each with all that is read there; what is to be looked at or mended and is not accepted is open. */
    readonly cuts: readonly {
      readonly cut: string
      readonly kind: 'shots' | 'cameras' | 'framings'
      /** Of the shot: the first after the cut. */
      readonly frame: number
      readonly readings: readonly { readonly kind: string; readonly verdict: 'well' | 'look' | 'fix'; readonly says: string; readonly meant: string | null }[]
    }[]
  }[]
}
