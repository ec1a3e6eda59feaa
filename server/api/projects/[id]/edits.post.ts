import { defineEventHandler, getRequestHeader } from 'h3'
import { LINES_TYPE } from '#shared/changeLines'
import { BATCH_LIMIT_BYTES, JSON_BATCH_LIMIT_BYTES } from '#shared/edits'
import { takeBatch, takeBatchLines } from '../../../services/batches'
import { idParam } from '../../../services/params'
import { bodyOf, readText } from '../../../services/requests'

export default defineEventHandler(async (event) => {
  const asLines = getRequestHeader(event, 'content-type')?.startsWith(LINES_TYPE) === true
  return asLines ? takeBatchLines(idParam(event), bodyOf(event, BATCH_LIMIT_BYTES)) : takeBatch(idParam(event), await readText(event, JSON_BATCH_LIMIT_BYTES))
})
