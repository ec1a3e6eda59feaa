import { defineEventHandler, getRouterParam, sendStream, setResponseHeaders } from 'h3'
import { readPicture } from '../../services/pictures'

export default defineEventHandler(async (event) => {
  const picture = await readPicture(getRouterParam(event, 'hash') ?? '')
  setResponseHeaders(event, {
    'Content-Type': picture.type,
    'Content-Length': picture.bytes,
    'Cache-Control': 'private, max-age=31536000, immutable',
  })
  return sendStream(event, picture.stream)
})
