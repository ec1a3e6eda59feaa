import type { ReadScript } from '@rubato/core/script'
import { createJobs } from './jobs'

/** Scripts, read. */
export const scriptJobs = createJobs<string, ReadScript>(() => new Worker(new URL('../workers/script.worker.ts', import.meta.url), { type: 'module' }))
