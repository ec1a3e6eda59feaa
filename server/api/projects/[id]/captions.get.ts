import { defineEventHandler, getQuery } from 'h3'
import { captionQuerySchema } from '#shared/captions'
import { findCaptions } from '../../../services/captions'
import { idParam } from '../../../services/params'
import { refuse } from '../../../services/refusals'

/** `?q=WORDS&case=1`: which panels say them. */
export default defineEventHandler(async (event) => {
  const query = captionQuerySchema.safeParse(getQuery(event))
  if (!query.success) throw refuse(422, 'invalid-request', 'q is what to look for, 1 to 500 letters; case is 0 or 1.')
  return findCaptions(idParam(event), query.data.q, query.data.case === '1')
})
