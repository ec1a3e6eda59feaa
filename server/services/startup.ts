import { performance } from 'node:perf_hooks'
import { buildSaltLantern } from '../../demo/saltLantern'
import { demoRecordings } from '../../demo/recordings'
import { Readable } from 'node:stream'
import { useDatabase } from '../models/database'
import { logLine } from '../edge/log'
import { useBlobs } from '../storage/blobs'
import { sweepArchives } from './archiveIn'
import { storeAsset } from './assets'
import { insertFilm } from './films'
import { emptyTrash } from './projects'

/** How the start went; read by the health check. */
export const startup = {
  done: false,
  migratedMs: null as number | null,
  seededMs: null as number | null,
  failure: null as string | null,
}

/**
 * Migrates, then puts the demo in: with RUBATO_SEED=demo where there is no project at all, with
 * RUBATO_SEED=reset-demo always, in place of the demo that is there.
 */
export async function startUp(): Promise<void> {
  try {
    let begun = performance.now()
    const { sequelize, models } = await useDatabase()
    startup.migratedMs = Math.round(performance.now() - begun)
    await Promise.all([useBlobs().sweep(), sweepArchives()]).catch((error: Error) => logLine({ level: 'error', what: `sweeping: ${error.message}` }))
    await emptyTrash(null)
    const seed = process.env.RUBATO_SEED ?? 'none'
    begun = performance.now()
    const wanted = seed === 'reset-demo' || (seed === 'demo' && (await models.ProjectRow.count()) === 0)
    if (wanted) {
      const demo = buildSaltLantern(demoRecordings())
      const hashes: string[] = []
      for (const { wav } of demoRecordings()) hashes.push((await storeAsset(Readable.from([wav]), 'sound')).hash)
      await sequelize.transaction(async (transaction) => {
        await models.ProjectRow.destroy({ where: { id: Object.keys(demo.outline.project)[0]! }, transaction })
        await insertFilm(models, demo, transaction)
        await sequelize.query('INSERT INTO project_assets (project_id, hash) SELECT $1, unnest($2::text[]) ON CONFLICT DO NOTHING', { bind: [Object.keys(demo.outline.project)[0]!, hashes], transaction })
      })
      startup.seededMs = Math.round(performance.now() - begun)
    }
  } catch (error) {
    startup.failure = (error as Error).message
    console.error(`rubato: start failed: ${startup.failure}`)
  } finally {
    startup.done = true
  }
}
