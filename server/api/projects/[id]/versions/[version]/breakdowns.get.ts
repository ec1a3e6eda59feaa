import { defineEventHandler } from 'h3'
import { idParam, idsQuery, versionParam } from '../../../../../services/params'
import { answerUnits } from '../../../../../services/unitText'
import { storedVersionUnits } from '../../../../../services/versions'

export default defineEventHandler(async (event) => answerUnits(event, 'breakdown', await storedVersionUnits('breakdown', idParam(event), versionParam(event), idsQuery(event))))
