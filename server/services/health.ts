import { useDatabase } from '../models/database'
import { startup } from './startup'

/** Whether the server can do its work, and how its start went. */
export async function checkHealth() {
  try {
    const { sequelize } = await useDatabase()
    await sequelize.query('SELECT 1')
    const { seededMs, migratedMs, failure, done } = startup
    return { ok: done && failure === null, database: 'ok', migratedMs, seededMs, failure }
  } catch (error) {
    return { ok: false, database: (error as Error).message, migratedMs: null, seededMs: null, failure: startup.failure }
  }
}
