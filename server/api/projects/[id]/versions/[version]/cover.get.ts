import { defineEventHandler } from 'h3'
import { idParam, versionParam } from '../../../../../services/params'
import { versionCover } from '../../../../../services/versions'

export default defineEventHandler((event) => versionCover(idParam(event), versionParam(event)))
