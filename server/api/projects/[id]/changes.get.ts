import { defineEventHandler, getQuery } from 'h3'
import { journalAfter } from '../../../services/journal'
import { idParam } from '../../../services/params'
import { liveProject } from '../../../services/projects'
import { refuse } from '../../../services/refusals'

/** `?after=SEQ`: the journal after that place. */
export default defineEventHandler(async (event) => {
  const after = Number(getQuery(event).after ?? 0)
  if (!Number.isSafeInteger(after) || after < 0) throw refuse(422, 'invalid-request', 'after: a whole number, the last journal entry that is known.')
  const project = await liveProject(idParam(event))
  return journalAfter(project.id, after)
})
