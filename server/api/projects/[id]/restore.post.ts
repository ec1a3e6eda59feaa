import { defineEventHandler } from 'h3'
import { restoreProject } from '../../../services/projects'
import { idParam } from '../../../services/params'

export default defineEventHandler((event) => restoreProject(idParam(event)))
