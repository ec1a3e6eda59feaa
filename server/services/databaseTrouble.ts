import type { H3Error } from 'h3'
import { cannotBeKept, storageFull } from '../storage/full'
import { refuse } from './refusals'

interface Coded {
  readonly name?: string
  readonly code?: string
  readonly cause?: unknown
  readonly original?: unknown
  readonly parent?: unknown
}

/** What an error was first of all: libraries wrap them. */
function* chain(error: unknown): Generator<Coded> {
  const seen = new Set<unknown>()
  for (let at = error as Coded | null | undefined; at !== null && at !== undefined && !seen.has(at); at = (at.original ?? at.parent ?? at.cause) as Coded | undefined) {
    seen.add(at)
    yield at
  }
}

export function databaseCode(error: unknown): string | null {
  for (const { code } of chain(error)) if (code !== undefined && /^[0-9A-Z]{5}$/.test(code)) return code
  return null
}

/** The value itself is what the database can't hold (class 22 but for the division by which statements give themselves up). */
export const isUnholdable = (error: unknown): boolean => {
  const code = databaseCode(error)
  return code !== null && code.startsWith('22') && code !== '22012'
}

const LATER_SECONDS = 5
const later = (why: string, seconds = LATER_SECONDS) => refuse(503, 'later', `${why} Try again in ${seconds} seconds.`, { retryAfter: seconds })
/** Of PostgreSQL's appendix A. */
const BUSY: ReadonlySet<string> = new Set(['55P03', '57014', '40001', '40P01', '53000', '53200', '53300', '53400'])
const AWAY = /^(08...|57P0[0-5])$/
const NETWORK: ReadonlySet<string> = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOENT'])

/** What the database or the disk has against a request, as an answer; null where it is neither's. */
export function troubleOf(error: unknown): H3Error | null {
  if (isUnholdable(error)) return refuse(422, 'unholdable', 'This holds something that the database can’t keep: a number that is too large, or text with a character that does not exist.')
  for (const { name = '', code = '' } of chain(error)) {
    if (code === '53100' || code === '58030') return refuse(507, 'database-full', 'The database’s disk is full, so this was not kept. Free some space; Rubato goes on by itself.', { retryAfter: 30 })
    if (code === '25006') return refuse(503, 'read-only', 'The database takes nothing in at the moment, so this was not kept. It can still be read. Try again in 30 seconds.', { retryAfter: 30 })
    if (name === 'SequelizeConnectionAcquireTimeoutError' || BUSY.has(code)) return later('Too much is being done at once.')
    if (/^Sequelize(ConnectionRefused|ConnectionTimedOut|HostNotReachable|HostNotFound|Connection)Error$/.test(name) || AWAY.test(code)) return later('The database does not answer.')
    if (/^Sequelize/.test(name) && NETWORK.has(code)) return later('The database does not answer.')
  }
  for (const each of chain(error)) if (cannotBeKept(each)) return storageFull(each)
  return null
}
