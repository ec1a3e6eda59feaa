import { setWorkId, wholeOf, type Work, type WorkColumn, type WorkFields, type WorkState } from '@rubato/core/document'
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef, watch, type ComputedRef, type Ref } from 'vue'
import { useBreakdownStore, type ShotWork, type ThingWork } from '~/stores/breakdown'
import { useEdgesStore } from '~/stores/edges'
import { useFilmStore } from '~/stores/film'
import { cameraWords, daysWords, difficultyWords, madeWords, sortedBy, sortWords, stateWords } from '~/text/breakdown'

export type WorkTab = 'things' | 'shots'
export interface WorkRow {
  readonly id: string
  readonly label: string
  readonly takeId: string | null
  readonly shotId: string | null
  readonly sequenceId: string | null
  readonly state: WorkState | null
  readonly points: number | null
  readonly days: number | null
  /** Those that somebody said. */
  readonly saidDays: number | null
  /** Worked out where they are asked for: of thousands of rows few are seen. */
  readonly cells: Readonly<Record<string, string | number | null>>
  readonly why: string
  readonly findings: number | null
}
type Cells = WorkRow['cells']
/** A row whose cells are worked out when one is read, and again when what they hang on changes. */
function rowOf(known: Omit<WorkRow, 'cells' | 'why' | 'findings'>, why: () => string, findings: () => number | null, cells: (findings: number | null) => Cells): WorkRow {
  // Made with the first look: of thousands of rows few are looked at.
  let found: ComputedRef<number | null> | undefined
  let all: ComputedRef<Cells> | undefined
  const findingsNow = () => (found ??= computed(findings)).value
  return {
    ...known,
    get cells() {
      return (all ??= computed(() => cells(findingsNow()))).value
    },
    get findings() {
      return findingsNow()
    },
    get why() {
      return why()
    },
  }
}
export interface GroupRow {
  readonly id: string
  readonly group: string
  readonly rows: number
  readonly done: number
  readonly days: number
}
export type TableRow = WorkRow | GroupRow
export const isGroup = (row: TableRow): row is GroupRow => 'group' in row

export interface TableColumn {
  readonly id: string
  readonly name: string
  readonly width: number
  /** What may be said in it. */
  readonly said: 'state' | 'who' | 'days' | 'notes' | 'own' | null
  readonly number: boolean
  readonly tempo?: boolean
}
const column = (id: string, name: string, width: number, more: Partial<TableColumn> = {}): TableColumn => ({ id, name, width, said: null, number: false, ...more })
const SAID_COLUMNS = [column('state', 'State', 100, { said: 'state' }), column('who', 'Who', 92, { said: 'who' }), column('days', 'Days', 72, { said: 'days', number: true })]
const NOTES = column('notes', 'Notes', 200, { said: 'notes' })
export const COLUMNS: Readonly<Record<WorkTab, readonly TableColumn[]>> = {
  things: [column('name', 'Piece', 200), column('seen', 'Seen in', 112), column('made', 'Made to, px', 142), column('closest', 'Closest', 70, { number: true }), column('move', 'Seen by', 156, { tempo: true }), column('hard', 'Hard', 92), ...SAID_COLUMNS, column('finding', 'Findings', 84), NOTES],
  shots: [column('name', 'Shot', 204), column('sequence', 'Sequence', 110), column('length', 'Frames', 66, { number: true }), column('framings', 'Framings', 74, { number: true }), column('cameras', 'Cameras', 70, { number: true }), column('move', 'Move', 180, { tempo: true }), column('levels', 'Levels', 60, { number: true }), column('figures', 'Figures', 64, { number: true }), column('dialogue', 'Dialogue', 74, { number: true }), column('finding', 'Findings', 80), column('hard', 'Hard', 92), ...SAID_COLUMNS, NOTES],
}
export const GROUPS = ['none', 'sequence', 'state', 'who', 'sort'] as const
export type Grouping = (typeof GROUPS)[number]

