import { thinFramings, thinLevel, type Thinned } from '@rubato/core/stage'
import { answerJobs } from './answerJobs'
import type { ThinAsk } from './messages'

answerJobs<ThinAsk, Thinned>(({ take, of, optics, tolerancePx, widthPx, reaches }) =>
  'cameraId' in of ? thinFramings(take, of.cameraId, optics, tolerancePx, widthPx, reaches) : thinLevel(take, of.levelId, optics, tolerancePx, widthPx, reaches.get(of.levelId)),
)
