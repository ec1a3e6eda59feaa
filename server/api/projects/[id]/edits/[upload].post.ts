import { defineEventHandler } from 'h3'
import { takeBatchLines } from '../../../../services/batches'
import { idParam, uploadParam } from '../../../../services/params'
import { dropUpload, readBatchUpload } from '../../../../services/uploads'

/** Changes that were too large for one request and came up in parts. */
export default defineEventHandler(async (event) => {
  const upload = uploadParam(event)
  const accepted = await takeBatchLines(idParam(event), await readBatchUpload(upload))
  await dropUpload(upload)
  return accepted
})
