import { aboutReading, CUT_LIMITS, cutsInside, readCut, worstVerdict, type Cut, type CutLimits, type CutReading, type CutSide, type Verdict } from '@rubato/core/checks'
import type { Rectangle } from '@rubato/core/geometry'
import { placedPanels, type Drawing, type TakeBody } from '@rubato/core/document'
import { meanNoMore, meanSo, meantNote, type Made } from '@rubato/core/edits'
import { drawingBounds } from '@rubato/core/ink'
import type { PlacedShot } from '@rubato/core/stage'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { countWords, spokenWords } from '~/text/cutWords'
import { useDeskStore } from './desk'
import { withEachFilm } from './eachFilm'
import { useFilmStore } from './film'
import { useSoundStore } from './sound'

/** What is read at a cut, and whether it is accepted. */
export interface ReadReading {
  /** Under which it is accepted, in the take that comes. */
  readonly id: string
  readonly reading: CutReading
  readonly about: string
  /** Null: it is not accepted. */
  readonly meant: string | null
}
/** A cut in the film. */
export interface FilmCut {
  readonly id: string
  readonly kind: Cut['kind']
  /** `030 › 040`, `040 A › B`, `040 A`. */
  readonly label: string
  /** Whose it is: the take that comes, by which what is read is accepted. */
  readonly takeId: string
  /** The last frame before it and the first after it, of their takes. */
  readonly before: { readonly takeId: string; readonly frame: number }
  readonly after: { readonly takeId: string; readonly frame: number }
  /** The frame of the film that is the first after it. */
  readonly frame: number
  readonly readings: readonly ReadReading[]
  /** The worst of what is not accepted. */
  readonly verdict: Verdict
}

/** After a change, this long until cuts are read again. */
const IDLE_MS = 250

