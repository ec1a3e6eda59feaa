import { conformSteps, neededFor, planConform, type CutPlan } from '@rubato/core/edits'
import type { CutList } from '@rubato/core/stage'
import { rateName } from '@rubato/core/time'
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { cutJobs } from '~/clients/cutJobs'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { wordRefusal } from '~/text/refusals'

/** The main thread is given back this often while lines are taken, ms. */
const REST_AFTER_MS = 12
const TAKES_AT_ONCE = 40

/** A cut that came back: what it would change, and taking it, whole or line by line. */
export function useConform(file: Ref<File | null>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const list = shallowRef<CutList | null>(null)
  const notes = shallowRef<readonly string[]>([])
  const trouble = ref<string | null>(null)
  const state = ref<'idle' | 'reading' | 'loading' | 'taking' | 'taken'>('idle')
  const share = ref(0)
  const taken = ref(0)
  /** Lines that are not to be taken, by id: a line that comes anew is. */
  const left = ref<ReadonlySet<string>>(new Set())
  let gate = new AbortController()

  async function read(from: File) {
    gate.abort()
    gate = new AbortController()
    const { signal } = gate
    list.value = null
    notes.value = []
    trouble.value = null
    left.value = new Set()
    state.value = 'reading'
    try {
      const project = film.project!
      const found = await cutJobs.run({ file: from, rate: { ...project.rate }, startFrame: project.startTimecodeFrames ?? 0 }, { signal })
      if (signal.aborted) return
      const { rate } = found.list
      if (rate.numerator !== project.rate.numerator || rate.denominator !== project.rate.denominator) throw new Error(`It is made for ${rateName(rate)} frames a second, this film for ${rateName(project.rate)}. Have it written again at the film’s rate, or take it in as a film of its own, at Home.`)
      list.value = found.list
      notes.value = found.notes
      state.value = 'idle'
    } catch (error) {
      if (signal.aborted) return
      state.value = 'idle'
      trouble.value = `${from.name} can’t be taken in. ${(error as Error).message} Nothing has been changed.`
    }
  }
  watch(file, (now) => (now === null ? stop() : void read(now)), { immediate: true })

  /** Worked out again whenever the film changes, by whomever. */
  const plan = computed<CutPlan | null>(() => (list.value === null || state.value === 'taken' ? null : planConform(film.outline, film.filmStage, list.value)))
  const chosen = computed(() => new Set((plan.value?.lines ?? []).flatMap(({ id }) => (left.value.has(id) ? [] : [id]))))
  function choose(ids: readonly string[], on: boolean) {
    const next = new Set(left.value)
    for (const id of ids) if (on) next.delete(id)
    else next.add(id)
    left.value = next
  }

  async function take() {
    const [name, current] = [file.value?.name ?? '', plan.value]
    if (current === null || chosen.value.size === 0) return
    const { signal } = gate
    const there = desk.shotId
    const lines = new Set(chosen.value)
    trouble.value = null
    state.value = 'loading'
    share.value = 0
    try {
      if (!(await film.safeguard(`Before it was conformed to ${name}`))) return void (state.value = 'idle')
      const needs = neededFor(current, lines)
      const takesOf = (ids: readonly string[]) => ids.flatMap((id) => film.outline.shots[id]?.circledTakeId ?? [])
      const [bodies, art] = [takesOf(needs.shotIds), takesOf(needs.art)]
      for (let at = 0; at < bodies.length; at += TAKES_AT_ONCE) {
        await film.ensure('take', bodies.slice(at, at + TAKES_AT_ONCE))
        share.value = (0.4 * at) / bodies.length
        if (signal.aborted) return void (state.value = 'idle')
      }
      if (art.length > 0) await film.ensureTakesWithArt(art)
      state.value = 'taking'
      const steps = conformSteps(film.film, film.project!.id, current, lines, () => crypto.randomUUID())
      let step = steps.next()
      let [done, rested] = [0, performance.now()]
      for (; step.done !== true; step = steps.next()) {
        share.value = 0.4 + (0.6 * ++done) / (lines.size + 1)
        if (performance.now() - rested < REST_AFTER_MS) continue
        await new Promise((resolve) => setTimeout(resolve))
        rested = performance.now()
        if (signal.aborted) return void (state.value = 'idle')
      }
      const made = step.value
      if (!made.ok) throw new Error(wordRefusal(made.refusal))
      if (!film.perform(`conform to ${name}`, () => made)) throw new Error('The film has changed meanwhile. Look at the lines again, and take them once more.')
      taken.value = lines.size
      state.value = 'taken'
      // One stays where one was, if that is still in the film.
      if (there !== null && film.filmStage.placeOf(there) !== null) desk.goToShot(there)
      else desk.goTo(desk.playhead)
    } catch (error) {
      state.value = 'idle'
      if (!signal.aborted) trouble.value = `Nothing was changed. ${(error as Error).message}`
    }
  }
  function stop() {
    gate.abort()
    gate = new AbortController()
    state.value = 'idle'
  }
  onScopeDispose(stop)
  return { list, notes, trouble, state, share, taken, plan, chosen, choose, take, stop }
}
