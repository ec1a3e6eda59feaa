import { drawingsOf, EMPTY_DRAWING, withoutStandIns } from '@rubato/core/document'
import type { DepthRange } from '@rubato/core/depth'
import { createTakeStage, depthRangeOf, type FilmSpan, type TakeStage } from '@rubato/core/stage'
import { secondsOfFrames } from '@rubato/core/time'
import { computed, ref, shallowRef } from 'vue'
import { WorkerStopped } from '~/clients/jobs'
import { movieJobs } from '~/clients/movieJobs'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import { formatOf, type FormatId } from '~/workers/formats'
import type { BurnIn, MovieRequest, MovieShot } from '~/workers/messages'

export interface HandOverChoice {
  range: 'shot' | 'sequence' | 'range' | 'film'
  format: FormatId
  size: 1 | 0.5 | 0.25
  /** Whether a movie has the film's sound. */
  sound: boolean
  burnIn: BurnIn
  /** Whether what stands in for something is seen. */
  standIns: boolean
  /** Distances in grey in the place of colours, from white to black; null: as drawn. Absent ends are those of the shots. */
  depth: { readonly nearest: number | null; readonly farthest: number | null } | null
}

type State =
  | { readonly kind: 'idle' }
  | { readonly kind: 'loading' }
  | { readonly kind: 'making'; readonly phase: string; readonly done: number; readonly total: number; readonly startedAt: number }
  | { readonly kind: 'done'; readonly fileName: string; readonly url: string; readonly bytes: number; readonly frames: number; readonly codec: string | null }
  | { readonly kind: 'failed'; readonly what: string }

/** Makes the movie or the pictures in a worker, and hands the file to the browser. */
export function useHandOver() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const timing = useTimingStore()
  const sounds = useSoundStore()
  const state = shallowRef<State>({ kind: 'idle' })
  const now = ref(0)
  let gate: AbortController | null = null
  let asked = 0

  const secondsLeft = computed(() => {
    const making = state.value
    if (making.kind !== 'making' || making.done < 3) return null
    const elapsed = (now.value - making.startedAt) / 1000
    return (elapsed / making.done) * (making.total - making.done)
  })

  async function start(choice: HandOverChoice) {
    const project = film.project
    const format = formatOf(choice.format)
    if (project === null || format.needs === 'words') return
    const mine = ++asked
    release()
    state.value = { kind: 'loading' }
    try {
      const range = rangeOf(choice.range)
      const { filmStage } = film
      const transitions = filmStage.transitions.filter((each) => each.from < range.end && each.to > range.start)
      // A transition shows shots that the range itself may not touch.
      const beside = new Set(transitions.flatMap(({ before, after }) => [before?.shot.id, after?.shot.id]))
      const placed = format.needs === 'sound' ? [] : filmStage.shots.filter((each) => (each.startFrame < range.end && each.startFrame + each.lengthFrames > range.start) || beside.has(each.shot.id))
      const shots: MovieShot[] = []
      const drawings: Record<string, MovieRequest['drawings'][string]> = {}
      for (const each of placed) {
        const { shot } = each
        await film.ensureTakeWithArt(shot.circledTakeId)
        if (mine !== asked) return
        const body = film.takeOf(shot.circledTakeId)
        if (body === null) throw new Error(`Shot ${shot.label} could not be loaded.`)
        shots.push({ placed: each, body: choice.standIns ? body : withoutStandIns(body) })
        for (const drawingId of drawingsOf(body)) drawings[drawingId] = film.drawingOf(drawingId) ?? EMPTY_DRAWING
      }
      const stem = `${project.title}${nameOf(choice.range)}${choice.depth === null ? '' : ' distances'}`.trim().replace(/[^\p{L}\p{N}._-]+/gu, '-')
      const fileName = `${stem || 'film'}.${format.extension}`
      const plan = sounds.plan()
      const wantsSound = format.needs === 'sound' || (format.sound && choice.sound)
      const sound = plan === null || !wantsSound ? null : { plan, soundBase: `${location.origin}/api/sounds/`, fromSeconds: secondsOfFrames(range.start, project.rate), toSeconds: secondsOfFrames(range.end, project.rate) }
      if (format.needs === 'sound' && sound === null) throw new Error('The film has no sound yet. Bring some in on the Desk first.')
      const depth = choice.depth === null || format.needs !== 'frames' ? null : depthOf(choice.depth, shots.map(({ body }) => createTakeStage(body, film.optics!)))
      await run({ project, depth, span: range, shots, transitions, drawings, format: choice.format, size: choice.size, burnIn: { ...choice.burnIn }, sound, fileName, pictureBase: `${location.origin}/api/pictures/` }, mine)
    } catch (error) {
      if (mine !== asked) return
      const cancelled = gate?.signal.aborted === true
      release()
      state.value = cancelled ? { kind: 'idle' } : { kind: 'failed', what: error instanceof WorkerStopped ? `The export stopped by itself (${error.message}). Reload the page and try again.` : (error as Error).message }
    }
  }

  /** The distances that are white and black in all of these shots. */
  function depthOf({ nearest, farthest }: NonNullable<HandOverChoice['depth']>, stages: readonly TakeStage[]): DepthRange {
    const found = depthRangeOf(stages) ?? { nearest: 1, farthest: 10 }
    const near = nearest ?? found.nearest
    return { nearest: near, farthest: Math.max(farthest ?? found.farthest, near * 1.0001) }
  }

  /** The film's frames of a choice, `end` exclusive. */
  function rangeOf(choice: HandOverChoice['range']): FilmSpan {
    const whole = { start: 0, end: desk.lengthFrames }
    const placed = desk.placedShot
    if (choice === 'film' || placed === null) return whole
    if (choice === 'range') return timing.range ?? whole
    if (choice === 'shot') return { start: placed.startFrame, end: placed.startFrame + placed.lengthFrames }
    return film.filmStage.spanOf(placed.shot.sequenceId) ?? whole
  }

  function nameOf(choice: HandOverChoice['range']): string {
    if (choice === 'shot') return ` ${desk.placedShot?.shot.label ?? ''}`
    if (choice === 'sequence') return ` sequence ${film.outline.sequences[desk.placedShot?.shot.sequenceId ?? '']?.label ?? ''}`
    return choice === 'range' ? ` ${rangeOf('range').start}-${rangeOf('range').end - 1}` : ''
  }

  async function run(request: MovieRequest, mine: number) {
    const startedAt = performance.now()
    const { signal } = (gate = new AbortController())
    const made = await movieJobs.run(request, {
      signal,
      progress: (progress) => {
        if (mine !== asked) return
        now.value = performance.now()
        state.value = { kind: 'making', ...progress, startedAt }
      },
    })
    if (mine !== asked) return
    gate = null
    state.value = { kind: 'done', fileName: request.fileName, url: URL.createObjectURL(made.file), bytes: made.file.size, frames: made.frames, codec: made.codec }
    save()
  }

  /** Hands the finished file to the browser's downloads. */
  function save() {
    if (state.value.kind !== 'done') return
    const link = document.createElement('a')
    link.href = state.value.url
    link.download = state.value.fileName
    link.click()
  }

  /** A worker that does not end its work by itself is ended all the same; until then the state says so. */
  function cancel() {
    if (gate !== null) return gate.abort()
    asked++
    state.value = { kind: 'idle' }
  }

  function release() {
    gate = null
    if (state.value.kind === 'done') URL.revokeObjectURL(state.value.url)
  }

  return { state, secondsLeft, start, cancel, save, rangeOf }
}
