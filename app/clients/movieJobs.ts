import type { MadeMovie, MovieProgress, MovieRequest } from '~/workers/messages'
import { createJobs } from './jobs'

/** Movies, pictures and sound to be handed over. */
export const movieJobs = createJobs<MovieRequest, MadeMovie, MovieProgress>(() => new Worker(new URL('../workers/movie.worker.ts', import.meta.url), { type: 'module' }), { cancelWithinMs: 3000 })
