import { thinFramings, type Thinned } from '@rubato/core/stage'
import { answerJobs } from './answerJobs'
import type { ThinAsk } from './messages'

answerJobs<ThinAsk, Thinned>(({ take, cameraId, optics, tolerancePx, widthPx, reaches }) => thinFramings(take, cameraId, optics, tolerancePx, widthPx, reaches))
