import { defineEventHandler } from 'h3'
import { idParam, versionParam } from '../../../../../services/params'
import { openVersion } from '../../../../../services/versions'

export default defineEventHandler((event) => openVersion(idParam(event), versionParam(event)))
