import { bodyKinds, UNIT_KINDS, unitsOf, type BodyKind, type Film, type UnitRef, takeRef, outlineRef } from '@rubato/core/document'
import { applyChange, mergeChanges, rebaseChange, rebaseOver, type Change, type Clash } from '@rubato/core/edits'
import type { ShallowRef } from 'vue'
import { unitKey } from '#shared/edits'
import type { JournalEntry } from '#shared/live'
import { UNIT_LOADERS, type LoadedUnit } from '~/api/units'
import { api } from '~/api/client'
import type { createOutgoing } from './outgoing'
import type { Conflict } from './kept'

interface Wiring {
  readonly film: ShallowRef<Film>
  readonly projectId: () => string | null
  /** Acknowledged revisions of what is loaded, by unit key. */
  readonly revisions: Map<string, number>
  readonly outgoing: () => ReturnType<typeof createOutgoing>
  /** Something is being dragged: its trial must not be mixed with what comes in. */
  readonly busy: () => boolean
  /** Does it so that the artist stays where they are in the film. */
  readonly inPlace: (work: () => void) => void
  readonly onTakeSizes: (lengths: Readonly<Record<string, number>>, panels: Readonly<Record<string, number>>) => void
  /** Units that others have changed: what they now show may have to be loaded. */
  readonly onTouched: (units: readonly UnitRef[]) => void
  readonly onConflict: (conflict: Conflict) => void
}

const refOf = (key: string): UnitRef => ({ kind: key.slice(0, key.indexOf(':')) as UnitRef['kind'], id: key.slice(key.indexOf(':') + 1) })

