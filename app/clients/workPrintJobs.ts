import type { PrintedWork, WorkPrintAsk, WorkPrintProgress } from '~/workers/messages'
import { createJobs } from './jobs'

/** The breakdown as a PDF. */
export const workPrintJobs = createJobs<WorkPrintAsk, PrintedWork, WorkPrintProgress>(() => new Worker(new URL('../workers/workPrint.worker.ts', import.meta.url), { type: 'module' }), { idleMs: 1500 })
