import { defineEventHandler } from 'h3'
import { uploadParam } from '../../../services/params'
import { uploadState } from '../../../services/uploads'

export default defineEventHandler((event) => uploadState(uploadParam(event)))
