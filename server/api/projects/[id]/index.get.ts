import { defineEventHandler } from 'h3'
import { openProject } from '../../../services/projects'
import { idParam } from '../../../services/params'

export default defineEventHandler((event) => openProject(idParam(event)))
