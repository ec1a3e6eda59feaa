import { defineNitroPlugin } from 'nitropack/runtime'
import { closeDatabase } from '../models/database'
import { endLive } from '../services/live'
import { startUp } from '../services/startup'

export default defineNitroPlugin((nitro) => {
  void startUp()
  nitro.hooks.hook('close', async () => {
    endLive()
    await closeDatabase()
  })
})
