import { defineEventHandler } from 'h3'
import { leaveUnread } from '../../services/requests'
import { storePicture } from '../../services/pictures'

/** The body is the file itself; the bytes, not the declared type, say what it is. */
export default defineEventHandler(async (event) => {
  try {
    return await storePicture(event.node.req)
  } finally {
    if (!event.node.req.readableEnded) leaveUnread(event)
  }
})
