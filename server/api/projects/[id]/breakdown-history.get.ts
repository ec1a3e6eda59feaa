import { recordIdSchema } from '@rubato/core/document'
import { defineEventHandler, getQuery } from 'h3'
import { workHistory } from '../../../services/facts'
import { idParam } from '../../../services/params'
import { refuse } from '../../../services/refusals'

export default defineEventHandler(async (event) => {
  const of = String(getQuery(event).of ?? '')
  if (!recordIdSchema.safeParse(of).success) throw refuse(422, 'invalid-id', `"${of.slice(0, 64)}" is nothing in a breakdown.`)
  return workHistory(idParam(event), of)
})
