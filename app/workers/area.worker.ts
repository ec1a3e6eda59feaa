import { findArea } from './areaOutlines'
import type { AreaAnswer, AreaAsk } from './messages'

self.onmessage = ({ data }: MessageEvent<AreaAsk>) => {
  let answer: AreaAnswer
  try {
    answer = findArea(data)
  } catch (error) {
    answer = { kind: 'failed', what: (error as Error).message }
  }
  postMessage(answer)
}
