import type { Baked } from '@rubato/core/edits'
import type { BakeAsk } from '~/workers/messages'
import { createJobs } from './jobs'

/** Spans of a camera as framings. */
export const bakeJobs = createJobs<BakeAsk, Baked, number>(() => new Worker(new URL('../workers/bake.worker.ts', import.meta.url), { type: 'module' }))
