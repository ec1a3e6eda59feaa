import { defineEventHandler, setResponseStatus } from 'h3'
import { idParam } from '../../../services/params'
import { emptyTrash } from '../../../services/projects'

/** Deletes a project that is in the trash, for good. */
export default defineEventHandler(async (event) => {
  await emptyTrash(idParam(event))
  setResponseStatus(event, 204)
})
