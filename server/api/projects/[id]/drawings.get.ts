import { defineEventHandler } from 'h3'
import { loadDrawings } from '../../../services/projects'
import { idParam, idsQuery } from '../../../services/params'

export default defineEventHandler((event) => loadDrawings(idParam(event), idsQuery(event)))