/** The rows of the breakdown as they are chosen, put in order and told apart. */
export function useWorkTable(tab: Ref<WorkTab>) {
  const store = useBreakdownStore()
  const film = useFilmStore()
  const edges = useEdgesStore()
  const search = ref('')
  const stateFilter = ref<'any' | 'todo' | WorkState>('any')
  const grouping = useLocalStorage<Grouping>('rubato.workGroup', 'none')
  const hidden = useLocalStorage<Record<WorkTab, string[]>>('rubato.workColumns', { things: [], shots: ['figures', 'dialogue', 'cameras'] })
  const sort = ref<{ readonly column: string; readonly way: 1 | -1 } | null>(null)
  const chosen = shallowRef<readonly TableRow[]>([])

  const own = computed(() => store.columns.filter(({ of }) => of === tab.value).map((each: WorkColumn) => column(`own.${each.id}`, each.name, 130, { said: 'own' })))
  const allColumns = computed(() => [...COLUMNS[tab.value], ...own.value])
  const shownColumns = computed(() => allColumns.value.filter(({ id }) => id === 'name' || !(hidden.value[tab.value] ?? []).includes(id)))

  const placedOf = computed(() => new Map(film.filmStage.shots.map((placed) => [placed.shot.id, placed])))
  const shotOf = computed(() => new Map(store.shots.map((each) => [each.placed.shot.id, each])))
  const ownCells = (work: Work | undefined) => Object.fromEntries(Object.entries(work?.own ?? {}).map(([id, text]) => [`own.${id}`, text]))
  /** Null where the shot has not been looked through. */
  const findingsOf = (takeId: string) => (edges.looked.has(takeId) ? edges.speaking(takeId).length : null)
  function findingsIn(takeId: string, { id, sort: of }: ThingWork['thing']): number | null {
    // Asked first: of shots that were not looked through nothing else is to be kept in step.
    if (!edges.looked.has(takeId)) return null
    const levels = film.film.takes[takeId]?.levels
    const isIts = (levelId: string) => (of === 'set' ? ((on) => on?.kind === 'set' && setWorkId(on.setId) === id)(levels?.[wholeOf(levelId)]) : id.endsWith(`.${levelId}`))
    return edges.speaking(takeId).filter(({ levelId }) => levelId !== null && isIts(levelId)).length
  }

  /** What the looked-through shots of a thing have to say of it; null where none was looked through. */
  function findingsOfThing(thing: ThingWork['thing']): number | null {
    const takeIds = thing.shotIds.flatMap((shotId) => placedOf.value.get(shotId)?.shot.circledTakeId ?? [])
    const found = takeIds.flatMap((takeId) => findingsIn(takeId, thing) ?? [])
    return found.length === 0 ? null : found.reduce((sum, count) => sum + count, 0)
  }
  function seenIn(shotIds: readonly string[]): string {
    const labels = (shotIds.length > 6 ? shotIds.slice(0, 5) : shotIds).map((shotId) => placedOf.value.get(shotId)?.shot.label ?? '')
    return shotIds.length > 6 ? `${labels.join(' ')} … ${shotIds.length}` : labels.join(' ')
  }
  const saidCells = (work: Work | undefined, days: number | null): Cells => ({
    state: stateWords(work?.state), who: work?.who ?? '', days, notes: work?.notes ?? '', ...ownCells(work),
  })

  function thingRow({ id, thing, label, difficulty, work, days }: ThingWork): WorkRow {
    const first = thing.shotIds[0] ?? (thing.sort === 'set' ? undefined : id.split('.')[1])
    const placed = first === undefined ? undefined : placedOf.value.get(first)
    const known = { id, label, takeId: placed?.shot.circledTakeId ?? null, shotId: first ?? null, sequenceId: placed?.shot.sequenceId ?? null, state: work?.state ?? null, points: difficulty.points, days, saidDays: work?.days ?? null }
    return rowOf(known, () => difficultyWords(difficulty), () => findingsOfThing(thing), (finding) => {
      const seenBy = first === undefined ? null : (shotOf.value.get(first)?.facts ?? null)
      return {
        name: thing.name,
        sort: sortWords(thing),
        seen: seenIn(thing.shotIds),
        made: madeWords(thing),
        closest: thing.closest === 0 ? null : thing.closest,
        move: seenBy === null ? '' : cameraWords(seenBy),
        hard: difficulty.points,
        finding,
        ...saidCells(work, days),
      }
    })
  }
  function shotRow({ id, placed, facts, difficulty, work, days }: ShotWork): WorkRow {
    const { shot } = placed
    const known = { id, label: shot.label, takeId: shot.circledTakeId, shotId: shot.id, sequenceId: shot.sequenceId, state: work?.state ?? null, points: difficulty?.points ?? null, days, saidDays: work?.days ?? null }
    return rowOf(known, () => (difficulty === null ? '' : difficultyWords(difficulty)), () => findingsOf(shot.circledTakeId), (finding) => {
      const sequence = film.outline.sequences[shot.sequenceId]
      return {
        name: shot.label,
        sort: shot.title,
        sequence: `${sequence?.label ?? ''} ${sequence?.title ?? ''}`.trim(),
        length: placed.lengthFrames,
        framings: facts?.framings ?? null,
        cameras: facts?.cameras ?? null,
        move: facts === null ? '' : cameraWords(facts),
        levels: facts?.levels.length ?? null,
        figures: facts?.levels.filter(({ sort: of }) => of === 'figure').length ?? null,
        dialogue: facts === null || facts.dialogue === 0 ? null : facts.dialogue,
        finding,
        hard: difficulty?.points ?? null,
        ...saidCells(work, days),
      }
    })
  }
  /** Rows that run out; nothing is asked of any while no shot has been looked through. */
  const runsOut = computed(() => (edges.looked.size === 0 ? 0 : rows.value.filter(({ findings }) => (findings ?? 0) > 0).length))
  const rows = computed<readonly WorkRow[]>(() => (tab.value === 'things' ? store.things.map(thingRow) : store.shots.map(shotRow)))

  const matching = computed(() => {
    const words = search.value.trim().toLowerCase().split(/\s+/).filter((word) => word !== '')
    return rows.value.filter((row) => (stateFilter.value === 'any' || (row.state ?? 'todo') === stateFilter.value) && (words.length === 0 || ((text) => words.every((word) => text.includes(word)))(Object.values(row.cells).join(' ').toLowerCase())))
  })
  const sequenceWords = (id: string | null) => ((sequence) => (sequence === undefined ? 'in no shot' : `${sequence.label} ${sequence.title}`.trim()))(film.outline.sequences[id ?? ''])
  const groupOf = (row: WorkRow): string => {
    if (grouping.value === 'sequence') return sequenceWords(row.sequenceId)
    if (grouping.value === 'state') return stateWords(row.state ?? undefined)
    if (grouping.value === 'who') return String(row.cells.who) || 'nobody'
    return String(row.cells.sort).replace(/ of \d+|,.*/g, '') || 'other'
  }
  const inOrder = computed(() => (sort.value === null ? matching.value : sortedBy(matching.value, (row) => row.cells[sort.value!.column] ?? null, sort.value.way)))
  const tableRows = computed<TableRow[]>(() => {
    if (grouping.value === 'none' || (grouping.value === 'sort' && tab.value === 'shots')) return [...inOrder.value]
    const groups = new Map<string, WorkRow[]>()
    for (const row of inOrder.value) {
      const name = groupOf(row)
      const known = groups.get(name)
      if (known === undefined) groups.set(name, [row])
      else known.push(row)
    }
    return [...groups].flatMap(([group, of]): TableRow[] => [{ id: `group ${group}`, group, rows: of.length, done: of.filter(({ state }) => state === 'done').length, days: of.reduce((sum, { days }) => sum + (days ?? 0), 0) }, ...of])
  })
  watch([tab, grouping], () => (chosen.value = []))

  /** What is said goes for all that are chosen, if this is one of them. */
  const meant = (row: WorkRow) => ((ids) => (ids.includes(row.id) ? ids : [row.id]))(chosen.value.flatMap((each) => (isGroup(each) ? [] : [each.id])))
  function say(row: WorkRow, fields: WorkFields, of: string) {
    const ids = meant(row)
    store.say(`${of} of ${ids.length === 1 ? row.label : `${ids.length} rows`}`, ids, fields)
  }
  return { search, stateFilter, grouping, hidden, sort, chosen, allColumns, shownColumns, rows, runsOut, tableRows, meant, say, daysWords }
}
