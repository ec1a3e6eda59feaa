import type { BroughtLayers } from '~/workers/messages'
import { createJobs } from './jobs'

/** Layered files, looked at. */
export const bringJobs = createJobs<File, BroughtLayers>(() => new Worker(new URL('../workers/bring.worker.ts', import.meta.url), { type: 'module' }), { idleMs: 1500 })
