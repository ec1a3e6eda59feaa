import { defineEventHandler } from 'h3'
import { leaving } from '../../../services/callers'
import { uploadParam } from '../../../services/params'
import { finishUpload } from '../../../services/uploads'

export default defineEventHandler((event) => finishUpload(uploadParam(event), leaving(event)))
