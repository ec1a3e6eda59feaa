import { defineEventHandler, getQuery } from 'h3'
import { takeInArchive } from '../../services/archiveIn'
import { leaveUnread } from '../../services/requests'

/** The body is the file. `?incomplete=1`: also where something is missing in it. */
export default defineEventHandler(async (event) => {
  try {
    return await takeInArchive(event.node.req, { incomplete: getQuery(event).incomplete === '1' })
  } finally {
    if (!event.node.req.readableEnded) leaveUnread(event)
  }
})
