import { defineEventHandler } from 'h3'
import { idParam, versionParam } from '../../../../../services/params'
import { compareVersion } from '../../../../../services/versions'

export default defineEventHandler((event) => compareVersion(idParam(event), versionParam(event)))
