import { defineEventHandler } from 'h3'
import { newVersionSchema } from '#shared/versions'
import { idParam } from '../../../../services/params'
import { readChecked } from '../../../../services/requests'
import { makeVersion } from '../../../../services/versions'

export default defineEventHandler(async (event) => {
  const { name, author, reason } = await readChecked(event, newVersionSchema)
  return { id: await makeVersion(idParam(event), name, author, reason) }
})
