import { defineNitroPlugin } from 'nitropack/runtime'
import { closeDatabase } from '../models/database'
import { startRefusal } from '../edge/access'
import { endLive } from '../services/live'
import { startUp } from '../services/startup'
import { scheduleUpkeep } from '../services/upkeep'

export default defineNitroPlugin((nitro) => {
  const refusal = startRefusal(process.env.NITRO_HOST ?? process.env.HOST ?? '0.0.0.0', process.env.RUBATO_SECRET)
  if (refusal !== null && !import.meta.dev && !import.meta.prerender) {
    console.error(`rubato: ${refusal}`)
    process.exit(78)
  }
  void startUp()
  const endUpkeep = scheduleUpkeep()
  nitro.hooks.hook('close', async () => {
    endUpkeep()
    endLive()
    await closeDatabase()
  })
})
