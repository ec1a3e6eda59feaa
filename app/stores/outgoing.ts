import type { Change } from '@rubato/core/edits'
import { shallowReactive } from 'vue'
import { unitKey, type Batch, type BatchAccepted } from '#shared/edits'
import { isBatchRefusal, Refused } from '~/api/client'

export interface SavingState {
  readonly kind: 'saved' | 'saving' | 'offline' | 'failed'
  readonly waiting: number
  /** Milliseconds since 1970; null before the first save. */
  readonly savedAt: number | null
  readonly problem: string | null
}

interface Wiring {
  readonly send: (batch: Batch) => Promise<BatchAccepted>
  /** Acknowledged revisions by unit key; kept up to date here. */
  readonly revisions: Map<string, number>
  readonly onStale: (unit: string, waiting: readonly Change[]) => Promise<void>
  /** The server will never take the first of these; the others were built on it. */
  readonly onRefused: (dropped: readonly Change[], message: string) => void
}

const BATCH_CHANGES = 200
const RETRY_MS = [500, 1000, 2000, 5000, 10_000]

/** Sends changes in order, one batch at a time, without anyone waiting; tries again for as long as it takes. */
export function createOutgoing({ send, revisions, onStale, onRefused }: Wiring) {
  const state = shallowReactive<{ -readonly [K in keyof SavingState]: SavingState[K] }>({ kind: 'saved', waiting: 0, savedAt: null, problem: null })
  let queue: Change[] = []
  let running: Promise<void> | null = null
  let tries = 0
  let timer: ReturnType<typeof setTimeout> | undefined
  let generation = 0

  function add(change: Change) {
    queue.push(change)
    state.waiting = queue.length
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
        const accepted = await send({ changes, base: baseOf(changes) })
        if (mine !== generation) return
        for (const [unit, revision] of Object.entries(accepted.revisions)) revisions.set(unit, revision)
        queue = queue.slice(changes.length)
        tries = 0
        Object.assign(state, { kind: queue.length > 0 ? 'saving' : 'saved', waiting: queue.length, savedAt: Date.now(), problem: null })
      } catch (error) {
        if (mine !== generation) return
        if (!(await recovered(error, changes))) return
      }
    }
  }

  /** True when there is something to go on with at once. */
  async function recovered(error: unknown, changes: readonly Change[]): Promise<boolean> {
    try {
      if (isBatchRefusal(error) && error.data.code === 'stale-revision') {
        await onStale(error.data.unit, queue)
        return true
      }
      if (error instanceof Refused && error.status < 500) {
        const id = isBatchRefusal(error) && error.data.code === 'invalid-edit' ? error.data.changeId : changes[0]!.id
        const bad = queue.find((change) => change.id === id) ?? changes[0]!
        // What was built on a refused change can't stand without it.
        const at = Math.max(0, queue.indexOf(bad))
        const dropped = queue.slice(at)
        queue = queue.slice(0, at)
        Object.assign(state, { waiting: queue.length, kind: queue.length > 0 ? 'saving' : 'failed', problem: error.message })
        onRefused(dropped, error.message)
        return true
      }
    } catch (failure) {
      error = failure
    }
    Object.assign(state, { kind: 'offline', waiting: queue.length, problem: (error as Error).message })
    timer = setTimeout(() => void flush(), RETRY_MS[Math.min(tries++, RETRY_MS.length - 1)])
    return false
  }

  function baseOf(changes: readonly Change[]): Record<string, number> {
    const base: Record<string, number> = {}
    for (const change of changes) for (const { unit } of change.edits) base[unitKey(unit)] = revisions.get(unitKey(unit)) ?? 0
    return base
  }

  function replaceWaiting(changes: readonly Change[]) {
    queue = [...changes]
    state.waiting = queue.length
    if (queue.length === 0) state.kind = 'saved'
  }

  function reset() {
    generation++
    clearTimeout(timer)
    timer = undefined
    queue = []
    running = null
    Object.assign(state, { kind: 'saved', waiting: 0, savedAt: null, problem: null })
  }

  return { state: state as SavingState, add, flush, replaceWaiting, reset }
}
