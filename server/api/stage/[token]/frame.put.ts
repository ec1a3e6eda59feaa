import { defineEventHandler, getQuery, getRouterParam, setResponseStatus } from 'h3'
import { buffer } from 'node:stream/consumers'
import { sinkOf } from '../../../renders/sinks'
import { noSuchAddress } from '../../../services/refusals'

/** `?width=&height=`: a frame of what a worker's own page makes. No body: it is the one before. */
export default defineEventHandler(async (event) => {
  const sink = sinkOf(getRouterParam(event, 'token') ?? '')
  if (sink === null) throw noSuchAddress(event.method, event.path)
  const { width, height } = getQuery(event)
  const bytes = await buffer(event.node.req)
  await sink.frame(bytes.length === 0 ? null : bytes, Number(width), Number(height))
  setResponseStatus(event, 204)
})
