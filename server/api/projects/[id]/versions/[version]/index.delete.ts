import { defineEventHandler, setResponseStatus } from 'h3'
import { idParam, versionParam } from '../../../../../services/params'
import { deleteVersion } from '../../../../../services/versions'

export default defineEventHandler(async (event) => {
  await deleteVersion(idParam(event), versionParam(event))
  setResponseStatus(event, 204)
})
