import { defineEventHandler } from 'h3'
import { CUT_BYTES, newCutSchema } from '#shared/cuts'
import { filmOfCut } from '../../services/cuts'
import { readChecked } from '../../services/requests'

export default defineEventHandler(async (event) => filmOfCut(await readChecked(event, newCutSchema, CUT_BYTES)))
