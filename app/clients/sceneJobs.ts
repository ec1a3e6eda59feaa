import type { SceneAnswer, SceneInAsk } from '~/workers/handOverMessages'
import { createJobs } from './jobs'

/** 3D scenes that come in, read and made into what a shot has. */
export const sceneJobs = createJobs<SceneInAsk, SceneAnswer>(() => new Worker(new URL('../workers/sceneIn.worker.ts', import.meta.url), { type: 'module' }), { idleMs: 60_000, cancelWithinMs: 300 })
