import { defineEventHandler } from 'h3'
import { BATCH_LIMIT_BYTES, batchSchema, type Batch } from '#shared/edits'
import { applyBatch } from '../../../services/editBatches'
import { idParam } from '../../../services/params'
import { readChecked } from '../../../services/requests'

export default defineEventHandler(async (event) =>
  applyBatch(idParam(event), (await readChecked(event, batchSchema, BATCH_LIMIT_BYTES)) as Batch),
)
