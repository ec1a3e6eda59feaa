import { EDIT_LIST_EXTENSION, readEditList, readTimeline } from '@rubato/core/interchange'
import type { CutList } from '@rubato/core/stage'
import { answerJobs } from './answerJobs'
import type { CutAsk } from './handOverMessages'

/** Reads a list of a cut; a refusal is told as it is worded. */
answerJobs<CutAsk, { readonly list: CutList; readonly notes: readonly string[] }>(async ({ file, rate, startFrame }) => {
  const text = await file.text()
  const read = file.name.toLowerCase().endsWith(`.${EDIT_LIST_EXTENSION}`) ? readEditList(text, rate, startFrame) : readTimeline(text)
  if (!read.ok) throw new Error(read.why)
  return { list: read.list, notes: read.notes }
})
