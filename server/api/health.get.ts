import { defineEventHandler, setResponseStatus } from 'h3'
import { checkHealth } from '../services/health'

export default defineEventHandler(async (event) => {
  const health = await checkHealth()
  if (!health.ok) setResponseStatus(event, 503)
  return health
})
