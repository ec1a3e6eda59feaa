import type { CutList } from '@rubato/core/stage'
import type { CutAsk } from '~/workers/handOverMessages'
import { createJobs } from './jobs'

/** Lists of a cut that came back, read. */
export const cutJobs = createJobs<CutAsk, { readonly list: CutList; readonly notes: readonly string[] }>(() => new Worker(new URL('../workers/cutReader.worker.ts', import.meta.url), { type: 'module' }))
