import pg from 'pg'
import { Sequelize } from 'sequelize'
import { migrate } from '../migrations/migrate'
import { defineModels, type Models } from './models'

export interface Database {
  readonly sequelize: Sequelize
  readonly models: Models
}

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
  })
  try {
    await migrate(sequelize)
  } catch (error) {
    await sequelize.close()
    throw error
  }
  return { sequelize, models: defineModels(sequelize) }
}

export async function closeDatabase(): Promise<void> {
  const database = await opened?.catch(() => null)
  opened = null
  await database?.sequelize.close()
}
