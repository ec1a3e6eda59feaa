import type { MadeStages, StageAsk } from '~/workers/handOverMessages'
import type { MovieProgress } from '~/workers/messages'
import { createJobs } from './jobs'

/** Sets and cameras, shot by shot. */
export const stageJobs = createJobs<StageAsk, MadeStages, MovieProgress>(() => new Worker(new URL('../workers/stage.worker.ts', import.meta.url), { type: 'module' }))
