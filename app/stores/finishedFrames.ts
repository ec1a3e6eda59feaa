import { drawingsOf, hasStandIns, type TakeBody } from '@rubato/core/document'
import { transitionAt, type PlacedTransition } from '@rubato/core/stage'
import { defineStore } from 'pinia'
import { computed, shallowReactive, shallowRef, watch } from 'vue'
import { pictureBase } from '~/api/client'
import { createFinishedFrames, type FramePlace } from '~/clients/finishedFrames'
import type { ViewBox } from '~/viewport/viewBox'
import { serialOf } from '~/workers/artSender'
import type { WantedFrames } from '~/workers/messages'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'
import { usePenStore } from './pen'
import { useTimingStore } from './timing'

const MEGABYTE = 1024 * 1024
/** Decoded ahead of the playhead while it plays. */
const DECODED_AHEAD = 10
/** Asked of the worker ahead of the playhead, as files: without a graphics card a frame of turned levels may keep it for half a second. */
const ASKED_AHEAD = 72
/** Shots whose frames are wanted at once; the budget usually ends sooner. */
const MOST_SHOTS = 60
/** What is fetched for it: the shots that begin so soon, and at most so many. */
const FETCHED_SECONDS = 30
const MOST_FETCHED = 12
/** Drawings that the worker keeps beside those of the plan. */
const ART_BYTES = 32 * MEGABYTE
/** A pause after the last change, so that nothing is made while something is being changed. */
const PLAN_AFTER_MS = 1000

/** Of the machine's memory a thirty-second; from 96 to 256 MB. */
function cacheBudgetBytes(deviceMemoryGb: number | undefined): number {
  return Math.min(256, Math.max(96, (deviceMemoryGb ?? 4) * 32)) * MEGABYTE
}

/** Transitions have their frames under ids that no take has. */
const mixIdOf = (at: PlacedTransition) => `mix ${at.transition.id}`
/** Made in about the time they take to be due. */
const LEAD_FRAMES = 12

/**
 * Finished frames of the lens view, made ahead in a worker while nothing is changed, kept packed within a budget, and
 * unpacked just before they are due. Only frames that show something else after an edit are made again.
 */
