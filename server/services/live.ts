import type { JournalEntry, Present } from '#shared/live'
import { databaseUrl } from '../models/database'
import { journalAfter } from './journal'
import { listen, type Notice } from './notices'
import { whoIsHere } from './presence'

export interface Subscriber {
  readonly projectId: string
  /** The last journal entry it has. */
  seq: number
  onEntry(entry: JournalEntry): void
  onHere(present: readonly Present[]): void
  /** Something about the film's renders is another than it was. */
  onRenders(): void
  /** Nothing more will come. */
  onEnd(): void
}

const subscribers = new Map<string, Set<Subscriber>>()
let listener: { end(): void } | null = null

/** From now on the subscriber is given every entry after its `seq`, once and in order, and who is here. */
export function subscribe(subscriber: Subscriber): () => void {
  listener ??= listen(databaseUrl(), (notice) => wake(notice), () => [...subscribers.keys()].forEach((project) => (['changes', 'here', 'renders'] as const).forEach((of) => wake({ project, of }))))
  const mine = subscribers.get(subscriber.projectId) ?? new Set()
  subscribers.set(subscriber.projectId, mine.add(subscriber))
  wake({ project: subscriber.projectId, of: 'changes' })
  return () => {
    mine.delete(subscriber)
    if (mine.size === 0 && subscribers.get(subscriber.projectId) === mine) subscribers.delete(subscriber.projectId)
  }
}

/** One reader for each project and matter at a time; a notice that comes meanwhile makes it read once more. */
const reading = new Map<string, 'once' | 'again'>()

function wake(notice: Notice) {
  if (!subscribers.has(notice.project)) return
  if (notice.of === 'renders') return void subscribers.get(notice.project)!.forEach((each) => each.onRenders())
  const key = `${notice.of}:${notice.project}`
  if (reading.has(key)) return void reading.set(key, 'again')
  reading.set(key, 'once')
  void (notice.of === 'changes' ? passOn(notice.project) : tellWho(notice.project))
    // The database is away: `listen` wakes everyone when it is back.
    .catch(() => undefined)
    .finally(() => {
      const again = reading.get(key) === 'again'
      reading.delete(key)
      if (again) wake(notice)
    })
}

async function passOn(projectId: string) {
  for (;;) {
    const waiting = [...(subscribers.get(projectId) ?? [])]
    if (waiting.length === 0) return
    const { entries, more } = await journalAfter(projectId, Math.min(...waiting.map((each) => each.seq)))
    for (const entry of entries) {
      for (const each of waiting) {
        if (entry.seq <= each.seq) continue
        each.seq = entry.seq
        each.onEntry(entry)
      }
    }
    if (!more) return
  }
}

async function tellWho(projectId: string) {
  const present = await whoIsHere(projectId)
  for (const each of subscribers.get(projectId) ?? []) each.onHere(present)
}

export function endLive(): void {
  listener?.end()
  listener = null
  for (const each of [...subscribers.values()].flatMap((set) => [...set])) each.onEnd()
  subscribers.clear()
}
