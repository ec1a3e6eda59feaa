import { defineEventHandler, getRequestHeader, getRouterParam, sendStream, setResponseHeaders, setResponseStatus } from 'h3'
import { readSound } from '../../services/assets'

/** A recording, or with `Range` some of its bytes: a long one is never sent whole to hear a moment of it. */
export default defineEventHandler(async (event) => {
  const { type, bytes, range, stream } = await readSound(getRouterParam(event, 'hash') ?? '', getRequestHeader(event, 'range'))
  setResponseHeaders(event, { 'Content-Type': type, 'Accept-Ranges': 'bytes', 'Cache-Control': 'private, max-age=31536000, immutable' })
  if (range === 'past-end') {
    setResponseStatus(event, 416)
    setResponseHeaders(event, { 'Content-Range': `bytes */${bytes}`, 'Cache-Control': 'no-store' })
    return ''
  }
  if (range !== null) {
    setResponseStatus(event, 206)
    setResponseHeaders(event, { 'Content-Range': `bytes ${range.first}-${range.last}/${bytes}`, 'Content-Length': range.last - range.first + 1 })
  } else setResponseHeaders(event, { 'Content-Length': bytes })
  return sendStream(event, stream)
})
