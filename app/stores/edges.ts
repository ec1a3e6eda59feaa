import type { Finding } from '@rubato/core/checks'
import { drawingsOf, type TakeBody } from '@rubato/core/document'
import { meanNoMore, meanSo, meantNote, mendEdge, type Mend, type MendKind } from '@rubato/core/edits'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowReactive, shallowRef, watch } from 'vue'
import { pictureBase } from '~/api/client'
import { createWorkerLine, type WorkerLine } from '~/clients/workerLine'
import { createArtSender, serialOf, serialShown } from '~/workers/artSender'
import type { EdgesAnswer, EdgesAsk } from '~/workers/messages'
import type { Beyond } from '@rubato/core/stage'
import type { Gesture } from './editing'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'

/** What was found of a take, and what it was then. */
export interface Looked {
  readonly findings: readonly Finding[]
  readonly serial: number
  readonly frames: number
  /** Of them, those that were looked at anew. */
  readonly again: number
  /** Whether there is anything that could run out. */
  readonly anyArt: boolean
  readonly atMs: number
}

/** After a change, this long until it is looked at. */
const IDLE_MS = 700
const ART_BYTES = 24 * 1024 * 1024
const NONE: readonly Finding[] = []
const NOT_MEANT: TakeBody['meant'] = {}

