import pg from 'pg'
import type { Sequelize, Transaction } from 'sequelize'
import { APPLICATION_NAME } from '../models/database'

/** What servers on one database tell each other: that there is something new to read. */
export interface Notice {
  readonly project: string
  readonly of: 'changes' | 'here' | 'renders'
}

export const NOTICE_CHANNEL = 'rubato'
const AGAIN_MS = 1000

/** Told when the transaction commits, if one is given. */
export async function notify(sequelize: Sequelize, notice: Notice, transaction?: Transaction): Promise<void> {
  await sequelize.query('SELECT pg_notify($1, $2)', { bind: [NOTICE_CHANNEL, JSON.stringify(notice)], transaction: transaction ?? null })
}

/**
 * Listens on a connection of its own, and goes on trying when it is lost. `onGap` is called after each (re)connection:
 * notices may have been missed before it.
 */
export function listen(url: string, onNotice: (notice: Notice) => void, onGap: () => void): { end(): void } {
  let client: pg.Client | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  let ended = false
  const connect = async () => {
    const mine = new pg.Client({ connectionString: url, keepAlive: true, application_name: APPLICATION_NAME })
    client = mine
    let lost = false
    const again = () => {
      if (lost || ended) return
      lost = true
      void mine.end().catch(() => undefined)
      timer = setTimeout(() => void connect(), AGAIN_MS)
    }
    mine.on('error', again)
    mine.on('end', again)
    mine.on('notification', ({ payload }) => {
      try {
        onNotice(JSON.parse(payload ?? '') as Notice)
      } catch {
        // Not one of ours.
      }
    })
    try {
      await mine.connect()
      await mine.query(`LISTEN ${NOTICE_CHANNEL}`)
      onGap()
    } catch {
      again()
    }
  }
  void connect()
  return {
    end() {
      ended = true
      clearTimeout(timer)
      void client?.end().catch(() => undefined)
    },
  }
}
