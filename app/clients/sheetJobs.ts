import type { MadeSheets, SheetsAsk, SheetsProgress } from '~/workers/messages'
import { createJobs } from './jobs'

/** Lays out background sheets. */
export const sheetJobs = createJobs<SheetsAsk, MadeSheets, SheetsProgress>(() => new Worker(new URL('../workers/sheets.worker.ts', import.meta.url), { type: 'module' }))
