import type { PrintAsk, PrintedBoards, PrintProgress } from '~/workers/messages'
import { createJobs } from './jobs'

/** Boards as a printed document. */
export const printJobs = createJobs<PrintAsk, PrintedBoards, PrintProgress>(() => new Worker(new URL('../workers/print.worker.ts', import.meta.url), { type: 'module' }))
