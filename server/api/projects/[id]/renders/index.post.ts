import { defineEventHandler } from 'h3'
import { renderSchema } from '#shared/renders'
import { askRender } from '../../../../renders/renders'
import { idParam } from '../../../../services/params'
import { readChecked } from '../../../../services/requests'

export default defineEventHandler(async (event) => ({ id: await askRender(idParam(event), await readChecked(event, renderSchema)) }))
