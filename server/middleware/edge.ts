import { randomUUID } from 'node:crypto'
import type { Server } from 'node:http'
import type { Socket } from 'node:net'
import { defineEventHandler, getCookie, getRequestHeader, getRequestIP, setResponseHeader, setResponseHeaders, type H3Event } from 'h3'
import { COOKIE, isLoopback, isOwn, isPass } from '../edge/access'
import { contentPolicy, SECURITY_HEADERS } from '../edge/headers'
import { isPage, keptShell, withNonce } from '../edge/shell'
import { createLimiter } from '../edge/limits'
import { logLine, routeOf } from '../edge/log'
import { refuse } from '../services/refusals'

const limiter = createLimiter()
const OPEN = new Set(['/api/health', '/api/sign-in'])

/** A body may take as long as it comes; one that has stopped coming may not. What is done with it afterwards takes its own time. */
const IDLE_MS = Number(process.env.RUBATO_IDLE_SECONDS || 120) * 1000

function waitWhileItComes({ node: { req } }: H3Event) {
  const socket = req.socket as Socket & { server?: Server }
  // The whole request has five minutes by default, which a slow line needs for a large file.
  if (socket.server !== undefined) socket.server.requestTimeout = 0
  const sends = Number(req.headers['content-length'] ?? 0) > 0 || req.headers['transfer-encoding'] !== undefined
  if (!sends) return
  socket.setTimeout(IDLE_MS)
  // Not at its close: by then the connection's own wait for the next request has begun.
  req.once('end', () => socket.setTimeout(0))
}

/** First of all for every request: a name for the log, safe headers, and who may come in. */
export default defineEventHandler(async (event) => {
  const requestId = randomUUID().slice(0, 8)
  event.context.requestId = requestId
  setResponseHeaders(event, { ...SECURITY_HEADERS, 'Content-Security-Policy': contentPolicy(null), 'X-Request-Id': requestId })
  const path = event.path.split('?')[0]!
  if (!path.startsWith('/api/')) {
    const shell = event.method === 'GET' && isPage(path) ? keptShell() : null
    if (shell === null) return
    const { body, policy } = withNonce(shell)
    setResponseHeaders(event, { 'Content-Type': 'text/html;charset=utf-8', 'Content-Security-Policy': policy })
    return body
  }
  setResponseHeader(event, 'Cache-Control', 'no-store')
  const begun = performance.now()
  event.node.res.once('close', () => {
    const { statusCode } = event.node.res
    logLine({ level: 'info', request: requestId, method: event.method, route: routeOf(path), status: statusCode, ms: Math.round(performance.now() - begun) })
  })
  const wait = await limiter.take(getRequestIP(event) ?? 'unknown')
  if (wait > 0) {
    setResponseHeader(event, 'Retry-After', wait)
    throw refuse(429, 'too-many-requests', `Too many requests at once. Try again in ${wait === 1 ? 'a second' : `${wait} seconds`}.`)
  }
  waitWhileItComes(event)
  const secret = process.env.RUBATO_SECRET
  // Without a sign-in, another site must not reach the server through the artist's browser under a name of its own.
  if (!secret && !isLoopback((getRequestHeader(event, 'host') ?? '').replace(/:\d+$/, ''))) throw refuse(403, 'wrong-host', 'This server answers to localhost only.')
  const from = getRequestHeader(event, 'sec-fetch-site')
  if (event.method !== 'GET' && from !== undefined && from !== 'same-origin' && from !== 'none') throw refuse(403, 'other-site', 'Requests from other sites are not taken.')
  // Over plain HTTP browsers send no Sec-Fetch headers, but an Origin with everything that is not GET: another port is another site.
  const origin = getRequestHeader(event, 'origin')
  if (event.method !== 'GET' && event.method !== 'HEAD' && origin !== undefined && !isOwn(origin, getRequestHeader(event, 'host') ?? '')) throw refuse(403, 'other-site', 'Requests from other sites are not taken.')
  if (secret && !OPEN.has(path) && !isPass(secret, getCookie(event, COOKIE) ?? '')) throw refuse(401, 'sign-in', 'Sign in first.')
})
