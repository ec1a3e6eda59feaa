import { shotDifficulty, thingDifficulty, thingsOf, WEIGHTS, type Difficulty, type ShotFacts, type TakeFacts, type Thing } from '@rubato/core/checks'
import { BREAKDOWN_ID, EMPTY_BREAKDOWN, inOrder, shotWorkId, type Breakdown, type Work, type WorkFields, type WorkWeight } from '@rubato/core/document'
import { addWorkColumn, removeWorkColumn, renameWorkColumn, sayOfWork, setWorkWeights, type Made } from '@rubato/core/edits'
import type { PlacedShot } from '@rubato/core/stage'
import { defineStore } from 'pinia'
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'
import { FACTS_AT_ONCE } from '#shared/projects'
import { api } from '~/api/client'
import { useFilmStore } from './film'

/** What others or this window change is asked for anew so long after the last change, ms. */
const SETTLED_MS = 900
/** Rows that come into view within this are brought in together, ms. */
const BATCH_MS = 40

/** A shot of the breakdown; `facts` are null until they are worked out. */
export interface ShotWork {
  readonly id: string
  readonly placed: PlacedShot
  readonly facts: TakeFacts | null
  readonly difficulty: Difficulty | null
  readonly work: Work | undefined
  readonly days: number | null
}
export interface ThingWork {
  readonly id: string
  readonly thing: Thing
  /** As it stands in lists: with its shot where it is of one. No two are called the same. */
  readonly label: string
  readonly difficulty: Difficulty
  readonly work: Work | undefined
  readonly days: number
}

