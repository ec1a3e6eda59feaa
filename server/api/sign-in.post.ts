import { defineEventHandler, setCookie, setResponseStatus } from 'h3'
import { z } from 'zod'
import { COOKIE, makePass, sameText } from '../edge/access'
import { readChecked } from '../services/requests'
import { refuse } from '../services/refusals'

const SLOW_MS = 600

export default defineEventHandler(async (event) => {
  const { secret } = await readChecked(event, z.strictObject({ secret: z.string().max(1000) }), 4096)
  const wanted = process.env.RUBATO_SECRET
  if (wanted && !sameText(secret, wanted)) {
    await new Promise((resolve) => setTimeout(resolve, SLOW_MS))
    throw refuse(401, 'wrong-secret', 'That is not the secret of this server. Ask whoever runs it.')
  }
  if (wanted) setCookie(event, COOKIE, makePass(wanted), { httpOnly: true, sameSite: 'strict', path: '/', maxAge: 30 * 24 * 3600 })
  setResponseStatus(event, 204)
})
