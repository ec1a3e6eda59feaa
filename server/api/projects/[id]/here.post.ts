import { defineEventHandler, setResponseStatus } from 'h3'
import { presentSchema } from '#shared/live'
import { idParam } from '../../../services/params'
import { beHere } from '../../../services/presence'
import { liveProject } from '../../../services/projects'
import { readChecked } from '../../../services/requests'

export default defineEventHandler(async (event) => {
  const present = await readChecked(event, presentSchema)
  const project = await liveProject(idParam(event))
  await beHere(project.id, present)
  setResponseStatus(event, 204)
})
