import { defineEventHandler } from 'h3'
import { againRender } from '../../../../../renders/renders'
import { idParam, renderParam } from '../../../../../services/params'

export default defineEventHandler(async (event) => ({ id: await againRender(idParam(event), renderParam(event)) }))
