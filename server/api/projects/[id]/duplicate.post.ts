import { defineEventHandler } from 'h3'
import { idParam } from '../../../services/params'
import { duplicateProject } from '../../../services/projects'

export default defineEventHandler((event) => duplicateProject(idParam(event)))
