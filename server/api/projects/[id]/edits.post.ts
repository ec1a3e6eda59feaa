import { defineEventHandler } from 'h3'
import { BATCH_LIMIT_BYTES } from '#shared/edits'
import { takeBatch } from '../../../services/batches'
import { idParam } from '../../../services/params'
import { readText } from '../../../services/requests'

export default defineEventHandler(async (event) => takeBatch(idParam(event), await readText(event, BATCH_LIMIT_BYTES)))
