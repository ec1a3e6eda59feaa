import { defineEventHandler, getCookie, setResponseStatus } from 'h3'
import { COOKIE, isPass } from '../edge/access'
import { checkHealth } from '../services/health'

export default defineEventHandler(async (event) => {
  const secret = process.env.RUBATO_SECRET
  const health = await checkHealth(Boolean(secret) && !isPass(secret!, getCookie(event, COOKIE) ?? ''))
  if (!health.ok) setResponseStatus(event, 503)
  return health
})
