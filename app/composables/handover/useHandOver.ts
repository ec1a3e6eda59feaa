import { useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { api } from '~/api/client'
import { WorkerStopped } from '~/clients/jobs'
import { factsOf } from '#shared/handOver'
import { leadFrames, type RenderAsk } from '#shared/renders'
import { useFilmStore } from '~/stores/film'
import { useRendersStore } from '~/stores/renders'
import { formatOf, type FormatId } from '~/workers/formats'
import { moviePixels } from '~/workers/moviePlan'
import { useDeskStore } from '~/stores/desk'
import { useMovieOut, type MovieChoice } from './useMovieOut'
import { saveFile, useWordsOut } from './useWordsOut'

export interface HandOverChoice extends MovieChoice {
  /** In the order that they are made in. */
  formats: FormatId[]
  /** Where what can be made in either is made. */
  where: 'window' | 'server'
  /** On the server: before others, in its turn, after others. */
  priority: RenderAsk['priority']
  /** Of a timeline: each shot with its panels and cameras inside. */
  nested: boolean
}

export type ItemState =
  | { readonly kind: 'waiting' | 'loading' | 'cancelled' }
  | { readonly kind: 'making'; readonly phase: string; readonly done: number; readonly total: number; readonly startedAt: number }
  | { readonly kind: 'done'; readonly name: string; readonly file: Blob; readonly frames: number | null; readonly codec: string | null }
  | { readonly kind: 'failed'; readonly what: string }
/** One file of what is asked for. */
export interface HandOverItem {
  readonly id: FormatId
  readonly label: string
  readonly state: ItemState
}

/** How fast a format was made here before, by its id: bytes and ms for each frame's million pixels. */
type Made = Readonly<Record<string, { readonly bytes: number; readonly ms: number }>>

/** Makes one file after the other, and hands each to the browser. */
export function useHandOver() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const renders = useRendersStore()
  /** Formats that this browser can't make, as far as is known. */
  const unmade = ref<ReadonlySet<FormatId>>(new Set())
  const movies = useMovieOut()
  const words = useWordsOut()
  const items = shallowRef<readonly HandOverItem[]>([])
  const now = ref(0)
  const before = useLocalStorage<Made>('rubato.madeBefore', {})
  let gate: AbortController | null = null

  const asking = ref(false)
  const busy = computed(() => asking.value || items.value.some(({ state }) => state.kind === 'waiting' || state.kind === 'loading' || state.kind === 'making'))
  const making = computed(() => items.value.map(({ state }) => state).find((state) => state.kind === 'making') ?? null)
  const secondsLeft = computed(() => {
    const state = making.value
    if (state?.kind !== 'making' || state.done < 3) return null
    return ((now.value - state.startedAt) / 1000 / state.done) * (state.total - state.done)
  })

  const megapixels = (choice: MovieChoice) => {
    if (film.project === null) return 0
    const { widthPx, heightPx } = moviePixels({ project: film.project, size: choice.size, dress: choice.dress })
    return (widthPx * heightPx) / 1e6
  }
  const framesOf = (choice: MovieChoice) => movies.filesOf(choice).reduce((sum, { span }) => sum + span.end - span.start + leadFrames(choice.dress), 0)
  /** Whether a worker of the server's makes it: where that was chosen, or where it can't be made here. */
  const isForServer = (choice: HandOverChoice, id: FormatId) => ((made) => made === 'server' || (made === 'either' && (choice.where === 'server' || unmade.value.has(id))))(factsOf(id).made)
  /** Looks which formats this browser can make at the film's size. */
  async function lookWhatCan(formats: readonly FormatId[]) {
    const { project } = film
    const cannot = new Set<FormatId>()
    for (const id of formats) {
      const format = formatOf(id)
      if (project !== null && format.needs === 'frames' && format.canBeMade !== undefined && !(await format.canBeMade(project.widthPx, project.heightPx, desk.fps))) cannot.add(id)
    }
    unmade.value = cannot
  }
  /** Puts what is chosen into the server's queue. It has been told when there is none of it left here. */
  async function ask(choice: HandOverChoice, format: FormatId): Promise<void> {
    await film.settled()
    const label = desk.placedShot?.shot.label ?? ''
    const of: RenderAsk['of'] = choice.range === 'film' ? { kind: 'film' } : choice.range === 'shot' ? { kind: 'shots', from: label, to: label } : { kind: 'span', ...movies.rangeOf(choice.range) }
    const version = film.lookingAt?.version
    const { size, sound, burnIn, dress, standIns, depth, clear, trim, each, handles, priority } = choice
    await renders.start({ format, of, each, handles, look: { size, sound, burnIn, dress, standIns, depth, clear, trim }, priority, author: film.artist, ...(version === undefined ? {} : { version }) })
  }

  /** How large all that is chosen will be, and how long it takes: as it went before, or a guess. */
  function estimate(choice: HandOverChoice): { readonly bytes: number; readonly seconds: number; readonly isGuess: boolean } {
    const frames = framesOf(choice)
    const seconds = film.project === null ? 0 : (frames * film.project.rate.denominator) / film.project.rate.numerator
    const sum = { bytes: 0, seconds: 0, isGuess: false }
    for (const id of choice.formats) {
      const format = formatOf(id)
      if (format.needs === 'frames') {
        const known = before.value[id]
        const { bytes, ms } = known ?? format.guess
        sum.bytes += bytes * megapixels(choice) * frames + (format.sound && choice.sound ? 16_000 * seconds : 0)
        sum.seconds += (ms / 1000) * megapixels(choice) * frames
        sum.isGuess ||= known === undefined
      } else if (format.needs === 'sound') sum.bytes += 288_000 * seconds
    }
    return sum
  }

  async function start(choice: HandOverChoice) {
    const { signal } = (gate = new AbortController())
    const [away, here] = [choice.formats.filter((id) => isForServer(choice, id)), choice.formats.filter((id) => !isForServer(choice, id))]
    asking.value = away.length > 0
    try {
      for (const id of away) await ask(choice, id)
    } catch (error) {
      renders.trouble = (error as Error).message
    } finally {
      asking.value = false
    }
    items.value = here.map((id) => ({ id, label: formatOf(id).label, state: { kind: 'waiting' } }))
    const put = (index: number, state: ItemState) => {
      now.value = performance.now()
      items.value = items.value.map((item, i) => (i === index ? { ...item, state } : item))
    }
    for (const [index, id] of here.entries()) {
      put(index, { kind: 'loading' })
      try {
        const made = await makeOne(choice, id, signal, (state) => put(index, state))
        if (signal.aborted) throw signal.reason
        put(index, made)
        saveFile(made.name, made.file)
      } catch (error) {
        if (signal.aborted) {
          items.value = items.value.map((item) => (item.state.kind === 'done' || item.state.kind === 'failed' ? item : { ...item, state: { kind: 'cancelled' } }))
          return
        }
        put(index, { kind: 'failed', what: error instanceof WorkerStopped ? `The export stopped by itself (${error.message}). Reload the page and try again.` : (error as Error).message })
      }
    }
  }

  async function makeOne(choice: HandOverChoice, id: FormatId, signal: AbortSignal, tell: (state: ItemState) => void): Promise<Extract<ItemState, { readonly kind: 'done' }>> {
    const format = formatOf(id)
    const startedAt = performance.now()
    const done = { kind: 'done', frames: null, codec: null } as const
    if (format.needs === 'words') return { ...done, ...(await words.wordsFile(format, (share) => tell({ kind: 'making', phase: 'words', done: Math.round(share * 100), total: 100, startedAt }), signal)) }
    if (format.needs === 'cut') {
      await film.settled()
      const version = film.lookingAt?.version
      const movie = movieBeside(choice)
      const file = await api.cut(film.projectId!, { as: format.as, nested: choice.nested ? '1' : '0', ...(version === undefined ? {} : { version }), ...(movie === null ? {} : { movie }) }, signal)
      return { ...done, name: `${movies.stemOf({ range: 'film', depth: null })}.${format.extension}`, file }
    }
    if (format.needs === 'stage') return { ...done, ...(await movies.makeStages(choice, id, signal, (progress) => tell({ kind: 'making', ...progress, phase: 'shots', startedAt }))) }
    if (format.needs === 'checks' || format.needs === 'boards') throw new Error(`${format.label}: only the server makes them.`)
    const made = await movies.make(choice, id, format, signal, (progress) => tell({ kind: 'making', ...progress, startedAt }))
    if (format.needs === 'frames' && made.frames > 0) {
      const size = megapixels(choice) * made.frames
      before.value = { ...before.value, [id]: { bytes: made.file.size / size, ms: made.totalMs / size } }
    }
    return { ...done, name: made.name, file: made.file, frames: made.frames, codec: made.codec }
  }

  /** The movie of the whole film that is made along with its cut, by which that finds its pictures. */
  function movieBeside(choice: HandOverChoice): string | null {
    const id = choice.range === 'film' && choice.each === 'whole' && leadFrames(choice.dress) === 0 ? choice.formats.find((each) => ((format) => format.needs === 'frames' && format.frame === 'pixels')(formatOf(each))) : undefined
    return id === undefined ? null : `${movies.stemOf(choice)}.${formatOf(id).extension}`
  }

  /** A worker that does not end its work by itself is ended all the same; until then the state says so. */
  const cancel = () => gate?.abort()
  const save = (item: HandOverItem) => void (item.state.kind === 'done' && saveFile(item.state.name, item.state.file))
  const forget = () => void (busy.value || (items.value = []))

  return { unmade, lookWhatCan, isForServer, framesOf, items, busy, secondsLeft, start, cancel, save, forget, estimate, movieBeside, rangeOf: movies.rangeOf }
}
