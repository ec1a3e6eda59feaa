import { defineEventHandler, setResponseStatus } from 'h3'
import { uploadParam } from '../../../services/params'
import { dropUpload } from '../../../services/uploads'

export default defineEventHandler(async (event) => {
  await dropUpload(uploadParam(event))
  setResponseStatus(event, 204)
})
