import type { Drawing, Project, TakeBody } from '@rubato/core/document'

/** What each worker is asked and answers; the one place where the two sides meet. */
export interface WorkerMessages {
  movie: { ask: MovieRequest | { readonly kind: 'cancel' }; answer: MovieAnswer }
}

export interface MovieShot {
  readonly label: string
  readonly body: TakeBody
}

export interface MovieRequest {
  readonly kind: 'make'
  readonly project: Project
  /** In film order; every frame of each is made. */
  readonly shots: readonly MovieShot[]
  readonly drawings: Readonly<Record<string, Drawing>>
  readonly format: 'webm' | 'png'
  /** 1, 1/2 or 1/4 of the project's size, made even. */
  readonly size: 1 | 0.5 | 0.25
  readonly fileName: string
  readonly pictureBase: string
}

export type MovieAnswer =
  | { readonly kind: 'progress'; readonly phase: 'pictures' | 'frames' | 'closing'; readonly done: number; readonly total: number }
  | { readonly kind: 'done'; readonly file: Blob; readonly frames: number; readonly codec: string | null; readonly timings: MovieTimings }
  | { readonly kind: 'cancelled' }
  | { readonly kind: 'failed'; readonly what: string }

/** Milliseconds spent, for the benchmark. */
export interface MovieTimings {
  readonly totalMs: number
  readonly drawMs: number
}
