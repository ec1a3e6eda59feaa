import type { Sequelize } from 'sequelize'
import { SequelizeStorage, Umzug } from 'umzug'
import { migrations } from './migrations'

/** Any number that only Rubato's migrations use. */
const ADVISORY_LOCK = 7_225_286

/** Brings the database to the newest schema. Several servers may start at once: one migrates, the others wait. */
export async function migrate(sequelize: Sequelize): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    await sequelize.query(`SELECT pg_advisory_xact_lock(${ADVISORY_LOCK})`, { transaction })
    const umzug = new Umzug({
      migrations: migrations.map((step) => ({ name: step.name, up: async () => ('sql' in step ? void (await sequelize.query(step.sql)) : step.up(sequelize)) })),
      storage: new SequelizeStorage({ sequelize, tableName: 'migrations' }),
      logger: undefined,
    })
    await umzug.up()
  })
}
