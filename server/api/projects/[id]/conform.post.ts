import { defineEventHandler } from 'h3'
import { conformSchema, CUT_BYTES } from '#shared/cuts'
import { conformFilm } from '../../../services/conform'
import { idParam } from '../../../services/params'
import { readChecked } from '../../../services/requests'

export default defineEventHandler(async (event) => conformFilm(idParam(event), await readChecked(event, conformSchema, CUT_BYTES)))
