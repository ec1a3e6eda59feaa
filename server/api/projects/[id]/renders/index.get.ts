import { defineEventHandler } from 'h3'
import { listRenders } from '../../../../renders/renders'
import { idParam } from '../../../../services/params'

export default defineEventHandler((event) => listRenders(idParam(event)))
