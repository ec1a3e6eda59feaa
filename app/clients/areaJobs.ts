import type { AreaAsk, AreaFound } from '~/workers/messages'
import { createJobs } from './jobs'

/** Areas to be filled, and figures to be backed. */
export const areaJobs = createJobs<AreaAsk, AreaFound>(() => new Worker(new URL('../workers/area.worker.ts', import.meta.url), { type: 'module' }))