/** Keeps the open film at what the server has, with the changes that are still waiting on top. */
export function createSync({ film, projectId, revisions, outgoing, busy, inPlace, onTakeSizes, onTouched, onConflict }: Wiring) {
  let seq = 0
  let held: JournalEntry[] = []
  /** Units not loaded when news of them came, and the revision the news was of. */
  const heardOf = new Map<string, number>()
  let syncing: Promise<void> | null = null

  function begin(journalSeq: number) {
    seq = journalSeq
    held = []
    heardOf.clear()
  }

  /** News from the journal, in order. */
  function take(entry: JournalEntry) {
    if (busy() || syncing !== null) held.push(entry)
    else takeNow(entry)
  }

  /** What came in while something was dragged. */
  function release() {
    while (held.length > 0 && !busy() && syncing === null) takeNow(held.shift()!)
  }

  function takeNow(entry: JournalEntry) {
    if (entry.seq <= seq) return
    seq = entry.seq
    if (outgoing().waiting().some((change) => change.id === entry.change.id)) {
      outgoing().acknowledge([entry.change.id], entry.revisions)
      return
    }
    const news: string[] = []
    let gap = false
    for (const [key, revision] of Object.entries(entry.revisions)) {
      const known = revisions.get(key)
      if (known === undefined && revision > 1) heardOf.set(key, revision)
      else if (revision === (known ?? 0) + 1) news.push(key)
      else if (revision > (known ?? 0)) gap = true
    }
    onTakeSizes(entry.takeLengths, entry.takePanels)
    if (gap) return resyncSoon()
    // Told of without its edits: they are asked for, and this entry with them.
    if (entry.heavy === true && news.length > 0) {
      seq = entry.seq - 1
      return catchUpSoon()
    }
    if (news.length === 0) return
    const edits = entry.change.edits.filter((edit) => news.includes(unitKey(edit.unit)))
    const touchesWaiting = outgoing().waiting().some((change) => change.edits.some((edit) => news.includes(unitKey(edit.unit))))
    try {
      inPlace(() => {
        if (touchesWaiting) {
          const rebased = rebaseOver(film.value, outgoing().waiting(), (under) => applied(under, edits))
          film.value = rebased.film
          settle(rebased, entry.author)
        } else film.value = applied(film.value, edits)
      })
    } catch {
      return resyncSoon()
    }
    for (const key of news) revisions.set(key, entry.revisions[key]!)
    onTouched(news.map(refOf))
  }

  function applied(under: Film, edits: Change['edits']): Film {
    const result = applyChange(under, { edits })
    if (!result.ok) throw new Error(`sync: ${result.refusal.code} at ${result.refusal.path.join('.')}`)
    return result.value
  }

  function settle({ kept, clashing }: { readonly kept: readonly Change[]; readonly clashing: readonly { readonly change: Change; readonly clashes: readonly Clash[] }[] }, author: string) {
    const [first, ...more] = clashing
    if (first !== undefined) {
      // What was built on the first goes with it: one question, not ten.
      const change = more.reduce((all, { change: next }) => mergeChanges(all, next), first.change)
      const label = more.length === 0 ? change.label : `${change.label} and ${more.length} more`
      onConflict({ id: crypto.randomUUID(), change: { ...change, label }, clashes: clashing.flatMap((each) => each.clashes), author, at: Date.now() })
    }
    outgoing().replaceWaiting(kept)
  }

  /** Takes what the journal has and this window has not: a batch was refused because others were first. */
  async function catchUp(): Promise<void> {
    const id = projectId()
    if (id === null) return
    const before = seq
    for (;;) {
      const { entries, more } = await api.changesAfter(id, seq)
      await until(() => !busy())
      if (projectId() !== id) return
      entries.forEach(takeNow)
      if (!more) break
    }
    if (syncing !== null) await syncing
    // Refused though nothing is new: what this window takes to be the server's is not.
    else if (seq === before) await resync()
  }

  function catchUpSoon() {
    catchUp().catch(() => setTimeout(() => projectId() !== null && catchUpSoon(), RESYNC_AGAIN_MS))
  }

  /** As `resync`, for news that can't wait to be told of: tried until it works. */
  function resyncSoon() {
    resync().catch(() => setTimeout(() => projectId() !== null && resyncSoon(), RESYNC_AGAIN_MS))
  }

  /** Reads everything loaded anew and puts the waiting changes on top of it. */
  function resync(waiting: readonly Change[] = outgoing().waiting()): Promise<void> {
    syncing ??= readAnew(waiting).finally(() => {
      syncing = null
      release()
    })
    return syncing
  }

  async function readAnew(waiting: readonly Change[]) {
    const id = projectId()
    if (id === null) return
    await until(() => !busy())
    const known = new Set(waiting.length === 0 ? [] : await api.knownChanges(id, waiting.map((change) => change.id)))
    const opened = await api.openProject(id)
    // What was only looked at has to be looked at again.
    const touched = waiting.flatMap((change) => [...change.edits.map((edit) => edit.unit), ...(change.reads ?? []).map((read): UnitRef => (read.kind === 'content' ? read.unit : takeRef(read.takeId)))])
    const wanted = new Map(bodyKinds().map((kind) => [kind, [...new Set([...Object.keys(unitsOf(film.value, kind)), ...touched.flatMap((unit) => (unit.kind === kind ? [unit.id] : []))])]]))
    const loaded = new Map<BodyKind, readonly LoadedUnit[]>()
    for (const [kind, ids] of wanted) loaded.set(kind, await UNIT_LOADERS[kind](id, null, ids))
    await until(() => !busy())
    if (projectId() !== id) return
    seq = Math.max(seq, opened.journalSeq)
    heardOf.clear()
    revisions.clear()
    revisions.set(unitKey(outlineRef(id)), opened.outlineRevision)
    for (const [kind, units] of loaded) for (const each of units) revisions.set(unitKey({ kind, id: each.id }), each.revision)
    onTakeSizes(opened.takeLengths, opened.takePanels)
    inPlace(() => {
      let value: Film = { ...film.value, outline: opened.outline }
      for (const [kind, units] of loaded) {
        // What this window holds and the server does not have yet is as it was before anything is done to it.
        const before = unitsOf(film.value, kind)
        const none = Object.fromEntries(wanted.get(kind)!.flatMap((each) => (before[each] === undefined ? [] : [[each, UNIT_KINDS[kind].empty]])))
        value = { ...value, [UNIT_KINDS[kind].home!]: { ...none, ...Object.fromEntries(units.map((each) => [each.id, each.unit])) } }
      }
      const kept: Change[] = []
      const clashing: { change: Change; clashes: readonly Clash[] }[] = []
      for (const change of [...waiting, ...outgoing().waiting().filter((late) => !waiting.includes(late))]) {
        if (known.has(change.id)) continue
        const rebased = rebaseChange(value, change)
        if (!rebased.ok) clashing.push({ change, clashes: rebased.clashes })
        else {
          value = rebased.film
          if (rebased.change.edits.length > 0) kept.push(rebased.change)
        }
      }
      film.value = value
      settle({ kept, clashing }, '')
    })
    onTouched((loaded.get('take') ?? []).map(({ id }) => takeRef(id)))
  }

  /** A unit that was loaded: false where there is newer news of it already. */
  function isFresh(key: string, revision: number): boolean {
    const heard = heardOf.get(key)
    if (heard !== undefined && heard > revision) return false
    heardOf.delete(key)
    return true
  }

  return { begin, take, release, catchUp, catchUpSoon, resync, isFresh, seq: () => seq }
}

const RESYNC_AGAIN_MS = 3000
const LOOK_AGAIN_MS = 30

async function until(there: () => boolean): Promise<void> {
  while (!there()) await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS))
}
