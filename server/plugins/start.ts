import { defineNitroPlugin } from 'nitropack/runtime'
import { closeDatabase } from '../models/database'
import { startRefusal } from '../edge/access'
import { endJobs } from '../jobs/jobs'
import { closeQueue } from '../renders/queue'
import { startRenderWorker, type RenderWorker } from '../renders/worker'
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
  const started = startUp()
  const { RUBATO_WORKER, RUBATO_SECRET = '', NITRO_PORT, PORT } = process.env
  let worker: RenderWorker | null = null
  if (RUBATO_WORKER === '1' && !import.meta.prerender) void started.then(() => (worker = startRenderWorker(`http://127.0.0.1:${NITRO_PORT ?? PORT}`, RUBATO_SECRET)))
  const endUpkeep = scheduleUpkeep()
  nitro.hooks.hook('close', async () => {
    endUpkeep()
    await worker?.stop()
    await closeQueue()
    endJobs()
    endLive()
    await closeDatabase()
  })
})