/** Where art ends inside the frame: looked for by itself in the shot that is open, in the whole film when it is asked for. */
export const useEdgesStore = defineStore('edges', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const byItself = useLocalStorage('rubato.edgesByItself', true)
  const looked = shallowReactive(new Map<string, Looked>())
  const running = shallowRef<{ readonly takeId: string; readonly done: number; readonly total: number } | null>(null)
  /** While the whole film is looked through. */
  const whole = shallowRef<{ readonly done: number; readonly total: number; readonly label: string } | null>(null)
  const trouble = ref<string | null>(null)
  const chosenId = ref<string | null>(null)

  let line: WorkerLine<EdgesAsk> | null = null
  let begunFor = ''
  let number = 0
  const waiting = new Map<number, { readonly takeId: string; readonly serial: number; readonly done: (ok: boolean) => void; readonly over: Promise<boolean> }>()
  /** Those that are worked out. A text: why one could not be. */
  const mending = new Map<number, (mend: Mend | null | string) => void>()
  const art = createArtSender((message) => line!.send(message))

  function begin() {
    const { project, optics } = film
    line ??= createWorkerLine<EdgesAsk, EdgesAnswer>(() => new Worker(new URL('../workers/edges.worker.ts', import.meta.url), { type: 'module' }), {
      answer: take,
      stopped(why) {
        begunFor = ''
        running.value = null
        trouble.value = `The check stopped by itself (${why.message}). It goes on with the next change.`
        for (const each of waiting.values()) each.done(false)
        waiting.clear()
        for (const told of mending.values()) told(why.message)
      },
    })
    const key = `${film.projectId}:${film.lookingAt?.version}:${JSON.stringify([optics, project?.widthPx])}`
    if (key === begunFor || project === null || optics === null) return
    begunFor = key
    art.reset()
    looked.clear()
    line.send({ kind: 'begin', optics: { ...optics }, baseWidthPx: project.widthPx, pictureBase: pictureBase() })
  }

  function take(answer: EdgesAnswer) {
    if (answer.kind === 'mended') return mending.get(answer.number)?.(answer.mend)
    if (answer.kind === 'failed' && mending.has(answer.number)) return mending.get(answer.number)!(answer.what)
    const asked = waiting.get(answer.number)
    if (asked === undefined) return
    if (answer.kind === 'progress') {
      if (running.value?.takeId === asked.takeId) running.value = { takeId: asked.takeId, done: answer.done, total: answer.total }
      return
    }
    waiting.delete(answer.number)
    if (running.value?.takeId === asked.takeId) running.value = null
    if (answer.kind === 'failed') trouble.value = `Shot could not be looked through: ${answer.what}. It is tried again when it changes.`
    else {
      trouble.value = null
      looked.set(asked.takeId, { findings: answer.findings, serial: asked.serial, frames: answer.frames, again: answer.again, anyArt: answer.anyArt, atMs: Date.now() })
    }
    asked.done(answer.kind === 'found')
  }

  /** What a take's findings hang on: its body, its drawings, and how far the transitions at its ends show it. */
  function serialNow(body: TakeBody, beyond: Beyond): number {
    let hash = serialShown(body, beyond)
    for (const id of drawingsOf(body)) {
      const drawing = film.drawingOf(id)
      hash = Math.imul(hash ^ (drawing === null ? 0 : serialOf(drawing)), 0x01000193) >>> 0
    }
    return hash
  }

  /** Looks through a take whose art is loaded; false where it was given up. */
  function look(takeId: string): Promise<boolean> {
    const body = film.takeOf(takeId)
    if (body === null || film.optics === null) return Promise.resolve(false)
    begin()
    const beyond = film.filmStage.beyondOf(takeId)
    const serial = serialNow(body, beyond)
    if (looked.get(takeId)?.serial === serial) return Promise.resolve(true)
    // What is under way for this take, as it was, is for nothing now.
    for (const [before, each] of waiting) {
      if (each.takeId !== takeId) continue
      if (each.serial === serial) return each.over
      waiting.delete(before)
      each.done(false)
    }
    const drawings = drawingsOf(body)
    for (const id of drawings) {
      const drawing = film.drawingOf(id)
      if (drawing !== null) art.send(id, drawing)
    }
    art.keepWithin(ART_BYTES, drawings.length)
    const mine = ++number
    running.value = { takeId, done: 0, total: 1 }
    let done: (ok: boolean) => void = () => undefined
    const over = new Promise<boolean>((resolve) => (done = resolve))
    waiting.set(mine, { takeId, serial, done, over })
    line!.send({ kind: 'check', key: takeId, number: mine, take: body, beyond })
    return over
  }

  function cancel(takeId: string) {
    for (const [mine, each] of waiting) {
      if (each.takeId !== takeId) continue
      waiting.delete(mine)
      line?.send({ kind: 'cancel', key: takeId })
      each.done(false)
    }
    if (running.value?.takeId === takeId) running.value = null
  }

  let idle: ReturnType<typeof setTimeout> | undefined
  watch(
    () => [byItself.value, desk.view, desk.takeId, desk.take, film.film.drawings, desk.playing, film.gestureOpen, film.film.outline.transitions, desk.trial, desk.levelTrial] as const,
    ([on, view, takeId, body, , playing, gesture, , ...tried], was) => {
      const before = was?.[2]
      // The hand looks around: what is under way would take the machine from it.
      const looks = tried.some((each, i) => each !== null && each !== was?.[8 + i])
      clearTimeout(idle)
      if (before !== undefined && before !== null && before !== takeId && whole.value === null) cancel(before)
      if ((playing || looks) && takeId !== null && whole.value === null) cancel(takeId)
      if (!on || view !== 'desk' || takeId === null || body === null || playing || gesture) return
      idle = setTimeout(() => void film.ensureTakeWithArt(takeId).then(() => look(takeId)).catch(() => undefined), IDLE_MS)
    },
    { immediate: true },
  )

  let stopped = false
  /** Looks through every shot's circled take, one after the other. */
  async function lookThroughFilm() {
    if (whole.value !== null) return
    stopped = false
    const { shots } = film.filmStage
    for (const [i, { shot }] of shots.entries()) {
      if (stopped) break
      whole.value = { done: i, total: shots.length, label: shot.label }
      try {
        await film.ensureTakeWithArt(shot.circledTakeId)
        await look(shot.circledTakeId)
      } catch (error) {
        trouble.value = `Shot ${shot.label} could not be loaded, and was not looked through. ${(error as Error).message}`
      }
    }
    whole.value = null
  }
  function stop() {
    stopped = true
    if (running.value !== null) cancel(running.value.takeId)
  }

  const noteIn = (meant: TakeBody['meant'], finding: Finding) => meantNote({ meant }, finding.id, finding.about) ?? (finding.kind === 'gap' ? meant.paper : undefined)?.note ?? null
  /** Whether a finding is meant so: its note, or null. */
  function meantOf(takeId: string, finding: Finding): string | null {
    const take = film.takeOf(takeId)
    return take === null ? null : noteIn(take.meant, finding)
  }
  const spoken = new Map<string, { readonly findings: readonly Finding[]; readonly meant: TakeBody['meant']; readonly all: readonly Finding[] }>()
  /** The same list as long as nothing of it is another. A take that has left memory is as it was. */
  function speaking(takeId: string): readonly Finding[] {
    const findings = looked.get(takeId)?.findings ?? NONE
    const known = spoken.get(takeId)
    const meant = film.takeOf(takeId)?.meant ?? known?.meant ?? NOT_MEANT
    if (known?.findings === findings && known.meant === meant) return known.all
    const all = findings.filter((finding) => noteIn(meant, finding) === null)
    spoken.set(takeId, { findings, meant, all })
    return all
  }
  /** Of the takes in which anything speaks: what is asked of a thousand shots at once is asked here. */
  const speakingIn = computed<ReadonlyMap<string, readonly Finding[]>>(() => new Map([...looked.keys()].map((id) => [id, speaking(id)] as const).filter(([, all]) => all.length > 0)))
  /** Of the shot that is open. */
  const here = computed<readonly Finding[]>(() => (desk.takeId === null ? [] : (looked.get(desk.takeId)?.findings ?? [])))
  const speakingHere = computed(() => (desk.takeId === null ? [] : speaking(desk.takeId)))
  /** Those at the playhead, seen by the camera that is live. */
  const atFrame = computed(() => (desk.isLookingAside ? [] : speakingHere.value.filter(({ ranges }) => ranges.some(([first, last]) => first <= desk.shotFrame && desk.shotFrame <= last))))

  function goTo(finding: Finding) {
    const start = desk.placedShot?.startFrame
    if (start === undefined) return
    chosenId.value = finding.id
    desk.goTo(start + finding.worstFrame)
    if (finding.levelId !== null && desk.take?.levels[finding.levelId] !== undefined) desk.chooseLevel(desk.choosable(finding.levelId))
  }
  /** The next that speaks: here, or in the shots that were looked through. */
  function next() {
    const all = speakingHere.value
    if (all.length > 0) {
      const at = all.findIndex(({ id }) => id === chosenId.value)
      if (at + 1 < all.length) return goTo(all[at + 1]!)
    }
    const { shots } = film.filmStage
    const index = desk.placedShot?.index ?? 0
    const later = [...shots.slice(index + 1), ...shots.slice(0, index)].find(({ shot }) => speakingIn.value.has(shot.circledTakeId))
    if (later !== undefined) {
      desk.goTo(later.startFrame)
      goTo(speaking(later.shot.circledTakeId)[0]!)
    } else if (all.length > 0) goTo(all[0]!)
    else film.refuse(looked.size === 0 ? 'Nothing has been looked through yet.' : [...looked.values()].some(({ anyArt }) => anyArt) ? 'Nothing is found: the art suffices in all that has been looked through.' : 'Nothing is found, as nothing is drawn yet in what has been looked through.')
  }

  /** A mend that is shown as it would be: it is in the film once it is taken. */
  const trial = shallowRef<{ readonly findingId: string; readonly mend: Mend; readonly gesture: Gesture } | null>(null)
  /** The finding for which a mend is worked out. */
  const working = ref<string | null>(null)
  async function tryMend(finding: Finding, of: MendKind) {
    leaveMend()
    const [takeId, body, optics] = [desk.takeId, desk.take, film.optics]
    if (takeId === null || body === null || optics === null || working.value !== null) return
    if (film.lookingAt !== null) return void film.perform('mend', () => ({ ok: true, edits: [] }))
    working.value = finding.id
    // One that stopped by itself knows nothing of the shot any more.
    await look(takeId)
    const mine = ++number
    const mend = await new Promise<Mend | null | string>((told) => {
      mending.set(mine, told)
      line!.send({ kind: 'mend', key: takeId, number: mine, take: body, beyond: film.filmStage.beyondOf(takeId), finding, of })
    })
    mending.delete(mine)
    working.value = null
    if (takeId !== desk.takeId || film.takeOf(takeId) !== body) return
    if (typeof mend === 'string') return film.refuse(`The mend could not be worked out: ${mend.replace(/\.$/, '')}. Nothing was changed; try it again.`)
    if (mend === null) return film.refuse(of === 'larger' ? 'No larger level closes every frame: it is locked, a piece of a set, or would have to be more than three times as large. Draw more art, or shorten the way.' : 'No shorter way closes every frame: the framings there are locked, or art is missing at all of them. Draw more art, or make the level larger.')
    const gesture = film.beginGesture(of === 'larger' ? `larger level: ${body.levels[finding.levelId!]?.name ?? ''}` : 'shorter way')
    gesture.update((f) => mendEdge(f.takes[takeId]!, takeId, finding, mend, optics))
    trial.value = { findingId: finding.id, mend, gesture }
  }
  function takeMend() {
    trial.value?.gesture.commit()
    trial.value = null
  }
  function leaveMend() {
    trial.value?.gesture.abandon()
    trial.value = null
  }
  watch(() => desk.takeId, () => leaveMend())
  // What was found is another film's.
  watch(
    () => film.projectId,
    () => {
      stop()
      looked.clear()
      spoken.clear()
      ;[trouble.value, chosenId.value] = [null, null]
    },
  )

  function accept(finding: Finding, note: string) {
    const takeId = desk.takeId
    if (takeId !== null) film.perform('meant so', (f) => meanSo(f.takes[takeId]!, takeId, { id: finding.id, note, about: finding.about }))
  }
  function speakAgain(id: string) {
    const takeId = desk.takeId
    if (takeId !== null) film.perform('meant no more', (f) => meanNoMore(f.takes[takeId]!, takeId, id))
  }
  const paperIsMeant = computed(() => desk.take?.meant.paper !== undefined)
  function setPaper(on: boolean) {
    const takeId = desk.takeId
    if (takeId !== null) film.perform(on ? 'white paper is meant' : 'white paper is not meant', (f) => (on ? meanSo(f.takes[takeId]!, takeId, { id: 'paper', note: '' }) : meanNoMore(f.takes[takeId]!, takeId, 'paper')))
  }

  return { byItself, looked, running, whole, trouble, chosenId, look, lookThroughFilm, stop, meantOf, speaking, speakingIn, here, speakingHere, atFrame, goTo, next, trial, working, tryMend, takeMend, leaveMend, accept, speakAgain, paperIsMeant, setPaper }
})
