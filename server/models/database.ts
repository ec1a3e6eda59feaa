import pg from 'pg'
import { Sequelize } from 'sequelize'
import { migrate } from '../migrations/migrate'
import { defineModels, type Models } from './models'

export interface Database {
  readonly sequelize: Sequelize
  readonly models: Models
}

/** By it a restore knows that a server is still there. */
export const APPLICATION_NAME = 'rubato'
const LOCK_MS = 15_000
const STATEMENT_MS = 60_000
/** An export waits for who reads it slowly, a recording for a slow object store. */
const IDLE_IN_TRANSACTION_MS = 1_800_000

let opened: Promise<Database> | null = null

/** The one connection pool of this process, migrated. A failed try is forgotten, so that the next one may succeed. */
export function useDatabase(): Promise<Database> {
  opened ??= open().catch((error: unknown) => {
    opened = null
    throw error
  })
  return opened
}

export function databaseUrl(): string {
  const url = process.env.RUBATO_DATABASE_URL
  if (!url) throw new Error('RUBATO_DATABASE_URL is not set. Start Rubato with ./start, or give it the address of a PostgreSQL database.')
  return url
}

async function open(): Promise<Database> {
  const sequelize = new Sequelize(databaseUrl(), {
    dialect: 'postgres',
    dialectModule: pg,
    logging: false,
    pool: { min: 0, max: 10, acquire: 10_000 },
    // Nothing waits for ever: what is given up is answered with when to try again.
    dialectOptions: { application_name: APPLICATION_NAME, lock_timeout: LOCK_MS, statement_timeout: STATEMENT_MS, idle_in_transaction_session_timeout: IDLE_IN_TRANSACTION_MS, connectionTimeoutMillis: 10_000 },
  })
  // A migration may take as long as it takes.
  const patient = new Sequelize(databaseUrl(), { dialect: 'postgres', dialectModule: pg, logging: false, pool: { min: 0, max: 3 }, dialectOptions: { application_name: APPLICATION_NAME } })
  try {
    await migrate(patient)
  } catch (error) {
    await sequelize.close()
    throw error
  } finally {
    await patient.close()
  }
  return { sequelize, models: defineModels(sequelize) }
}

export async function closeDatabase(): Promise<void> {
  const database = await opened?.catch(() => null)
  opened = null
  await database?.sequelize.close()
}
