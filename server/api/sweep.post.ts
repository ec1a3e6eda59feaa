import { defineEventHandler } from 'h3'
import { z } from 'zod'
import { readChecked } from '../services/requests'
import { sweepBlobs } from '../services/sweep'

/** `{ "dry": true }` only tells what would go. */
export default defineEventHandler(async (event) => sweepBlobs((await readChecked(event, z.strictObject({ dry: z.boolean() }), 4096)).dry))
