import { defineEventHandler, setResponseStatus } from 'h3'
import { endRender } from '../../../../../renders/renders'
import { idParam, renderParam } from '../../../../../services/params'

/** Cancels one that is running; takes any other off the list, with its files. */
export default defineEventHandler(async (event) => {
  await endRender(idParam(event), renderParam(event))
  setResponseStatus(event, 204)
})
