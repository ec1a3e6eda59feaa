import { defineEventHandler, getQuery, setResponseHeaders } from 'h3'
import { cutQuerySchema } from '#shared/cuts'
import { cutFile } from '../../../services/cuts'
import { idParam } from '../../../services/params'
import { checkedValue } from '../../../services/requests'

/** `?as=otio|edl|edls|marks`. */
export default defineEventHandler(async (event) => {
  const { name, type, content } = await cutFile(idParam(event), checkedValue(getQuery(event), cutQuerySchema))
  setResponseHeaders(event, { 'Content-Type': `${type}; charset=utf-8`, 'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}` })
  return content
})
