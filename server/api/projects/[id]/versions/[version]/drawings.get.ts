import { defineEventHandler } from 'h3'
import { idParam, versionParam, idsQuery } from '../../../../../services/params'
import { versionDrawings } from '../../../../../services/versions'

export default defineEventHandler((event) => versionDrawings(idParam(event), versionParam(event), idsQuery(event)))
