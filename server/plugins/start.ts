import { defineNitroPlugin } from 'nitropack/runtime'
import { closeDatabase } from '../models/database'
import { startRefusal } from '../edge/access'
import { endJobs } from '../jobs/jobs'
import { endLive } from '../services/live'
import { startUp } from '../services/startup'
import { scheduleUpkeep } from '../services/upkeep'

export default defineNitroPlugin((nitro) => {
  const refusal = startRefusal(process.env.NITRO_HOST ?? process.env.HOST ?? '0.0.0.0', process.env.RUBATO_SECRET)
  if (refusal !== null && !import.meta.dev && !import.meta.prerender) {
    console.error(`rubato: ${refusal}`)
    process.exit(78)
  }
  // Whoever started it with a channel is gone: nothing is left to run alone.
  if (process.channel !== undefined && !import.meta.dev) process.once('disconnect', () => process.kill(process.pid, 'SIGTERM'))
  void startUp()
  const endUpkeep = scheduleUpkeep()
  nitro.hooks.hook('close', async () => {
    endUpkeep()
    endJobs()
    endLive()
    await closeDatabase()
  })
})
