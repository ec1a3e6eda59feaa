import { defineEventHandler } from 'h3'
import { idParam, idsQuery } from '../../../services/params'
import { storedUnits } from '../../../services/projects'
import { answerUnits } from '../../../services/unitText'

export default defineEventHandler(async (event) => answerUnits(event, 'breakdown', await storedUnits('breakdown', idParam(event), idsQuery(event))))
