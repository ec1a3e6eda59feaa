import { defineEventHandler, getRouterParam, sendStream, setResponseHeaders } from 'h3'
import { renderedFile } from '../../../../../../renders/renders'
import { idParam, renderParam } from '../../../../../../services/params'

/** What was made, to be saved. */
export default defineEventHandler(async (event) => {
  const { name, stream, bytes } = await renderedFile(idParam(event), renderParam(event), Number(getRouterParam(event, 'number')))
  setResponseHeaders(event, { 'Content-Type': 'application/octet-stream', 'Content-Length': bytes, 'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}` })
  return sendStream(event, stream)
})
