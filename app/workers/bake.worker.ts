import { bakeOperated, bakeSpans, type Baked } from '@rubato/core/edits'
import { answerJobs } from './answerJobs'
import type { BakeAsk } from './messages'

answerJobs<BakeAsk, Baked, number>(({ take, takeId, of, optics, tolerancePx, outputWidthPx, reaches, ids }, { signal, tell }) => {
  let next = 0
  const told = (share: number) => {
    tell(share)
    return signal.aborted
  }
  const [baking, newId] = [{ optics, tolerancePx, outputWidthPx, reaches, told }, () => `${ids}-${(next++).toString(36)}`]
  const baked = 'spanIds' in of ? bakeSpans(take, takeId, of.spanIds, baking, newId) : bakeOperated(take, takeId, of.cameraId, of.from, of.poses, baking, newId)
  if (baked === null) throw new DOMException('Baking was called off.', 'AbortError')
  return baked
})
