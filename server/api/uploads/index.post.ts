import { defineEventHandler } from 'h3'
import { z } from 'zod'
import { readChecked } from '../../services/requests'
import { beginUpload } from '../../services/uploads'

const beginSchema = z.strictObject({ kind: z.enum(['picture', 'sound', 'batch', 'archive']), bytes: z.int().min(1).max(2 ** 40) })

export default defineEventHandler(async (event) => {
  const { kind, bytes } = await readChecked(event, beginSchema, 4096)
  return beginUpload(kind, bytes)
})
