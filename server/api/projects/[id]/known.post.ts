import { defineEventHandler } from 'h3'
import { knownSchema } from '#shared/live'
import { knownChanges } from '../../../services/journal'
import { idParam } from '../../../services/params'
import { readChecked } from '../../../services/requests'

export default defineEventHandler(async (event) => knownChanges(idParam(event), (await readChecked(event, knownSchema)).ids))
