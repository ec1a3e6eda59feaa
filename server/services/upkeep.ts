import { QueryTypes } from 'sequelize'
import { logLine } from '../edge/log'
import { dropExpiredRenders } from '../renders/renders'
import { useDatabase } from '../models/database'
import { emptyTrash } from './projects'
import { sweepBlobs } from './sweep'

const FIRST_AFTER_MS = 10 * 60 * 1000
const EVERY_MS = 24 * 3600 * 1000
/** Any number that nothing else locks. */
const UPKEEP_LOCK = 7_242_001

/** Empties the trash of what lay there long enough and lets go of unneeded files; one server of several does it. */
async function keepUp(): Promise<boolean> {
  const { sequelize } = await useDatabase()
  return sequelize.transaction(async (transaction) => {
    const [got] = await sequelize.query<{ mine: boolean }>('SELECT pg_try_advisory_xact_lock($1) AS mine', { bind: [UPKEEP_LOCK], type: QueryTypes.SELECT, transaction })
    if (got?.mine !== true) return false
    await emptyTrash(null)
    await dropExpiredRenders()
    const swept = await sweepBlobs(false)
    logLine({ level: 'info', upkeep: true, blobs: swept.blobs, bytes: swept.bytes, uploads: swept.uploads })
    return true
  })
}

/** Once a day, beginning some minutes after the start. Ends with what it gives back. */
export function scheduleUpkeep(firstAfterMs: number = Number(process.env.RUBATO_UPKEEP_AFTER_MS ?? FIRST_AFTER_MS)): () => void {
  const run = () => void keepUp().catch((error: Error) => logLine({ level: 'error', upkeep: true, what: error.message }))
  const first = setTimeout(run, firstAfterMs).unref()
  const daily = setInterval(run, EVERY_MS).unref()
  return () => {
    clearTimeout(first)
    clearInterval(daily)
  }
}
