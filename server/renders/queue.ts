import PgBoss from 'pg-boss'
import { APPLICATION_NAME, databaseUrl } from '../models/database'
import { logLine } from '../edge/log'

export const RENDER_QUEUE = 'render'
/** The queue's own schema. */
export const QUEUE_SCHEMA = 'rubato_queue'
/** A piece whose worker is not heard of is given to another long before. */
const EXPIRES_SECONDS = 6 * 3600
const MOST_RETRIES = 100

export interface RenderJob {
  readonly renderId: string
  readonly number: number
}

let opened: Promise<PgBoss> | null = null

/** The queue, made where there is none. `looksAfter`: whether this process puts it in order from time to time. */
export function useQueue(looksAfter = false): Promise<PgBoss> {
  opened ??= open(looksAfter).catch((error: unknown) => {
    opened = null
    throw error
  })
  return opened
}

async function open(looksAfter: boolean): Promise<PgBoss> {
  const boss = new PgBoss({ connectionString: databaseUrl(), application_name: APPLICATION_NAME, schema: QUEUE_SCHEMA, max: 2, supervise: looksAfter, schedule: false, archiveCompletedAfterSeconds: 3600, deleteAfterHours: 24 })
  boss.on('error', (error) => logLine({ level: 'error', what: `queue: ${error.message}` }))
  await boss.start()
  await boss.createQueue(RENDER_QUEUE, { name: RENDER_QUEUE, policy: 'standard' })
  return boss
}

export async function sendJob(job: RenderJob, id: string, priority: number): Promise<void> {
  await (await useQueue()).send(RENDER_QUEUE, job, { id, priority, retryLimit: MOST_RETRIES, retryDelay: 1, expireInSeconds: EXPIRES_SECONDS })
}

export async function closeQueue(): Promise<void> {
  const boss = await opened?.catch(() => null)
  opened = null
  await boss?.stop({ graceful: false, wait: false })
}
