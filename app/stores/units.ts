import { drawingsWith, EMPTY_DRAWING, setsIn, unfolded, unitsOf, withUnits, type BodyKind, type Film, type TakeBody, takeRef, drawingRef } from '@rubato/core/document'
import type { Change } from '@rubato/core/edits'
import type { ShallowRef } from 'vue'
import { unitKey } from '#shared/edits'
import { UNIT_LOADERS, type LoadedUnit } from '~/api/units'
import { overBudget } from './bodyBudget'

interface Wiring {
  readonly film: ShallowRef<Film>
  readonly projectId: () => string | null
  /** The version that is looked at; null for the film itself. */
  readonly version: () => string | null
  readonly revisions: Map<string, number>
  readonly isFresh: (key: string, revision: number) => boolean
  /** Does it so that the artist stays where they are in the film. */
  readonly inPlace: (work: () => void) => void
  readonly busy: () => boolean
  readonly waiting: () => readonly Change[]
  readonly onLeaving: (takes: readonly (readonly [string, TakeBody])[]) => void
}

/** Bodies and drawings of a film in memory, and how many of the takes last wanted stay whatever they cost. */
const BODY_BUDGET_BYTES = 24 * 1024 * 1024
const KEPT_AROUND = 6

/** Brings takes and drawings in as they are wanted, and lets those go that were not for long. */
export function createUnits({ film, projectId, version, revisions, isFresh, inPlace, busy, waiting, onLeaving }: Wiring) {
  const loading = new Map<string, Promise<void>>()
  const usedAt = new Map<string, number>()
  let uses = 0

  /** Loads what is asked for and not there or on its way; resolves when all of it is there. */
  async function ensure(kind: BodyKind, ids: readonly string[]): Promise<void> {
    const there = unitsOf(film.value, kind)
    const wanted = [...new Set(ids)].filter((id) => there[id] === undefined)
    const missing = wanted.filter((id) => !loading.has(unitKey({ kind, id })))
    if (missing.length > 0) {
      const work = fetchUnits(kind, missing, projectId()).finally(() => {
        for (const id of missing) loading.delete(unitKey({ kind, id }))
      })
      for (const id of missing) loading.set(unitKey({ kind, id }), work)
    }
    await Promise.all(wanted.map((id) => loading.get(unitKey({ kind, id }))))
  }

  async function fetchUnits(kind: BodyKind, ids: readonly string[], opened: string | null) {
    if (opened === null) return
    const seen = version()
    const loaded = await freshly(kind, () => UNIT_LOADERS[kind](opened, seen, ids))
    if (projectId() !== opened) return
    for (const { id, revision } of loaded) revisions.set(unitKey({ kind, id }), revision)
    // A drawing that nobody has drawn in yet is kept nowhere: it is empty.
    const begun = kind === 'drawing' ? ids.filter((id) => !loaded.some((unit) => unit.id === id)).map((id) => [id, EMPTY_DRAWING]) : []
    // What has come meanwhile, or was changed, stays.
    const units = { ...Object.fromEntries([...begun, ...loaded.map(({ id, unit }) => [id, unit])]), ...unitsOf(film.value, kind) }
    // A take may be of a later day than the lengths that were told.
    const put = () => void (film.value = withUnits(film.value, kind, units))
    if (kind === 'take') inPlace(put)
    else put()
  }

  /** Loads until no news has overtaken the answer. */
  async function freshly(kind: BodyKind, load: () => Promise<readonly LoadedUnit[]>): Promise<readonly LoadedUnit[]> {
    for (;;) {
      const loaded = await load()
      if (loaded.map((unit) => isFresh(unitKey({ kind, id: unit.id }), unit.revision)).every(Boolean)) return loaded
    }
  }

  /** Takes with the sets that they stand in and every drawing they show, in two requests, or three where there are sets. */
  async function ensureTakesWithArt(takeIds: readonly string[]): Promise<void> {
    uses++
    for (const id of takeIds) usedAt.set(id, uses)
    await ensure('take', takeIds)
    const there = () => takeIds.flatMap((id) => film.value.takes[id] ?? [])
    await ensure('set', there().flatMap((take) => setsIn(take).map(({ setId }) => setId)))
    await ensure('drawing', there().flatMap((take) => drawingsWith(unfolded(take, (id) => film.value.sets?.[id] ?? null))))
    letGo()
  }

  /** Takes and drawings not used for long leave memory; the server has them. */
  function letGo() {
    if (busy()) return
    const touched = waiting().flatMap((change) => change.edits.map((edit) => edit.unit))
    const needed = {
      takes: new Set([...touched.filter((unit) => unit.kind === 'take').map((unit) => unit.id), ...[...usedAt].filter(([, at]) => at > uses - KEPT_AROUND).map(([id]) => id)]),
      drawings: new Set(touched.filter((unit) => unit.kind === 'drawing').map((unit) => unit.id)),
    }
    const gone = overBudget(film.value, usedAt, needed, BODY_BUDGET_BYTES)
    if (gone === null) return
    onLeaving(gone.takes.map((id) => [id, film.value.takes[id]!]))
    for (const id of gone.takes) revisions.delete(unitKey(takeRef(id)))
    for (const id of gone.drawings) revisions.delete(unitKey(drawingRef(id)))
    film.value = { ...film.value, takes: without(film.value.takes, gone.takes), drawings: without(film.value.drawings, gone.drawings) }
  }

  function reset() {
    loading.clear()
    usedAt.clear()
  }

  return { ensure, ensureTakesWithArt, ensureTakeWithArt: (id: string) => ensureTakesWithArt([id]), reset }
}

function without<T>(records: Readonly<Record<string, T>>, ids: readonly string[]): Readonly<Record<string, T>> {
  const gone = new Set(ids)
  return Object.fromEntries(Object.entries(records).filter(([id]) => !gone.has(id)))
}
