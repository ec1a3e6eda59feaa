import { defineEventHandler, getRouterParam, setResponseStatus } from 'h3'
import { sinkOf } from '../../../renders/sinks'
import { noSuchAddress } from '../../../services/refusals'

/** A whole file that a worker's own page has made. */
export default defineEventHandler(async (event) => {
  const sink = sinkOf(getRouterParam(event, 'token') ?? '')
  if (sink === null) throw noSuchAddress(event.method, event.path)
  await sink.file(event.node.req)
  setResponseStatus(event, 204)
})
