import { useDatabase } from '../models/database'
import { useBlobs } from '../storage/blobs'
import { startup } from './startup'

const said = async (check: () => Promise<unknown>) =>
  check().then(
    () => 'ok',
    (error: Error) => error.message || error.name,
  )

/** Who has not signed in learns nothing of addresses and folders. */
const word = (said: string) => (said === 'ok' ? 'ok' : 'failed')

/** Whether the server can do its work, part by part, and how its start went. */
export async function checkHealth(outsider = false) {
  const database = await said(async () => (await useDatabase()).sequelize.query('SELECT 1'))
  const storage = await said(() => useBlobs().check())
  const { seededMs, migratedMs, failure, done } = startup
  if (outsider) return { ok: done && failure === null && database === 'ok' && storage === 'ok', server: done ? 'ok' : 'starting', database: word(database), storage: word(storage) }
  return { ok: done && failure === null && database === 'ok' && storage === 'ok', server: done ? 'ok' : 'starting', database, storage, migratedMs, seededMs, failure }
}