/** What is to be made: worked out from the film by the server, with what the artist says of it. */
export const useBreakdownStore = defineStore('breakdown', () => {
  const film = useFilmStore()
  const facts = shallowRef<ReadonlyMap<string, TakeFacts>>(new Map())
  const trouble = ref<string | null>(null)
  /** While facts are worked out. */
  const working = shallowRef<{ readonly done: number; readonly total: number } | null>(null)
  const isReady = ref(false)
  let gate = new AbortController()
  let lookers = 0

  const body = computed<Breakdown>(() => film.film.breakdowns?.[BREAKDOWN_ID] ?? EMPTY_BREAKDOWN)
  const weights = computed<Readonly<Record<WorkWeight, number>>>(() => body.value.weights.weights ?? WEIGHTS)
  const columns = computed(() => inOrder(body.value.columns))
  const widthPx = computed(() => film.project?.widthPx ?? 1920)

  async function ask() {
    const projectId = film.projectId
    if (projectId === null || film.lookingAt !== null) return
    gate.abort()
    gate = new AbortController()
    const { signal } = gate
    try {
      // What this window has changed is to be in it.
      await film.flush()
      await film.ensure('breakdown', [BREAKDOWN_ID])
      const found = await api.facts(projectId, signal)
      const known = new Map(Object.entries(found.facts))
      if (signal.aborted) return
      // What is worked out anew stands as it was until it is.
      facts.value = new Map([...found.missing.flatMap((id) => ((before) => (before === undefined ? [] : [[id, before] as const]))(facts.value.get(id))), ...known])
      isReady.value = true
      trouble.value = null
      for (let at = 0; at < found.missing.length; at += FACTS_AT_ONCE) {
        working.value = { done: at, total: found.missing.length }
        const some = await api.factsOf(projectId, found.missing.slice(at, at + FACTS_AT_ONCE), signal)
        if (signal.aborted) return
        facts.value = new Map([...facts.value, ...Object.entries(some.facts)])
      }
      working.value = null
    } catch (error) {
      if (signal.aborted) return
      working.value = null
      trouble.value = `The breakdown could not be worked out. ${(error as Error).message} It is tried again with the next change, and when you come back here.`
    }
  }
  function stop() {
    gate.abort()
    working.value = null
  }

  let settling: ReturnType<typeof setTimeout> | undefined
  /** Whether anything that was there is otherwise: what only comes into memory, or leaves it, is as it was. */
  const isChanged = (now: Readonly<Record<string, unknown>> = {}, before: Readonly<Record<string, unknown>> = {}) => now !== before && Object.entries(now).some(([id, unit]) => before[id] !== undefined && before[id] !== unit)
  watch(
    () => [film.film.takes, film.film.sets, film.film.drawings, film.outline.shots, film.optics] as const,
    ([takes, sets, drawings, shots, optics], [takesBefore, setsBefore, drawingsBefore, shotsBefore, opticsBefore]) => {
      if (lookers === 0 || !(shots !== shotsBefore || optics !== opticsBefore || isChanged(takes, takesBefore) || isChanged(sets, setsBefore) || isChanged(drawings, drawingsBefore))) return
      clearTimeout(settling)
      settling = setTimeout(() => !film.gestureOpen && void ask(), SETTLED_MS)
    },
  )
  /** Keeps it in step for as long as the calling component is there. */
  function look() {
    lookers++
    void ask()
    onScopeDispose(() => {
      lookers--
      clearTimeout(settling)
      stop()
    })
  }
  watch(() => [film.projectId, film.lookingAt?.version], () => {
    stop()
    facts.value = new Map()
    isReady.value = false
  })

  const shots = computed<readonly ShotWork[]>(() =>
    film.filmStage.shots.map((placed): ShotWork => {
      const id = shotWorkId(placed.shot.id)
      const own = facts.value.get(placed.shot.circledTakeId) ?? null
      const difficulty = own === null ? null : shotDifficulty(own, weights.value, widthPx.value)
      const work = body.value.work[id]
      return { id, placed, facts: own, difficulty, work, days: work?.days ?? (difficulty === null ? null : difficulty.points * weights.value.daysPerPoint) }
    }),
  )
  const known = computed<readonly ShotFacts[]>(() => film.filmStage.shots.flatMap(({ shot }) => ((own) => (own === undefined ? [] : [{ shotId: shot.id, facts: own }]))(facts.value.get(shot.circledTakeId))))
  const all = computed(() => thingsOf(known.value, (id) => film.outline.sets[id]?.name ?? 'A set', widthPx.value))
  const things = computed<readonly ThingWork[]>(() => {
    const labels = new Map<string, number>()
    return all.value.map((thing): ThingWork => {
      const difficulty = thingDifficulty(thing, weights.value)
      const work = body.value.work[thing.id]
      const shotId = thing.sort === 'set' ? undefined : thing.id.split('.')[1]
      const plain = shotId === undefined ? thing.name : `${thing.name} (${film.outline.shots[shotId]?.label ?? ''})`
      const times = (labels.get(plain) ?? 0) + 1
      labels.set(plain, times)
      return { id: thing.id, thing, label: times === 1 ? plain : `${plain} ${times}`, difficulty, work, days: work?.days ?? difficulty.points * weights.value.daysPerPoint }
    })
  })

  /** Brings in what a row's picture needs; those of rows that come into view together in one request. */
  let batch: { readonly ids: Set<string>; readonly over: Promise<void> } | null = null
  function bring(takeId: string): Promise<void> {
    if (batch === null) {
      const ids = new Set<string>()
      const over = new Promise((resolve) => setTimeout(resolve, BATCH_MS)).then(() => {
        batch = null
        return film.ensureTakesWithArt([...ids])
      })
      batch = { ids, over }
    }
    batch.ids.add(takeId)
    return batch.over
  }

  const change = (label: string, made: (now: Breakdown) => Made) => film.perform(label, (f) => made(f.breakdowns?.[BREAKDOWN_ID] ?? EMPTY_BREAKDOWN))
  const say = (label: string, ids: readonly string[], fields: WorkFields) => change(label, (now) => sayOfWork(now, ids.map((id) => ({ id, fields }))))
  const sayEach = (label: string, said: readonly { readonly id: string; readonly fields: WorkFields }[]) => change(label, (now) => sayOfWork(now, said))
  const addColumn = (id: string, name: string, of: 'things' | 'shots') => change(`column ${name}`, (now) => addWorkColumn(now, id, name, of))
  const renameColumn = (id: string, name: string) => change(`rename column ${name}`, (now) => renameWorkColumn(now, id, name))
  const removeColumn = (id: string, name: string) => change(`take out column ${name}`, (now) => removeWorkColumn(now, id))
  const setWeights = (next: Readonly<Record<WorkWeight, number>> | null) => change('what counts how much', (now) => setWorkWeights(now, next))

  return { body, weights, columns, widthPx, trouble, working, isReady, look, ask, stop, bring, shots, things, change, say, sayEach, addColumn, renameColumn, removeColumn, setWeights }
})
