import type { Change } from '@rubato/core/edits'
import { shallowReactive } from 'vue'
import { headLine, LINES_TYPE, linesOfChange } from '#shared/changeLines'
import { unitKey, type Batch, type BatchAccepted } from '#shared/edits'
import { isBatchRefusal, Refused, ServerFailed } from '~/api/client'
import type { KeptChanges } from './kept'

export interface SavingState {
  /** `failed`: the server answers, and takes nothing; it is asked again all the same. */
  readonly kind: 'saved' | 'saving' | 'offline' | 'failed'
  readonly waiting: number
  /** What waits is kept in this browser too: closing the window loses nothing. */
  readonly kept: boolean
  /** Milliseconds since 1970; null before the first save. */
  readonly savedAt: number | null
  readonly problem: string | null
}

interface Wiring {
  /** `body` is the batch as lines. */
  readonly send: (batch: Batch, body: Blob) => Promise<BatchAccepted>
  /** Sends what is too large for one request, in parts. */
  readonly sendInParts: (batch: Batch, body: Blob) => Promise<BatchAccepted>
  /** Acknowledged revisions by unit key; kept up to date here. */
  readonly revisions: Map<string, number>
  readonly author: () => string
  readonly keep: () => { readonly projectId: string; readonly kept: KeptChanges }
  /** A batch was made on an older film: make the waiting changes new. */
  readonly onStale: () => Promise<void>
  /** The server will never take this one, and says so by its id: it is to be set aside, with what was built on it. */
  readonly onInvalid: (id: string, message: string) => void
  /** Whether the server does its other work. */
  readonly healthy: () => Promise<boolean>
}

const BATCH_CHANGES = 200
/** Small enough to go up in a moment on a slow line. */
const BATCH_BYTES = 4 * 1024 * 1024
/** A request with more than this goes up in parts. */
const ONE_REQUEST_BYTES = 12 * 1024 * 1024
/** Refusals that will be the same the next time. Without a change's id they drop nothing. */
const WILL_NOT_PASS: ReadonlySet<number> = new Set([400, 413, 422])
const RETRY_MS = [500, 1000, 2000, 5000, 10_000]
/** As often as this in a row the film may be another than the batch was made on; then there is a pause. */
const MOST_STALE = 5
/** As often a batch fails at the server before its changes go one by one, and one by itself before it is set aside. */
const FAILS_TOGETHER = 2
const FAILS_ALONE = 4
/** Set aside so with nothing kept in between: then the fault is not theirs. */
const MOST_BLAMED = 3

