import { defineEventHandler, setResponseStatus } from 'h3'
import { trashProject } from '../../../services/projects'
import { idParam } from '../../../services/params'

export default defineEventHandler(async (event) => {
  await trashProject(idParam(event))
  setResponseStatus(event, 204)
  return null
})
