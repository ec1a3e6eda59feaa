import { defineEventHandler, sendStream, setResponseHeaders } from 'h3'
import { ARCHIVE_TYPE } from '#shared/archive'
import { archiveProject } from '../../../services/archiveOut'
import { idParam } from '../../../services/params'

export default defineEventHandler(async (event) => {
  const { title, stream } = await archiveProject(idParam(event))
  const name = `${title.replace(/[^\p{L}\p{N}._-]+/gu, '-') || 'film'}.rubato`
  setResponseHeaders(event, { 'Content-Type': ARCHIVE_TYPE, 'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}` })
  return sendStream(event, stream)
})
