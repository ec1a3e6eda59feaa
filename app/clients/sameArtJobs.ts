import type { SameArtAsk } from '~/workers/messages'
import { createJobs } from './jobs'

/** Whether what came back is what is drawn. */
export const sameArtJobs = createJobs<SameArtAsk, boolean>(() => new Worker(new URL('../workers/sameArt.worker.ts', import.meta.url), { type: 'module' }), { idleMs: 1500 })
