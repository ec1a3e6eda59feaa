import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
import { keptSince } from '@rubato/core/document'
import type { Change, Clash } from '@rubato/core/edits'

/** A change of mine that another's overtook: both are told, and the artist chooses. */
export interface Conflict {
  readonly id: string
  readonly change: Change
  readonly clashes: readonly Clash[]
  /** Who did the other; empty where no name was given. */
  readonly author: string
  readonly at: number
}

/** Changes that the server will not take: kept until the artist tries them again, saves them as a file or throws them away. */
export interface SetAside {
  readonly id: string
  /** The one that was refused, then those that were built on it. */
  readonly changes: readonly Change[]
  readonly why: string
  readonly at: number
}

interface KeptChange {
  readonly id: string
  readonly projectId: string
  readonly session: string
  readonly n: number
  readonly change: Change
}

interface Schema extends DBSchema {
  changes: { key: string; value: KeptChange; indexes: { project: string } }
  conflicts: { key: string; value: Conflict & { readonly projectId: string }; indexes: { project: string } }
  aside: { key: string; value: SetAside & { readonly projectId: string }; indexes: { project: string } }
}

/** What this browser keeps until the server has it: unsent changes and conflicts not decided yet. */
export interface KeptChanges {
  add(projectId: string, change: Change): Promise<void>
  /** Puts these in place of what is kept under their ids. */
  replace(projectId: string, changes: readonly Change[]): Promise<void>
  drop(ids: readonly string[]): Promise<void>
  /** What windows that are gone, or this one when it left the film, have left behind, oldest first; it is this window's from now on. */
  adopt(projectId: string): Promise<readonly Change[]>
  addConflict(projectId: string, conflict: Conflict): Promise<void>
  dropConflict(id: string): Promise<void>
  conflicts(projectId: string): Promise<readonly Conflict[]>
  addAside(projectId: string, aside: SetAside): Promise<void>
  dropAside(id: string): Promise<void>
  aside(projectId: string): Promise<readonly SetAside[]>
  /** Projects with changes that no open window is sending, and how many. */
  left(): Promise<ReadonlyMap<string, number>>
}

/** Where a window that is going puts what is not in the database yet: only this can be written without waiting. */
const HASTE = 'rubato-haste-'

const lockName = (session: string) => `rubato-window-${session}`

/** Every window holds a lock of its own for as long as it lives, so that others know what it has left behind. */
export function claimWindow(session: string): void {
  void navigator.locks?.request(lockName(session), () => new Promise(() => undefined))
}

/** A page that is reloaded may hold its lock for a moment yet while the next one opens. */
const LAST_BREATH_MS = 400

/** Which of these windows are still there. */
async function livingOf(sessions: ReadonlySet<string>): Promise<ReadonlySet<string>> {
  const { held = [] } = (await navigator.locks?.query()) ?? {}
  const living = new Set<string>()
  const ask = async (session: string) => {
    const isFree = navigator.locks.request(lockName(session), { signal: AbortSignal.timeout(LAST_BREATH_MS) }, () => true)
    if (!(await isFree.catch(() => false))) living.add(session)
  }
  const names = new Set(held.map((lock) => lock.name))
  await Promise.all([...sessions].filter((each) => names.has(lockName(each))).map(ask))
  return living
}