/** How one picture follows another: read at each cut of the shot that is open while somebody looks, in the whole film when it is asked for. */
export const useCutsStore = defineStore('cuts', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const sound = useSoundStore()
  const limits = useLocalStorage<CutLimits>('rubato.cutLimits', { ...CUT_LIMITS }, { mergeDefaults: true })
  const trouble = ref<string | null>(null)
  const chosenId = ref<string | null>(null)

  const known = new WeakMap<Drawing, Rectangle | null>()
  function boundsOf(id: string): Rectangle | null {
    const drawing = film.drawingOf(id)
    if (drawing === null) return null
    const bounds = known.get(drawing)
    if (bounds !== undefined) return bounds
    const found = drawingBounds(drawing)
    known.set(drawing, found)
    return found
  }
  /** Who is heard at a frame of the film. */
  function speakersAt(frame: number): readonly string[] {
    const seconds = (frame + 0.5) / desk.fps
    return sound.placed.between(seconds, seconds).flatMap(({ clip: { speaker } }) => (speaker === '' ? [] : [speaker]))
  }
  /** Words in the picture of a take, each drawing's once. */
  function wordsToRead(take: TakeBody): number {
    const shown = new Set(Object.values(take.levels).flatMap(({ id, visible }) => (visible ? [id] : [])))
    const ids = new Set(Object.values(take.cells).flatMap(({ levelId, drawingId }) => (drawingId !== null && shown.has(levelId) ? [drawingId] : [])))
    let count = 0
    for (const id of ids) {
      for (const mark of film.drawingOf(id)?.marks ?? []) if (mark.kind === 'fill' && mark.words !== undefined && mark.forPrint !== true) count += countWords(mark.words.text)
    }
    return count
  }

  const sideOf = (stage: CutSide['stage'], frame: number, cameraId: string | null, filmFrame: number): CutSide => ({ stage, frame, cameraId, speakers: speakersAt(filmFrame) })
  /** Whether something dissolves or wipes into a shot: that is no cut. */
  const isMixed = ({ startFrame }: PlacedShot) => film.filmStage.transitions.some(({ cutFrame, before, after }) => cutFrame === startFrame && before !== null && after !== null)

  /** The cut into a shot, where there is one, and those inside it. Null where a body is not here. */
  function cutsOf(placed: PlacedShot): readonly FilmCut[] | null {
    const { shots } = film.filmStage
    const takeId = placed.shot.circledTakeId
    const [stage, take] = [film.stageOf(takeId), film.takeOf(takeId)]
    if (stage === null || take === null) return null
    const letterOf = (id: string | null) => (id === null ? '' : (take.cameras[id]?.letter ?? ''))
    const made: FilmCut[] = []
    const put = (key: string, label: string, cut: Cut, beforeTakeId: string, said?: Parameters<typeof readCut>[1]['said']) => {
      const sight = { fps: desk.fps, boundsOf, limits: limits.value, ...(said === undefined ? {} : { said }) }
      const readings = readCut(cut, sight).map((reading): ReadReading => {
        const [id, about] = [`cut.${key}.${reading.kind}`, aboutReading(reading)]
        return { id, reading, about, meant: meantNote(take, id, about) }
      })
      const open = readings.filter(({ meant }) => meant === null).map(({ reading }) => reading)
      made.push({
        id: `${takeId}.${key}`,
        kind: cut.kind,
        label,
        takeId,
        before: { takeId: beforeTakeId, frame: cut.before.frame },
        after: { takeId, frame: cut.after.frame },
        frame: placed.startFrame + cut.after.frame,
        readings,
        verdict: worstVerdict(open),
      })
    }
    const previous = shots[placed.index - 1]
    if (previous !== undefined && placed.lengthFrames > 0 && previous.lengthFrames > 0 && !isMixed(placed)) {
      const [there, body] = [film.stageOf(previous.shot.circledTakeId), film.takeOf(previous.shot.circledTakeId)]
      if (there === null || body === null) return null
      const last = there.lengthFrames - 1
      const seconds = (each: PlacedShot | undefined) => (each === undefined ? [] : [each.lengthFrames / desk.fps])
      const spoken = placedPanels(body).reduce((sum, { panel }) => sum + spokenWords(panel.dialogue), 0)
      const [before, after] = [sideOf(there, last, there.live.at(last), placed.startFrame - 1), sideOf(stage, 0, stage.live.at(0), placed.startFrame)]
      const said = { spokenWords: spoken, wordsToRead: wordsToRead(body), neighbours: [...seconds(shots[previous.index - 1]), ...seconds(placed)] }
      put('start', `${previous.shot.label} › ${placed.shot.label}`, { kind: 'shots', before, after }, previous.shot.circledTakeId, said)
    }
    for (const { kind, key, frame, from, to } of cutsInside(stage)) {
      const at = placed.startFrame + frame
      const label = kind === 'cameras' ? `${placed.shot.label} ${letterOf(from)} › ${letterOf(to)}` : `${placed.shot.label} ${letterOf(to)}, frame ${frame}`
      put(key, label, { kind, before: sideOf(stage, frame - 1, from, at - 1), after: sideOf(stage, frame, to, at) }, takeId)
    }
    return made
  }

  /** Brings what a shot's cuts are read from, and reads them. */
  async function read(placed: PlacedShot): Promise<readonly FilmCut[]> {
    const previous = film.filmStage.shots[placed.index - 1]
    if (previous !== undefined) await film.ensureTakeWithArt(previous.shot.circledTakeId)
    await film.ensureTakeWithArt(placed.shot.circledTakeId)
    const cuts = cutsOf(placed)
    if (cuts === null) throw new Error('It was let go of again.')
    return cuts
  }

  /** Of the shots that were read, those at which something asks to be looked at. */
  const found = shallowRef<readonly FilmCut[] | null>(null)
  /** Of the shot that is open: the cut into it, those inside, and the one into the next. */
  const here = shallowRef<readonly FilmCut[]>([])
  const isReading = ref(false)
  const lookers = ref(0)
  const around = computed((): readonly PlacedShot[] => {
    const placed = desk.placedShot
    const next = placed === null ? undefined : film.filmStage.shots[placed.index + 1]
    return placed === null ? [] : next === undefined ? [placed] : [placed, next]
  })
  async function readHere() {
    const mine = around.value
    isReading.value = true
    try {
      const [own, next] = [mine[0] === undefined ? [] : await read(mine[0]), mine[1] === undefined ? [] : await read(mine[1])]
      if (mine === around.value) here.value = [...own, ...next.filter(({ kind }) => kind === 'shots')]
      // What was accepted here asks for nothing in the film's list any more.
      const now = new Map(here.value.map((cut) => [cut.id, cut]))
      found.value = found.value?.map((cut) => now.get(cut.id) ?? cut).filter(({ verdict }) => verdict !== 'well') ?? null
      trouble.value = null
    } catch (error) {
      if (mine === around.value) trouble.value = `The cuts here could not be read. ${(error as Error).message} They are read again with the next change.`
    }
    if (mine === around.value) isReading.value = false
  }
  let idle: ReturnType<typeof setTimeout> | undefined
  /** What they are read from. */
  const from = () => [...around.value.map(({ shot }) => film.takeOf(shot.circledTakeId)), film.film.drawings, film.film.outline.transitions, sound.clips, limits.value]
  watch(
    () => [lookers.value > 0, around.value, film.gestureOpen, desk.playing, ...from()] as const,
    ([on]) => {
      clearTimeout(idle)
      if (on && !film.gestureOpen && !desk.playing) idle = setTimeout(() => void readHere(), IDLE_MS)
    },
    { immediate: true },
  )

  /** While the whole film is read. */
  const whole = shallowRef<{ readonly done: number; readonly total: number; readonly label: string } | null>(null)
  let stopped = false
  async function readFilm() {
    if (whole.value !== null) return
    stopped = false
    const id = film.projectId
    const all: FilmCut[] = []
    const { shots } = film.filmStage
    for (const [i, placed] of shots.entries()) {
      if (stopped || film.projectId !== id) break
      whole.value = { done: i, total: shots.length, label: placed.shot.label }
      try {
        all.push(...(await read(placed)).filter(({ verdict }) => verdict !== 'well'))
      } catch (error) {
        if (film.projectId === id) trouble.value = `The cut into shot ${placed.shot.label} could not be read. ${(error as Error).message}`
      }
      // Others are heard between two shots.
      await new Promise((resolve) => setTimeout(resolve))
    }
    // The film may have been left while it was read.
    if (film.projectId === id) [found.value, whole.value] = [all, null]
  }
  const stop = () => void (stopped = true)
  withEachFilm(() => {
    found.value = whole.value = trouble.value = chosenId.value = null
    here.value = []
    isReading.value = false
  })

  function goTo(cut: FilmCut) {
    chosenId.value = cut.id
    desk.goTo(cut.frame)
  }
  /** The next cut that asks to be looked at, of the film if that has been read. */
  function next() {
    const all = found.value ?? here.value.filter(({ verdict }) => verdict !== 'well')
    const later = all.find(({ frame }) => frame > desk.playhead) ?? all[0]
    if (later !== undefined) return goTo(later)
    const nothingRead = found.value === null && here.value.length === 0
    film.refuse(nothingRead ? 'No cuts have been read yet: they are while Cuts is shown, or the whole film at a press there.' : 'No cut that was read asks to be looked at.')
  }
  /** The body may have been let go again since it was read. */
  async function say(label: string, takeId: string, make: (take: TakeBody) => Made) {
    try {
      await film.ensure('take', [takeId])
    } catch (error) {
      return void film.refuse(`The shot could not be loaded, and nothing is changed. ${(error as Error).message} Try again when the server can be reached.`)
    }
    film.perform(label, (f) => ((take) => (take === undefined ? { ok: false, refusal: { code: 'missing', what: 'take', id: takeId } } : make(take)))(f.takes[takeId]))
  }
  const accept = ({ takeId }: FilmCut, { id, about }: ReadReading, note: string) => say('meant so', takeId, (take) => meanSo(take, takeId, { id, note, about }))
  const speakAgain = ({ takeId }: FilmCut, { id }: ReadReading) => say('meant no more', takeId, (take) => meanNoMore(take, takeId, id))

  return { limits, trouble, chosenId, here, isReading, lookers, whole, found, read, readFilm, stop, goTo, next, accept, speakAgain }
})
