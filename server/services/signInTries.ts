import { QueryTypes } from 'sequelize'
import { useDatabase } from '../models/database'

/** Wrong secrets from one address before it has to wait, and from all addresses together. The wait doubles from a second on. */
const FREE = { one: 5, all: 100 } as const
const MOST_SECONDS = { one: 600, all: 5 } as const
/** So long without a wrong one, and all is forgotten. */
const FORGOTTEN = "interval '1 hour'"
const ALL = '*'

async function ask<T extends object>(sql: string, bind: readonly unknown[]): Promise<T[]> {
  const { sequelize } = await useDatabase()
  return sequelize.query<T>(sql, { bind: [...bind], type: QueryTypes.SELECT })
}

/** Kept in the database, so that several servers count together. */
export async function secondsToWait(address: string): Promise<number> {
  const [row] = await ask<{ seconds: number | null }>('SELECT ceil(extract(epoch FROM max(waits_until) - clock_timestamp()))::int AS seconds FROM sign_in_tries WHERE address = ANY($1)', [[address, ALL]])
  return Math.max(0, row?.seconds ?? 0)
}

export async function noteWrong(address: string): Promise<void> {
  for (const [name, free, most] of [[address, FREE.one, MOST_SECONDS.one], [ALL, FREE.all, MOST_SECONDS.all]] as const) {
    await ask(
      `INSERT INTO sign_in_tries AS t (address, wrong, last_at, waits_until) VALUES ($1, 1, clock_timestamp(), clock_timestamp())
       ON CONFLICT (address) DO UPDATE SET
         wrong = CASE WHEN t.last_at < clock_timestamp() - ${FORGOTTEN} THEN 1 ELSE t.wrong + 1 END,
         last_at = clock_timestamp(),
         waits_until = clock_timestamp() + CASE WHEN t.last_at < clock_timestamp() - ${FORGOTTEN} OR t.wrong + 1 < $2 THEN interval '0' ELSE make_interval(secs => least($3, power(2, least(t.wrong + 1 - $2, 20)))) END
       RETURNING address`,
      [name.slice(0, 64), free, most],
    )
  }
  // As many addresses as there are, none is kept for ever.
  await ask(`DELETE FROM sign_in_tries WHERE last_at < clock_timestamp() - ${FORGOTTEN} RETURNING address`, [])
}

export async function noteRight(address: string): Promise<void> {
  await ask('DELETE FROM sign_in_tries WHERE address = $1 RETURNING address', [address])
}
