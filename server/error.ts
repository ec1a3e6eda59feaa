import type { IncomingMessage } from 'node:http'
import { defineNitroErrorHandler } from 'nitropack/runtime'
import { send, setResponseHeader, setResponseStatus } from 'h3'
import { logLine } from './edge/log'
import { troubleOf } from './services/databaseTrouble'

const DRAIN_MS = 3000

/** Who is still sending does not read: the rest of a body is let pass for a while, or the answer would be lost with the connection. */
async function bodyGone(request: IncomingMessage): Promise<void> {
  if (request.complete || request.destroyed) return
  await new Promise<void>((resolve) => {
    const timer = setTimeout(resolve, DRAIN_MS)
    for (const name of ['end', 'close', 'error']) {
      request.once(name, () => {
        clearTimeout(timer)
        resolve()
      })
    }
    request.resume()
  })
}

/** Every failed request: the reason where it is ours to give, else a name to find it by in the log. */
export default defineNitroErrorHandler(async (thrown, event) => {
  // Who asked has left in the middle of the question: nobody waits for an answer, and nothing has failed.
  if (event.node.req.destroyed && !event.node.req.complete) {
    event._handled = true
    return void event.node.res.destroy()
  }
  // Whose fault it is decides what may be said, and whether it is worth trying again.
  const trouble = thrown.unhandled || thrown.fatal || thrown.statusCode === 500 ? troubleOf(thrown) : null
  const error = trouble ?? thrown
  const request = event.context.requestId as string | undefined
  const expected = !error.unhandled && !error.fatal
  if (!expected) {
    // The place is enough to find it; a message may hold what an artist wrote.
    const place = thrown.cause instanceof Error ? thrown.cause : thrown
    logLine({ level: 'error', request, name: place.name, place: place.stack?.split('\n').slice(1, 4).map((line) => line.trim()) })
  }
  // A file that was half sent must not seem whole: its connection breaks off.
  if (event.node.res.headersSent) return void event.node.res.destroy()
  setResponseStatus(event, expected ? error.statusCode : 500, expected ? error.statusMessage : 'failed')
  setResponseHeader(event, 'Content-Type', 'application/json')
  const wait = (error.data as { retryAfter?: number } | undefined)?.retryAfter
  if (wait !== undefined) setResponseHeader(event, 'Retry-After', wait)
  const answer = expected
    ? { statusCode: error.statusCode, message: error.message, data: error.data, request }
    : { statusCode: 500, message: `The server failed at this. Nothing was changed. (${request ?? 'no number'})`, request }
  await bodyGone(event.node.req)
  return send(event, JSON.stringify(answer))
})