export async function openKept(session: string, name = 'rubato'): Promise<KeptChanges> {
  const db: IDBPDatabase<Schema> = await openDB<Schema>(name, 2, {
    upgrade(made, before) {
      if (before < 1) {
        made.createObjectStore('changes', { keyPath: 'id' }).createIndex('project', 'projectId')
        made.createObjectStore('conflicts', { keyPath: 'id' }).createIndex('project', 'projectId')
      }
      made.createObjectStore('aside', { keyPath: 'id' }).createIndex('project', 'projectId')
    },
  })
  let n = Date.now() * 1000
  const entry = (projectId: string, change: Change): KeptChange => ({ id: change.id, projectId, session, n: ++n, change })
  const orphans = async (found: readonly KeptChange[]) => {
    // This window's own are left too: it asks only for a film that it is opening, or from Home.
    const living = await livingOf(new Set(found.map((each) => each.session).filter((each) => each !== session)))
    return found.filter((each) => !living.has(each.session))
  }
  const adding: KeptChange[] = []
  let added: Promise<void> | null = null
  /** Asked for, and not in the database yet. */
  const underway = new Map<string, KeptChange>()
  addEventListener('pagehide', () => {
    if (underway.size === 0) return
    try {
      localStorage.setItem(`${HASTE}${session}`, JSON.stringify([...underway.values()]))
    } catch {
      // More than this holds: then it is the database's to finish.
    }
  })
  /** What windows that are gone wrote in haste is put where it belongs. */
  async function takeHaste() {
    const left = Object.keys(localStorage).filter((key) => key.startsWith(HASTE))
    const living = await livingOf(new Set(left.map((key) => key.slice(HASTE.length)).filter((each) => each !== session)))
    for (const key of left.filter((each) => !living.has(each.slice(HASTE.length)))) {
      const text = localStorage.getItem(key) ?? '[]'
      await putAll(JSON.parse(text) as readonly KeptChange[])
      localStorage.removeItem(key)
    }
  }
  async function putAll(entries: readonly KeptChange[]) {
    const transaction = db.transaction('changes', 'readwrite')
    const puts = entries.map((each) => transaction.store.put(each))
    // Without this it ends only when the page has heard of each, which a page that is going never does.
    transaction.commit()
    await Promise.all([...puts, transaction.done])
  }
  const kept: KeptChanges = {
    add(projectId, change) {
      const made = entry(projectId, change)
      adding.push(made)
      underway.set(made.id, made)
      // Not while the hand is at work: beginning a transaction takes longer than a stroke's own edit.
      added ??= new Promise<void>((resolve) => setTimeout(resolve)).then(async () => {
        const entries = adding.splice(0)
        added = null
        await putAll(entries)
        for (const { id } of entries) underway.delete(id)
      })
      return added
    },
    async replace(projectId, changes) {
      await putAll(changes.map((change) => entry(projectId, change)))
    },
    async drop(ids) {
      await added?.catch(() => undefined)
      for (const id of ids) underway.delete(id)
      const transaction = db.transaction('changes', 'readwrite')
      await Promise.all([...ids.map((id) => transaction.store.delete(id)), transaction.done])
    },
    async adopt(projectId) {
      await takeHaste()
      const found = await orphans(await db.getAllFromIndex('changes', 'project', projectId))
      found.sort((a, b) => a.n - b.n)
      // What was kept before format 7 has its order as numbers.
      const changes = found.map((each) => keptSince(each.change) as Change)
      await kept.replace(projectId, changes)
      return changes
    },
    async addConflict(projectId, conflict) {
      await db.put('conflicts', { ...conflict, projectId })
    },
    async dropConflict(id) {
      await db.delete('conflicts', id)
    },
    async conflicts(projectId) {
      const found = await db.getAllFromIndex('conflicts', 'project', projectId)
      return found.sort((a, b) => a.at - b.at).map(({ projectId: _, ...conflict }) => keptSince(conflict) as Conflict)
    },
    async addAside(projectId, aside) {
      await db.put('aside', { ...aside, projectId })
    },
    async dropAside(id) {
      await db.delete('aside', id)
    },
    async aside(projectId) {
      const found = await db.getAllFromIndex('aside', 'project', projectId)
      return found.sort((a, b) => a.at - b.at).map(({ projectId: _, ...aside }) => aside)
    },
    async left() {
      await takeHaste()
      const counts = new Map<string, number>()
      for (const each of await orphans(await db.getAll('changes'))) counts.set(each.projectId, (counts.get(each.projectId) ?? 0) + 1)
      return counts
    },
  }
  return kept
}

/** Where the browser keeps nothing (a private window, a full disk): changes live in memory, and leaving asks. */
export const KEEPS_NOTHING: KeptChanges = {
  add: () => Promise.reject(new Error('This browser keeps nothing.')),
  replace: () => Promise.resolve(),
  drop: () => Promise.resolve(),
  adopt: () => Promise.resolve([]),
  addConflict: () => Promise.resolve(),
  dropConflict: () => Promise.resolve(),
  conflicts: () => Promise.resolve([]),
  addAside: () => Promise.reject(new Error('This browser keeps nothing.')),
  dropAside: () => Promise.resolve(),
  aside: () => Promise.resolve([]),
  left: () => Promise.resolve(new Map()),
}
