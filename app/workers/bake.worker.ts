import { bakeSpans, type Baked } from '@rubato/core/edits'
import { answerJobs } from './answerJobs'
import type { BakeAsk } from './messages'

answerJobs<BakeAsk, Baked, number>(({ take, takeId, spanIds, optics, tolerancePx, outputWidthPx, reaches, ids }, { signal, tell }) => {
  let next = 0
  const told = (share: number) => {
    tell(share)
    return signal.aborted
  }
  const baked = bakeSpans(take, takeId, spanIds, { optics, tolerancePx, outputWidthPx, reaches, told }, () => `${ids}-${(next++).toString(36)}`)
  if (baked === null) throw new DOMException('Baking was called off.', 'AbortError')
  return baked
})
