import { operatedBy, type CameraPose, type HandStep } from '@rubato/core/camera'
import { placedTries } from '@rubato/core/document'
import { addTry, removeTry, type Baked } from '@rubato/core/edits'
import { operatedPoses, SAMPLES_MOST, unpackSamples, type OperatedSample } from '@rubato/core/moves'
import { artReaches } from '@rubato/core/stage'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { bakeJobs } from '~/clients/bakeJobs'
import { useReach } from '~/composables/camera/useReach'
import { useDeskStore } from './desk'
import type { Gesture } from './editing'
import { useFilmStore } from './film'
import { usePlaybackStore } from './playback'

/** A try of the shot, with what the hand did once that is here. */
export interface OperatedTry {
  readonly id: string
  readonly number: number
  readonly takeId: string
  readonly cameraId: string
  /** The shot's frame that it begins on, and its last, from there. */
  readonly from: number
  readonly lastFrame: number
  readonly samplesId: string
}

const COUNT_MS = 600
/** A hand that rests is told of once more before it goes on. */
const REST_FRAMES = 1
/** The longest that smoothing reaches, frames. */
export const SMOOTH_MOST = 48

/** Working a camera by hand while the film plays: tries, what is made of them, and which becomes framings. */
export const useOperateStore = defineStore('operate', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const playback = usePlaybackStore()
  const { reach } = useReach()
  const phase = ref<'idle' | 'count' | 'running' | 'review'>('idle')
  /** What is still counted in. */
  const beats = ref(0)
  const chosenId = ref<string | null>(null)
  const smoothFrames = useLocalStorage('rubato.operateSmooth', 6)
  const tolerancePx = useLocalStorage('rubato.operatePx', 2)
  /** Which part of the chosen try is written, frames of the shot; null: all of it. */
  const part = shallowRef<{ readonly first: number; readonly last: number } | null>(null)
  /** Where the hand has the camera now. */
  const hand = shallowRef<CameraPose | null>(null)
  const found = shallowRef<Baked | null>(null)
  const share = ref(0)
  const problem = ref<string | null>(null)
  let session: { readonly takeId: string; readonly cameraId: string; readonly from: number; readonly last: number; readonly samples: OperatedSample[] } | null = null
  let counting: ReturnType<typeof setTimeout> | undefined
  let gate = new AbortController()
  /** The framings that were found, seen before they are taken. */
  const trying = shallowRef<Gesture | null>(null)

  const tries = computed<readonly OperatedTry[]>(() => {
    const { take, takeId } = desk
    return take === null || takeId === null ? [] : placedTries(take).map(({ tried: { id, number, cameraId, lastFrame, samplesId }, from }) => ({ id, number, takeId, cameraId, from, lastFrame, samplesId }))
  })
  const chosen = computed(() => tries.value.find(({ id }) => id === chosenId.value) ?? null)
  /** Null until they are here. */
  const samples = computed(() => {
    const packed = chosen.value === null ? undefined : film.film.tries?.[chosen.value.samplesId]?.samples[chosen.value.samplesId]
    return packed === undefined ? null : unpackSamples(packed)
  })
  const poses = computed(() => (chosen.value === null || samples.value === null ? [] : operatedPoses(samples.value, chosen.value.lastFrame, smoothFrames.value)))
  const isLive = computed(() => phase.value === 'count' || phase.value === 'running')

  /** From rest it counts in; while it runs it is done; a look at tries goes away. */
  function open() {
    if (phase.value === 'running') return finish()
    if (phase.value === 'count') return giveUp()
    if (phase.value === 'review') return close()
    if (tries.value.length > 0) return choose(tries.value.at(-1)!.id)
    begin()
  }

  /** Counts in and runs from a frame of the shot, to its end or to another: then what is before and after stays. */
  function begin(from = desk.shotFrame, to: number | null = null) {
    const { takeId, cameraAtWorkId: cameraId, cameraAtWork, stage, placedShot } = desk
    if (takeId === null || cameraId === null || stage === null || placedShot === null || film.optics === null) return film.refuse('There is no camera here to work. Put a shot in first.')
    if (film.lookingAt !== null) return film.refuse('This is a version, to look at. Bring it back to change it.')
    if (cameraAtWork?.locked === true) return film.refuse(`Camera ${cameraAtWork.letter} is locked. Unlock it to work it by hand (Alt L).`)
    if (stage.lengthFrames - from < 2) return film.refuse('The shot ends here. Go back a little, so that there is something to work through.')
    letGo()
    playback.stop()
    if (desk.shotFrame !== from) desk.goTo(placedShot.startFrame + from)
    // From where the try that is looked at has the camera there.
    hand.value = desk.pose
    chosenId.value = null
    session = { takeId, cameraId, from, last: Math.min(stage.lengthFrames - 1, to ?? Infinity), samples: [] }
    desk.pressedCameraId = cameraId
    desk.operatedAt = () => hand.value
    phase.value = 'count'
    beats.value = 3
    const beat = () => {
      beats.value--
      if (beats.value > 0) counting = setTimeout(beat, COUNT_MS)
      else run()
    }
    counting = setTimeout(beat, COUNT_MS)
  }

  function run() {
    if (session === null || hand.value === null) return
    session.samples.push({ at: 0, pose: hand.value })
    phase.value = 'running'
    const { from, last } = session
    playback.play((elapsed) => from + elapsed >= last && finish())
    if (!desk.playing) finish()
  }

  /** What the hand does; `stamp` is the event's own time. */
  function move(step: HandStep, stamp = performance.now()) {
    if (session === null || hand.value === null || film.optics === null) return
    const next = operatedBy(hand.value, film.optics, reach(hand.value), step)
    if (!Object.values(next).every(Number.isFinite)) return
    const { samples } = session
    if (phase.value === 'running') {
      const last = samples.at(-1)!
      const at = Math.max(last.at, playback.elapsedExactly((performance.now() - stamp) / 1000))
      if (at - last.at > REST_FRAMES) samples.push({ at: at - REST_FRAMES / 4, pose: last.pose })
      samples.push({ at, pose: next })
    }
    hand.value = next
    // More than can be kept is not waited for.
    if (session.samples.length >= SAMPLES_MOST - 1) finish()
  }

  /** Keeps what was done so far as a try. */
  function finish() {
    const now = session
    if (now === null || phase.value !== 'running') return
    // What the hand did last of all, between two frames, is seen on the later one; times are kept to thousandths.
    const lastFrame = Math.min(now.last - now.from, Math.max(1, Math.floor(playback.elapsedExactly(0)), Math.ceil(Math.round((now.samples.at(-1)?.at ?? 0) * 1e3) / 1e3)))
    end()
    goBack(now)
    if (now.samples.length < 2) {
      phase.value = tries.value.length > 0 ? 'review' : 'idle'
      return film.refuse('The camera was not moved: nothing is kept. Hold the picture and drag, or use the wheel and the arrow keys.')
    }
    const ids = { tried: crypto.randomUUID(), samples: crypto.randomUUID() }
    const kept = film.perform(`try ${(tries.value.at(-1)?.number ?? 0) + 1}`, (f) => addTry(f.takes[now.takeId]!, now.takeId, ids, now.cameraId, now.from, lastFrame, now.samples))
    if (kept) choose(ids.tried)
    else phase.value = 'idle'
  }
  /** To where it began: so that the same is worked again, whether anything was kept or not. */
  function goBack({ takeId, from }: { readonly takeId: string; readonly from: number }) {
    desk.goTo((film.filmStage.placeOfTake(takeId)?.startFrame ?? 0) + from)
  }
  function giveUp() {
    const now = session
    end()
    // The artist who went to another shot stays there.
    if (now !== null && now.takeId === desk.takeId) goBack(now)
    phase.value = tries.value.length > 0 ? 'review' : 'idle'
    if (phase.value === 'review') choose(tries.value.at(-1)!.id)
  }
  function end() {
    clearTimeout(counting)
    session = null
    hand.value = null
    desk.operatedAt = null
    desk.pressedCameraId = null
    playback.stop()
  }

  /** Looks at a try: it is seen and plays as it would be, and nothing is written. */
  function choose(id: string) {
    letGo()
    chosenId.value = id
    part.value = null
    phase.value = 'review'
    // It is seen, and worked again, through its own camera.
    const { cameraId } = chosen.value ?? {}
    if (cameraId !== undefined && cameraId !== desk.cameraAtWorkId) desk.lookThrough(cameraId === desk.liveCameraId ? null : cameraId)
    look()
    void bring()
  }
  /** What the hand did comes in when it is first looked at. */
  async function bring() {
    const now = chosen.value
    if (now === null) return
    try {
      await film.ensure('try', [now.samplesId])
    } catch (error) {
      if (chosenId.value === now.id) problem.value = `This try could not be loaded. ${(error as Error).message} Choose it again when the server is back.`
      return
    }
    if (chosenId.value !== now.id || phase.value !== 'review') return
    if (samples.value === null) problem.value = 'What the hand did in this try is not there: it may have been undone in another window. Throw the try away.'
    else void find()
  }
  function look() {
    const now = chosen.value
    if (now === null) return
    desk.pressedCameraId = now.cameraId
    desk.operatedAt = (frame) => (frame < now.from ? null : (poses.value[frame - now.from] ?? null))
  }
  function remove(id: string) {
    const tried = tries.value.find((each) => each.id === id)
    letGo()
    if (tried === undefined || !film.perform(`throw try ${tried.number} away`, (f) => removeTry(f.takes[tried.takeId]!, tried.takeId, id))) return
    if (tries.value.length === 0) return close()
    choose(tries.value.at(-1)!.id)
  }
  /** What was found goes, and the film is as it is. */
  function letGo() {
    gate.abort()
    found.value = null
    problem.value = null
    trying.value?.abandon()
    trying.value = null
  }
  function close() {
    letGo()
    end()
    chosenId.value = null
    phase.value = 'idle'
  }

  /** Few framings for the chosen part, found in a worker. */
  async function find() {
    gate.abort()
    const { signal } = (gate = new AbortController())
    const [now, take] = [chosen.value, film.takeOf(chosen.value?.takeId ?? '')]
    found.value = null
    problem.value = null
    share.value = 0
    if (now === null || take === null || film.optics === null || film.project === null || samples.value === null) return
    const first = Math.max(now.from, part.value?.first ?? now.from)
    const last = Math.min(now.from + now.lastFrame, part.value?.last ?? now.from + now.lastFrame)
    const ask = { take, takeId: now.takeId, of: { cameraId: now.cameraId, from: first, poses: poses.value.slice(first - now.from, last - now.from + 1) }, optics: film.optics, tolerancePx: tolerancePx.value, outputWidthPx: film.project.widthPx, reaches: artReaches(take, film.drawingOf), ids: crypto.randomUUID() }
    try {
      const baked = await bakeJobs.run(ask, { signal, progress: (done) => (share.value = done) })
      if (!signal.aborted) found.value = baked
    } catch (error) {
      if (!signal.aborted) problem.value = `It could not be worked out: ${(error as Error).message.replace(/\.$/, '')}. The try is kept; choose it again.`
    }
  }

  /** Shows the framings that were found in place of the try, on the strip and in every view; again: the try. */
  function show(on: boolean) {
    const baked = found.value
    if (!on || baked === null) {
      trying.value?.abandon()
      trying.value = null
      return look()
    }
    trying.value ??= film.beginGesture('operate the camera')
    if (trying.value.update(() => baked.made)) desk.operatedAt = null
    else show(false)
  }
  const isShown = computed(() => trying.value !== null)
  function write() {
    const baked = found.value
    if (baked === null) return
    trying.value?.abandon()
    trying.value = null
    if (film.perform('operate the camera', () => baked.made)) close()
    else look()
  }

  watch([smoothFrames, tolerancePx, part], () => phase.value === 'review' && (show(false), void find()))
  // Another's change, or the artist's own beside it, is another film to write in.
  watch(
    () => film.takeOf(chosen.value?.takeId ?? ''),
    () => phase.value === 'review' && trying.value === null && !film.gestureOpen && void find(),
  )
  watch(
    () => film.gestureOpen,
    (open) => open && phase.value === 'review' && trying.value === null && (desk.operatedAt = null),
  )
  watch(chosen, (now) => now === null && phase.value === 'review' && (tries.value.length === 0 ? close() : choose(tries.value.at(-1)!.id)))
  watch(
    () => desk.playing,
    (playing) => !playing && phase.value === 'running' && finish(),
  )
  watch(
    () => desk.takeId,
    (now) => {
      if (isLive.value && session?.takeId !== now) giveUp()
      else if (phase.value === 'review') close()
    },
  )

  return { phase, beats, tries, chosen, smoothFrames, tolerancePx, part, found, share, problem, isLive, isShown, open, begin, move, finish, giveUp, choose, remove, close, show, write, leave: () => (isLive.value ? (giveUp(), close()) : phase.value === 'review' && close()) }
})
