import { defineEventHandler, getQuery } from 'h3'
import { takeInArchive } from '../../services/archiveIn'
import { uploadParam } from '../../services/params'
import { dropUpload, readArchiveUpload } from '../../services/uploads'

/** A film that came in parts. `?incomplete=1`: also where something is missing in it; until then its parts stay. */
export default defineEventHandler(async (event) => {
  const id = uploadParam(event)
  try {
    const card = await takeInArchive(await readArchiveUpload(id), { incomplete: getQuery(event).incomplete === '1' })
    await dropUpload(id)
    return card
  } catch (error) {
    const { statusCode = 500, data } = error as { statusCode?: number; data?: { code?: string } }
    if (statusCode < 500 && statusCode !== 404 && statusCode !== 409 && data?.code !== 'incomplete-archive') await dropUpload(id).catch(() => undefined)
    throw error
  }
})
