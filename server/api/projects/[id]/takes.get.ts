import { defineEventHandler } from 'h3'
import { loadTakes } from '../../../services/projects'
import { idParam, idsQuery } from '../../../services/params'

export default defineEventHandler((event) => loadTakes(idParam(event), idsQuery(event)))
