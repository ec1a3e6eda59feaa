import { defineEventHandler } from 'h3'
import { projectPatchSchema } from '#shared/projects'
import { idParam } from '../../../services/params'
import { patchProject } from '../../../services/projects'
import { readChecked } from '../../../services/requests'

export default defineEventHandler(async (event) => patchProject(idParam(event), await readChecked(event, projectPatchSchema)))
