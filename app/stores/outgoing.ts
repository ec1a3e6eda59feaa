import type { Change } from '@rubato/core/edits'
import { shallowReactive } from 'vue'
import { unitKey, type Batch, type BatchAccepted } from '#shared/edits'
import { isBatchRefusal, Refused } from '~/api/client'
import type { KeptChanges } from './kept'

export interface SavingState {
  readonly kind: 'saved' | 'saving' | 'offline' | 'failed'
  readonly waiting: number
  /** What waits is kept in this browser too: closing the window loses nothing. */
  readonly kept: boolean
  /** Milliseconds since 1970; null before the first save. */
  readonly savedAt: number | null
  readonly problem: string | null
}

interface Wiring {
  readonly send: (batch: Batch) => Promise<BatchAccepted>
  /** Acknowledged revisions by unit key; kept up to date here. */
  readonly revisions: Map<string, number>
  readonly author: () => string
  readonly keep: () => { readonly projectId: string; readonly kept: KeptChanges }
  /** A batch was made on an older film: make the waiting changes new. */
  readonly onStale: () => Promise<void>
  /** The server will never take the first of these; the others were built on it. */
  readonly onRefused: (dropped: readonly Change[], message: string) => void
}

const BATCH_CHANGES = 200
/** The changes themselves can't be kept. A lost sign-in, a film in the trash, too many requests: all those pass, and wait. */
const FOR_GOOD: ReadonlySet<number> = new Set([400, 413, 422])
const RETRY_MS = [500, 1000, 2000, 5000, 10_000]

/** Sends changes in order, one batch at a time, without anyone waiting; tries again for as long as it takes. */
export function createOutgoing({ send, revisions, author, keep, onStale, onRefused }: Wiring) {
  const state = shallowReactive<{ -readonly [K in keyof SavingState]: SavingState[K] }>({ kind: 'saved', waiting: 0, kept: true, savedAt: null, problem: null })
  let queue: readonly Change[] = []
  let running: Promise<void> | null = null
  let tries = 0
  let timer: ReturnType<typeof setTimeout> | undefined
  let generation = 0

  function setQueue(next: readonly Change[]) {
    queue = next
    state.waiting = next.length
    if (next.length === 0) {
      state.kept = true
      if (state.kind !== 'failed') state.kind = 'saved'
    }
  }

  const keeping = (work: Promise<void>) => void work.catch(() => (state.kept = queue.length === 0))

  function add(change: Change) {
    setQueue([...queue, change])
    const { projectId, kept } = keep()
    keeping(kept.add(projectId, change))
    if (state.kind === 'saved') state.kind = 'saving'
    if (timer === undefined) void flush()
  }

  /** Sends until nothing waits or the server can't be reached. */
  function flush(): Promise<void> {
    clearTimeout(timer)
    timer = undefined
    running ??= drain(generation).finally(() => {
      running = null
    })
    return running
  }

  async function drain(mine: number) {
    while (queue.length > 0 && mine === generation) {
      const changes = queue.slice(0, BATCH_CHANGES)
      if (state.kind === 'saved') state.kind = 'saving'
      try {
        const accepted = await send({ changes, base: baseOf(changes), author: author() })
        if (mine !== generation) return
        tries = 0
        acknowledge(changes.map((change) => change.id), accepted.revisions)
      } catch (error) {
        if (mine !== generation) return
        if (!(await recovered(error, changes, mine))) return
      }
    }
  }

  /** These are kept by the server. Revisions never go back: an answer may come after the news of a later change. */
  function acknowledge(ids: readonly string[], newer: Readonly<Record<string, number>>) {
    for (const [unit, revision] of Object.entries(newer)) revisions.set(unit, Math.max(revision, revisions.get(unit) ?? 0))
    const done = new Set(ids)
    setQueue(queue.filter((change) => !done.has(change.id)))
    keeping(keep().kept.drop(ids))
    Object.assign(state, { kind: queue.length > 0 ? 'saving' : 'saved', savedAt: Date.now(), problem: null })
  }

  /** True when there is something to go on with at once. */
  async function recovered(error: unknown, changes: readonly Change[], mine: number): Promise<boolean> {
    try {
      if (isBatchRefusal(error) && error.data.code === 'stale-revision') {
        await onStale()
        return mine === generation
      }
      if (error instanceof Refused && FOR_GOOD.has(error.status)) {
        const id = isBatchRefusal(error) && error.data.code === 'invalid-edit' ? error.data.changeId : changes[0]!.id
        // What was built on a refused change can't stand without it.
        const at = Math.max(0, queue.findIndex((change) => change.id === id))
        const dropped = queue.slice(at)
        setQueue(queue.slice(0, at))
        keeping(keep().kept.drop(dropped.map((change) => change.id)))
        Object.assign(state, { kind: queue.length > 0 ? 'saving' : 'failed', problem: error.message })
        onRefused(dropped, error.message)
        return true
      }
    } catch (failure) {
      error = failure
    }
    if (mine !== generation) return false
    Object.assign(state, { kind: 'offline', problem: (error as Error).message })
    timer = setTimeout(() => void flush(), RETRY_MS[Math.min(tries++, RETRY_MS.length - 1)])
    return false
  }

  function baseOf(changes: readonly Change[]): Record<string, number> {
    const base: Record<string, number> = {}
    for (const change of changes) for (const { unit } of change.edits) base[unitKey(unit)] = revisions.get(unitKey(unit)) ?? 0
    return base
  }

  /** The waiting changes, made anew on a newer film. Those that are gone from the list are no longer waiting. */
  function replaceWaiting(changes: readonly Change[]) {
    const still = new Set(changes.map((change) => change.id))
    const { projectId, kept } = keep()
    const gone = queue.filter((change) => !still.has(change.id)).map((change) => change.id)
    keeping(Promise.all([kept.replace(projectId, changes), kept.drop(gone)]).then(() => undefined))
    setQueue([...changes])
    if (queue.length > 0 && state.kind === 'saved') state.kind = 'saving'
  }

  /** The connection is back: no need to wait for the next try. */
  function tryNow() {
    if (queue.length > 0 && timer !== undefined) void flush()
  }

  function reset() {
    generation++
    clearTimeout(timer)
    timer = undefined
    queue = []
    running = null
    tries = 0
    Object.assign(state, { kind: 'saved', waiting: 0, kept: true, savedAt: null, problem: null })
  }

  return { state: state as SavingState, waiting: () => queue, add, acknowledge, flush, tryNow, replaceWaiting, reset }
}
