import { defineEventHandler } from 'h3'
import { idParam, versionParam } from '../../../../../services/params'
import { bringBackSchema } from '#shared/versions'
import { readChecked } from '../../../../../services/requests'
import { bringBack } from '../../../../../services/versions'

export default defineEventHandler(async (event) => {
  const { shotIds, author } = await readChecked(event, bringBackSchema)
  return bringBack(idParam(event), versionParam(event), shotIds, author)
})