export const useFinishedFramesStore = defineStore('finishedFrames', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const pen = usePenStore()
  const timing = useTimingStore()

  /** Views that show more or less than the picture are drawn as they are. */
  /** Stand-ins that are faint are drawn as one goes. */
  const isFaint = computed(() => desk.lens.standIns > 0 && desk.lens.standIns < 1 && film.filmStage.shots.some(({ shot }) => ((body) => body !== null && hasStandIns(body))(film.takeOf(shot.circledTakeId))))
  const isPlain = () => !isFaint.value && pen.solo.length === 0 && !pen.silhouette && pen.flipFrame === null && film.lookingAt === null

  const coverage = shallowReactive(new Map<string, { readonly serial: number; readonly ready: Uint8Array }>())
  const state = shallowRef({ bytes: 0, pictures: 0, painted: 0, full: false, done: true })
  const trouble = shallowRef<string | null>(null)
  const mixSerials = new Map<string, number>()
  let view: ViewBox | null = null
  let planTimer: ReturnType<typeof setTimeout> | undefined
  let direction: 1 | -1 = 1
  /** What is wanted now has been told to the worker. */
  let planned = false
  const frames = createFinishedFrames({
    coverage: (answer) => coverage.set(answer.takeId, answer),
    state: (answer) => (state.value = answer),
    failed: (what) => (trouble.value = what),
    forgotten() {
      coverage.clear()
      state.value = { bytes: 0, pictures: 0, painted: 0, full: false, done: true }
      trouble.value = null
    },
  })
  const running = () => frames.begunFor !== ''

  function begin(): boolean {
    const { project, optics } = film
    if (project === null || optics === null || view === null) return false
    const memory = (navigator as { readonly deviceMemory?: number }).deviceMemory
    const ask = { kind: 'begin', optics: { ...optics }, baseWidthPx: project.widthPx, pictureBase: pictureBase(), budgetBytes: cacheBudgetBytes(memory) } as const
    frames.begin(`${film.projectId}:${JSON.stringify([optics, project.widthPx])}`, ask, view)
    return true
  }

  /** Told by the lens view what it shows: frames of another size or place are made anew. */
  function setView(next: ViewBox) {
    if (view !== null && JSON.stringify(view) === JSON.stringify(next)) return
    view = next
    planned = false
    frames.release()
    coverage.clear()
    if (running()) frames.setView(next)
    planSoon()
  }

  function planSoon() {
    clearTimeout(planTimer)
    planTimer = setTimeout(() => void plan(), PLAN_AFTER_MS)
  }

  /** From the playhead to the end of what is played, then what lies before, then the shots after. */
  async function plan() {
    if (film.gestureOpen || desk.view !== 'desk' || !isPlain() || !begin()) return
    const { shots } = film.filmStage
    const here = desk.placedShot
    if (here === null) return
    // While it plays, what is due before it could be made is left to be drawn.
    const from = desk.playing && direction === 1 ? desk.playhead + LEAD_FRAMES : desk.playhead
    const range = timing.playRange(desk.playhead)
    const parts: WantedFrames[] = []
    const shown = new Set<string>()
    const opened = frames.begunFor
    for (let index = here.index; index < Math.min(shots.length, here.index + MOST_FETCHED); index++) {
      const shot = shots[index]!
      if (shot.startFrame >= range.end || shot.startFrame > desk.playhead + FETCHED_SECONDS * desk.fps) break
      await film.ensureTakeWithArt(shot.shot.circledTakeId).catch(() => undefined)
    }
    // Another film, or a change, may have come meanwhile.
    if (opened === '' || opened !== frames.begunFor || film.gestureOpen) return
    planned = true
    const { transitions } = film.filmStage
    const addMix = (at: PlacedTransition, from: number, to: number) => {
      for (const placed of [at.before, at.after]) {
        const body = placed === null ? null : film.takeOf(placed.shot.circledTakeId)
        if (placed !== null && (body === null || !sendArt(placed.shot.circledTakeId, body, shown))) return
      }
      const mixId = mixIdOf(at)
      const serial = mixSerial(at)
      if (serial === null) return
      frames.sendMix(mixId, serial, at)
      parts.push({ takeId: mixId, serial, from: Math.max(0, from - at.from), to: Math.min(at.to, to) - at.from, muted: [] })
    }
    const add = (index: number, from: number, to: number) => {
      const placed = shots[index]!
      const takeId = placed.shot.circledTakeId
      const body = film.takeOf(takeId)
      // What lies in a transition is made as such.
      const head = transitionAt(transitions, placed.startFrame)
      const tail = transitionAt(transitions, placed.startFrame + placed.lengthFrames - 1)
      if (head !== null && head.from < to && head.to > from) addMix(head, from, to)
      if (tail !== null && tail.after === null && tail.from < to && tail.to > from) addMix(tail, from, to)
      const [first, end] = [Math.max(from, head?.to ?? 0), Math.min(to, tail === null || tail === head ? Infinity : tail.from)]
      const wanted = { from: Math.max(0, first - placed.startFrame), to: Math.min(placed.lengthFrames, end - placed.startFrame) }
      if (body === null || wanted.from >= wanted.to || !sendArt(takeId, body, shown)) return
      const muted = Object.values(body.levels).flatMap(({ id, standIn }) => (timing.isMuted(takeId, id) || (standIn === true && desk.lens.standIns === 0) ? [id] : []))
      parts.push({ takeId, serial: serialOf(body), ...wanted, muted })
    }
    const order = Array.from({ length: Math.min(MOST_SHOTS, shots.length) }, (_, i) => (here.index + i) % shots.length)
    for (const index of order) add(index, Math.max(range.start, index === here.index ? from : range.start), range.end)
    add(here.index, range.start, from)
    // What is not gone round in just now will be wanted next.
    for (const index of order) {
      add(index, 0, range.start)
      add(index, range.end, desk.lengthFrames)
    }
    frames.plan(parts, shown.size, ART_BYTES)
  }

  /** False where some of a take's art is not loaded: it waits until it is. */
  function sendArt(takeId: string, body: TakeBody, shown: Set<string>): boolean {
    const ids = drawingsOf(body)
    if (ids.some((id) => film.drawingOf(id) === null)) return false
    for (const id of ids) {
      frames.sendDrawing(id, film.drawingOf(id)!)
      shown.add(id)
    }
    frames.sendTake(takeId, body)
    return true
  }

  /** Another number when the transition, or what one of its shots shows or where it stands, has changed. */
  function mixSerial(at: PlacedTransition): number | null {
    const bodies = [at.before, at.after].map((placed) => (placed === null ? 'none' : film.takeOf(placed.shot.circledTakeId)))
    if (bodies.includes(null)) return null
    const key = `${serialOf(at.transition)}:${bodies.map((body) => (typeof body === 'object' && body !== null ? serialOf(body) : '-')).join()}:${at.to - at.from}:${at.cutFrame - at.from}`
    let serial = mixSerials.get(key)
    if (serial === undefined) mixSerials.set(key, (serial = mixSerials.size + 1))
    return serial
  }

  function placeOf(filmFrame: number): FramePlace | null {
    const at = transitionAt(film.filmStage.transitions, filmFrame)
    if (at !== null) {
      const serial = mixSerial(at)
      return serial === null ? null : { takeId: mixIdOf(at), serial, frame: filmFrame - at.from }
    }
    const placed = film.filmStage.shotAt(filmFrame)
    const body = placed === null ? null : film.takeOf(placed.shot.circledTakeId)
    if (placed === null || body === null) return null
    return { takeId: placed.shot.circledTakeId, serial: serialOf(body), frame: filmFrame - placed.startFrame }
  }

  function isReady({ takeId, serial, frame }: FramePlace): boolean {
    const known = coverage.get(takeId)
    return known !== undefined && known.serial === serial && known.ready[frame] === 1
  }

  /** The frames that come after one, as playback goes. */
  function ahead(filmFrame: number): number[] {
    const range = timing.playRange(filmFrame)
    const length = Math.max(1, range.end - range.start)
    const loops = timing.loop !== 'off'
    const due: number[] = []
    for (let i = 0; i < Math.min(ASKED_AHEAD, length); i++) {
      const frame = filmFrame + direction * i
      if (frame >= range.start && frame < range.end) due.push(frame)
      else if (loops) due.push(range.start + ((((frame - range.start) % length) + length) % length))
    }
    return due
  }

  /** Unpacks what is due next, and lets go what is past. */
  function advance(filmFrame: number) {
    if (!running() || !isPlain() || view === null) return
    frames.unpack(ahead(filmFrame).flatMap((frame) => placeOf(frame) ?? []), DECODED_AHEAD, isReady)
  }

  function playFrom(filmFrame: number, towards: 1 | -1) {
    direction = towards
    if (!planned) void plan()
    advance(filmFrame)
  }

  function playEnded() {
    frames.release()
    planSoon()
  }

  /** The finished picture of a frame of the film, if it is here; of the view that was set. */
  function finished(filmFrame: number): ImageBitmap | null {
    const at = placeOf(filmFrame)
    return at === null || !isPlain() ? null : frames.picture(at)
  }

  /** Takes of which any frame may be finished: the rest of a long film need not be asked. */
  const begunTakes = computed<ReadonlySet<string>>(() => new Set([...coverage.keys(), ...film.filmStage.transitions.flatMap(({ before, after }) => [before, after].flatMap((placed) => placed?.shot.circledTakeId ?? []))]))
  /** Which frames of a shot's take are finished, if they are of the body that is there now. */
  function readyIn(takeId: string): Uint8Array | null {
    const body = film.takeOf(takeId)
    const known = coverage.get(takeId)
    const own = body === null || known === undefined || known.serial !== serialOf(body) ? null : known.ready
    const placed = film.filmStage.placeOfTake(takeId)
    if (body === null || placed === null) return own
    const ends = [placed.startFrame, placed.startFrame + placed.lengthFrames - 1].map((frame) => transitionAt(film.filmStage.transitions, frame)).filter((at) => at !== null)
    if (ends.length === 0) return own
    const ready = own?.slice() ?? new Uint8Array(placed.lengthFrames)
    for (const at of ends) {
      const mix = coverage.get(mixIdOf(at))
      for (let frame = Math.max(at.from, placed.startFrame); frame < Math.min(at.to, placed.startFrame + placed.lengthFrames); frame++) {
        ready[frame - placed.startFrame] = mix !== undefined && mix.serial === mixSerial(at) ? (mix.ready[frame - at.from] ?? 0) : 0
      }
    }
    return ready
  }

  watch(
    () => [film.film, film.gestureOpen, desk.trial, desk.levelTrial, desk.shotId, desk.view, timing.loop, timing.range, timing.muted, pen.solo, pen.silhouette, desk.lens.standIns],
    () => {
      // What is being made competes with the hand for the machine, also while the hand only looks.
      if (!desk.playing) {
        planned = false
        if (running()) frames.pause(true)
      }
      planSoon()
    },
    { flush: 'post' },
  )
  watch(() => film.projectId, (id) => {
    if (id === null) frames.end()
  })

  return { setView, playFrom, playEnded, advance, finished, readyIn, begunTakes, state, trouble }
})
