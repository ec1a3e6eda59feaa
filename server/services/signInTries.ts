import { RateLimiterPostgres } from 'rate-limiter-flexible'
import { useDatabase } from '../models/database'

/** Wrong secrets from one address before it has to wait, and from all addresses together. The wait doubles from a second on. */
const FREE = { one: 5, all: 100 } as const
const MOST_SECONDS = { one: 600, all: 5 } as const
/** So long after the first wrong one the count begins anew. */
const COUNTED_SECONDS = 3600
const ALL = '*'
const TABLE = 'sign_in_limits'

/** Kept in the database, so that several servers count together: how often, and who has to wait. */
async function limiters() {
  const { sequelize } = await useDatabase()
  const kept = { storeClient: sequelize, storeType: 'sequelize', tableName: TABLE, tableCreated: true, points: Number.MAX_SAFE_INTEGER }
  return { wrong: new RateLimiterPostgres({ ...kept, keyPrefix: 'wrong', duration: COUNTED_SECONDS }), waits: new RateLimiterPostgres({ ...kept, keyPrefix: 'waits', duration: MOST_SECONDS.one }) }
}
let made: ReturnType<typeof limiters> | null = null
const useLimiters = () =>
  (made ??= limiters().catch((error: Error) => {
    made = null
    throw error
  }))

const named = (address: string) => address.slice(0, 64)

export async function secondsToWait(address: string): Promise<number> {
  const { waits } = await useLimiters()
  const found = await Promise.all([named(address), ALL].map((name) => waits.get(name)))
  return Math.max(0, ...found.map((each) => Math.ceil((each?.msBeforeNext ?? 0) / 1000)))
}

export async function noteWrong(address: string): Promise<void> {
  const { wrong, waits } = await useLimiters()
  for (const [name, free, most] of [[named(address), FREE.one, MOST_SECONDS.one], [ALL, FREE.all, MOST_SECONDS.all]] as const) {
    const { consumedPoints } = await wrong.penalty(name)
    if (consumedPoints >= free) await waits.set(name, 1, Math.min(most, 2 ** Math.min(20, consumedPoints - free)))
  }
}

export async function noteRight(address: string): Promise<void> {
  const { wrong, waits } = await useLimiters()
  await Promise.all([wrong, waits].map((each) => each.delete(named(address))))
}
