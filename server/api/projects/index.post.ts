import { defineEventHandler } from 'h3'
import { newProjectSchema } from '#shared/projects'
import { createProject } from '../../services/projects'
import { readChecked } from '../../services/requests'

export default defineEventHandler(async (event) => createProject(await readChecked(event, newProjectSchema)))
