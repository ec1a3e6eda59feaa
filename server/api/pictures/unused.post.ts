import { defineEventHandler } from 'h3'
import { z } from 'zod'
import { forgetUnused } from '../../services/assets'
import { readChecked } from '../../services/requests'

const schema = z.strictObject({ files: z.array(z.object({ hash: z.string().regex(/^[0-9a-f]{64}$/), touchedAt: z.iso.datetime() })).max(2000) })

/** Files that were taken in and then given up. */
export default defineEventHandler(async (event) => ({ gone: await forgetUnused((await readChecked(event, schema)).files) }))
