import { defineEventHandler } from 'h3'
import { idParam, versionParam, idsQuery } from '../../../../../services/params'
import { versionTakes } from '../../../../../services/versions'

export default defineEventHandler((event) => versionTakes(idParam(event), versionParam(event), idsQuery(event)))
