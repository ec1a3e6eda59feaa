import type { MadePeaks, PeaksAsk } from '~/workers/messages'
import { createJobs } from './jobs'

/** The peaks of recordings. Decoders hold memory that only the end of their worker gives back. */
export const peaksJobs = createJobs<PeaksAsk, MadePeaks, number>(() => new Worker(new URL('../workers/peaks.worker.ts', import.meta.url), { type: 'module' }), { idleMs: 1500 })
