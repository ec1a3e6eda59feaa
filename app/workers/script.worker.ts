import { readFountain } from '@rubato/core/script'
import type { ScriptAnswer, ScriptAsk } from './messages'

self.onmessage = ({ data }: MessageEvent<ScriptAsk>) => {
  let answer: ScriptAnswer
  try {
    answer = { kind: 'read', script: readFountain(data.text) }
  } catch (error) {
    answer = { kind: 'failed', what: (error as Error).message }
  }
  postMessage(answer)
}
