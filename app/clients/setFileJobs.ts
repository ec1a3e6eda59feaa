import type { MadeSetFile, SetFileAsk, SetFileProgress } from '~/workers/messages'
import { createJobs } from './jobs'

/** Sets out to files, and in from them. */
export const setFileJobs = createJobs<SetFileAsk, MadeSetFile, SetFileProgress>(() => new Worker(new URL('../workers/setFile.worker.ts', import.meta.url), { type: 'module' }))
