import type { Thinned } from '@rubato/core/stage'
import type { ThinAsk } from '~/workers/messages'
import { createJobs } from './jobs'

/** Which framings change nothing. */
export const thinJobs = createJobs<ThinAsk, Thinned>(() => new Worker(new URL('../workers/thin.worker.ts', import.meta.url), { type: 'module' }))
