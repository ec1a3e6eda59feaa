import { defineEventHandler } from 'h3'
import { idParam } from '../../../../services/params'
import { listVersions } from '../../../../services/versions'

export default defineEventHandler((event) => listVersions(idParam(event)))
