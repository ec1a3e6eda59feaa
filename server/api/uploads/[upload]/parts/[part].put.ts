import { defineEventHandler, getRouterParam, setResponseStatus } from 'h3'
import { uploadParam } from '../../../../services/params'
import { leaveUnread } from '../../../../services/requests'
import { takePart } from '../../../../services/uploads'

/** The body is the part's bytes. */
export default defineEventHandler(async (event) => {
  try {
    await takePart(uploadParam(event), Number(getRouterParam(event, 'part')), event.node.req)
  } finally {
    if (!event.node.req.readableEnded) leaveUnread(event)
  }
  setResponseStatus(event, 204)
})
