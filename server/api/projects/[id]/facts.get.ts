import { defineEventHandler, setResponseHeader } from 'h3'
import { knownFacts } from '../../../services/facts'
import { idParam, idsQuery } from '../../../services/params'

export default defineEventHandler(async (event) => {
  setResponseHeader(event, 'Content-Type', 'application/json')
  return knownFacts(idParam(event), idsQuery(event))
})
