import { defineEventHandler } from 'h3'
import { leaveUnread } from '../../services/requests'
import { storeAsset } from '../../services/assets'
import { leaving } from '../../services/callers'

/** The body is the file itself; the bytes, not the declared type, say what it is. */
export default defineEventHandler(async (event) => {
  try {
    return await storeAsset(event.node.req, 'picture', { signal: leaving(event) })
  } finally {
    if (!event.node.req.readableEnded) leaveUnread(event)
  }
})
