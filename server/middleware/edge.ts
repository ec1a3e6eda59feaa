import { randomUUID } from 'node:crypto'
import { defineEventHandler, getCookie, getRequestHeader, getRequestIP, setResponseHeader, setResponseHeaders } from 'h3'
import { COOKIE, isLoopback, isPass } from '../edge/access'
import { contentPolicy, SECURITY_HEADERS } from '../edge/headers'
import { createLimiter } from '../edge/limits'
import { logLine, routeOf } from '../edge/log'
import { refuse } from '../services/refusals'

const limiter = createLimiter()
const OPEN = new Set(['/api/health', '/api/sign-in'])

/** First of all for every request: a name for the log, safe headers, and who may come in. */
export default defineEventHandler((event) => {
  const requestId = randomUUID().slice(0, 8)
  event.context.requestId = requestId
  setResponseHeaders(event, { ...SECURITY_HEADERS, 'Content-Security-Policy': contentPolicy(null), 'X-Request-Id': requestId })
  const path = event.path.split('?')[0]!
  if (!path.startsWith('/api/')) return
  setResponseHeader(event, 'Cache-Control', 'no-store')
  const begun = performance.now()
  event.node.res.once('close', () => {
    const { statusCode } = event.node.res
    logLine({ level: 'info', request: requestId, method: event.method, route: routeOf(path), status: statusCode, ms: Math.round(performance.now() - begun) })
  })
  const wait = limiter.take(getRequestIP(event) ?? 'unknown')
  if (wait > 0) {
    setResponseHeader(event, 'Retry-After', wait)
    throw refuse(429, 'too-many-requests', `Too many requests at once. Try again in ${wait === 1 ? 'a second' : `${wait} seconds`}.`)
  }
  const secret = process.env.RUBATO_SECRET
  // Without a sign-in, another site must not reach the server through the artist's browser under a name of its own.
  if (!secret && !isLoopback((getRequestHeader(event, 'host') ?? '').replace(/:\d+$/, ''))) throw refuse(403, 'wrong-host', 'This server answers to localhost only.')
  const from = getRequestHeader(event, 'sec-fetch-site')
  if (event.method !== 'GET' && from !== undefined && from !== 'same-origin' && from !== 'none') throw refuse(403, 'other-site', 'Requests from other sites are not taken.')
  if (secret && !OPEN.has(path) && !isPass(secret, getCookie(event, COOKIE) ?? '')) throw refuse(401, 'sign-in', 'Sign in first.')
})
