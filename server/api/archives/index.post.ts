import { defineEventHandler } from 'h3'
import { takeInArchive } from '../../services/archiveIn'
import { leaveUnread } from '../../services/requests'

/** The body is the file. */
export default defineEventHandler(async (event) => {
  try {
    return await takeInArchive(event.node.req)
  } finally {
    if (!event.node.req.readableEnded) leaveUnread(event)
  }
})
