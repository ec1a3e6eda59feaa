import { defineEventHandler, getQuery, getRouterParam, sendStream, setResponseHeaders } from 'h3'
import { PICTURE_SIDES_PX } from '#shared/assets'
import { readAsset } from '../../services/assets'
import { leaving } from '../../services/callers'
import { refuse } from '../../services/refusals'

/** `?side=512`: no more than that many px along its longest side. */
export default defineEventHandler(async (event) => {
  const { side } = getQuery(event)
  const wanted = side === undefined ? null : PICTURE_SIDES_PX.find((each) => String(each) === side)
  if (wanted === undefined) throw refuse(422, 'invalid-request', `side is one of ${PICTURE_SIDES_PX.join(', ')}.`)
  const picture = await readAsset(getRouterParam(event, 'hash') ?? '', wanted, leaving(event))
  setResponseHeaders(event, {
    'Content-Type': picture.type,
    'Content-Length': picture.bytes,
    'Cache-Control': 'private, max-age=31536000, immutable',
  })
  return sendStream(event, picture.stream)
})
