import { thinFramings } from '@rubato/core/stage'
import type { ThinAnswer, ThinAsk } from './messages'

self.onmessage = ({ data: { number, take, cameraId, optics, tolerancePx, widthPx, reaches } }: MessageEvent<ThinAsk>) => {
  let answer: ThinAnswer
  try {
    answer = { kind: 'found', number, found: thinFramings(take, cameraId, optics, tolerancePx, widthPx, reaches) }
  } catch (error) {
    answer = { kind: 'failed', number, what: (error as Error).message }
  }
  postMessage(answer)
}
