import { defineEventHandler } from 'h3'
import { loadCover } from '../../../services/projects'
import { idParam } from '../../../services/params'

export default defineEventHandler((event) => loadCover(idParam(event)))