/** Sends changes in order, one batch at a time, without anyone waiting; tries again for as long as it takes. */
export function createOutgoing({ send, sendInParts, revisions, author, keep, onStale, onInvalid, healthy }: Wiring) {
  const state = shallowReactive<{ -readonly [K in keyof SavingState]: SavingState[K] }>({ kind: 'saved', waiting: 0, kept: true, savedAt: null, problem: null })
  let queue: readonly Change[] = []
  let running: Promise<void> | null = null
  let tries = 0
  let stales = 0
  let failures = 0
  /** So many changes yet to be sent one by one. */
  let singly = 0
  let blamed = 0
  let requestBytes = ONE_REQUEST_BYTES
  let timer: ReturnType<typeof setTimeout> | undefined
  let generation = 0
  const sizes = new WeakMap<Change, number>()

  function setQueue(next: readonly Change[]) {
    queue = next
    state.waiting = next.length
    if (next.length === 0) {
      state.kept = true
      state.kind = 'saved'
      state.problem = null
    }
  }

  const keeping = (work: Promise<void>) => void work.catch(() => (state.kept = queue.length === 0))

  function add(change: Change) {
    setQueue([...queue, change])
    const { projectId, kept } = keep()
    keeping(kept.add(projectId, change))
    if (state.kind === 'saved') state.kind = 'saving'
    // The hand first: making a large change text takes as long as making the change.
    if (running === null) timer ??= setTimeout(() => void flush())
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

  /** What goes next, each change made text once: large ones cost as much as making them. */
  function nextBatch() {
    const changes: Change[] = []
    const texts: Blob[] = []
    let bytes = 0
    for (const change of queue.slice(0, singly > 0 ? 1 : BATCH_CHANGES)) {
      const most = changes.length === 0 ? Infinity : Math.min(BATCH_BYTES, requestBytes) - bytes
      if ((sizes.get(change) ?? 0) > most) break
      // A blob's bytes are the browser's to hold, and leave the page's memory when it is large.
      const text = new Blob([...linesOfChange(change)].map((line) => `${line}\n`))
      sizes.set(change, text.size)
      if (text.size > most) break
      changes.push(change)
      texts.push(text)
      bytes += text.size
    }
    const batch = { base: baseOf(changes), author: author(), changes }
    return { batch, bytes, body: new Blob([`${headLine(batch)}\n`, ...texts], { type: LINES_TYPE }) }
  }

  async function drain(mine: number) {
    while (queue.length > 0 && mine === generation) {
      const { batch, bytes, body } = nextBatch()
      const { changes } = batch
      const inParts = bytes > requestBytes
      if (state.kind === 'saved') state.kind = 'saving'
      try {
        const accepted = await (inParts ? sendInParts(batch, body) : send(batch, body))
        if (mine !== generation) return
        tries = 0
        stales = 0
        failures = 0
        blamed = 0
        singly = Math.max(0, singly - changes.length)
        acknowledge(changes.map((change) => change.id), accepted.revisions)
      } catch (error) {
        if (mine !== generation) return
        if (!(await recovered(error, changes, bytes, inParts, mine))) return
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
  async function recovered(error: unknown, changes: readonly Change[], bytes: number, inParts: boolean, mine: number): Promise<boolean> {
    try {
      if (isBatchRefusal(error) && error.data.code === 'stale-revision' && stales++ < MOST_STALE) {
        await onStale()
        return mine === generation
      }
      if (isBatchRefusal(error) && error.data.code === 'invalid-edit') {
        const { changeId } = error.data
        if (queue.some((change) => change.id === changeId)) {
          onInvalid(changeId, error.message)
          return mine === generation
        }
      }
      if (error instanceof ServerFailed && (await fails(changes))) return mine === generation
      // Something on the way takes less than the server does: smaller requests, one change in parts.
      if (error instanceof Refused && error.status === 413 && !inParts && requestBytes > 1024) {
        requestBytes = changes.length > 1 ? Math.max(1024, Math.floor(bytes / 2)) : Math.min(requestBytes, bytes - 1)
        return mine === generation
      }
    } catch (failure) {
      error = failure
    }
    if (mine !== generation) return false
    stales = 0
    Object.assign(state, { kind: error instanceof Refused && WILL_NOT_PASS.has(error.status) ? 'failed' : 'offline', problem: (error as Error).message })
    timer = setTimeout(() => void flush(), RETRY_MS[Math.min(tries++, RETRY_MS.length - 1)])
    return false
  }

  /** The server fails at these, time and again: one of them may be what it fails at. True when there is something to go on with. */
  async function fails(changes: readonly Change[]): Promise<boolean> {
    failures++
    if (changes.length > 1) {
      if (failures < FAILS_TOGETHER) return false
      singly = changes.length
      failures = 0
      return true
    }
    if (failures < FAILS_ALONE || blamed >= MOST_BLAMED || !(await healthy()) || queue[0]?.id !== changes[0]!.id) return false
    failures = 0
    blamed++
    singly = Math.max(0, singly - 1)
    onInvalid(changes[0]!.id, 'The server fails at this change each time, though it does everything else. It is kept here.')
    return true
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
    stales = 0
    failures = singly = blamed = 0
    requestBytes = ONE_REQUEST_BYTES
    Object.assign(state, { kind: 'saved', waiting: 0, kept: true, savedAt: null, problem: null })
  }

  return { state: state as SavingState, waiting: () => queue, add, acknowledge, flush, tryNow, replaceWaiting, reset }
}
