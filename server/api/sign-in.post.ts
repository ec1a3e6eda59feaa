import { defineEventHandler, getRequestIP, setCookie, setResponseStatus } from 'h3'
import { z } from 'zod'
import { COOKIE, makePass, sameText } from '../edge/access'
import { readChecked } from '../services/requests'
import { refuse } from '../services/refusals'
import { noteRight, noteWrong, secondsToWait } from '../services/signInTries'

export default defineEventHandler(async (event) => {
  const { secret } = await readChecked(event, z.strictObject({ secret: z.string().max(1000) }), 4096)
  const wanted = process.env.RUBATO_SECRET
  const caller = getRequestIP(event) ?? 'unknown'
  const wait = wanted ? await secondsToWait(caller) : 0
  if (wait > 0) throw refuse(429, 'too-many-tries', `Too many wrong secrets. Try again in ${wait === 1 ? 'a second' : `${wait} seconds`}.`, { retryAfter: wait })
  if (wanted && !sameText(secret, wanted)) {
    await noteWrong(caller)
    throw refuse(401, 'wrong-secret', 'That is not the secret of this server. Ask whoever runs it.')
  }
  if (wanted) await noteRight(caller)
  if (wanted) setCookie(event, COOKIE, makePass(wanted), { httpOnly: true, sameSite: 'strict', path: '/', maxAge: 30 * 24 * 3600 })
  setResponseStatus(event, 204)
})
