import { defineEventHandler, getRouterParam, sendStream, setResponseHeaders } from 'h3'
import { readAsset } from '../../services/assets'

export default defineEventHandler(async (event) => {
  const picture = await readAsset(getRouterParam(event, 'hash') ?? '')
  setResponseHeaders(event, {
    'Content-Type': picture.type,
    'Content-Length': picture.bytes,
    'Cache-Control': 'private, max-age=31536000, immutable',
  })
  return sendStream(event, picture.stream)
})
