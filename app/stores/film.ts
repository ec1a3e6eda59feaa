import { EMPTY_DRAWING, EMPTY_OUTLINE, EMPTY_SET, outlineRef, placedPanels, setDrawings, shorten, takeLengthFrames, unfolded, type Drawing, type Film, type Outline, type Project, type TakeBody } from '@rubato/core/document'
import type { OpenedSet, Whereabouts } from '@rubato/core/edits'
import { createFilmStage, createTakeStage, opticsOf, type FilmStage, type TakeStage } from '@rubato/core/stage'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { unitKey } from '#shared/edits'
import type { Present } from '#shared/live'
import { api } from '~/api/client'
import { openLive, type Live } from '~/api/live'
import { uploadBatch } from '~/api/upload'
import { createAside } from './aside'
import { createEditing } from './editing'
import { claimWindow, KEEPS_NOTHING, openKept, type Conflict, type KeptChanges } from './kept'
import { ask } from './question'
import { reading } from './reading'
import { createOutgoing } from './outgoing'
import { createSync } from './sync'
import { createUnits } from './units'

const REPEAT_AFTER_MS = 2500
const EMPTY_FILM: Film = { outline: EMPTY_OUTLINE, takes: {}, drawings: {} }

/** The open film: its document, what can be undone, and what is on its way to the server. */
export const useFilmStore = defineStore('film', () => {
  const projectId = ref<string | null>(null)
  const film = shallowRef<Film>(EMPTY_FILM)
  const takeLengths = shallowRef<Readonly<Record<string, number>>>({})
  const takePanels = shallowRef<Readonly<Record<string, number>>>({})
  const lastRefusal = shallowRef<{ readonly text: string; readonly at: number; readonly number: number } | null>(null)
  const loadFailure = ref<string | null>(null)
  const revisions = new Map<string, number>()
  /** Who is asked where the artist is, for undo to give back; `undone`: what was only looked at there is over. */
  let whereabouts: () => Whereabouts = () => ({ shotId: null, frame: 0, selection: [] })
  let giveBack: (there: Whereabouts, undone: boolean) => void = () => undefined
  /** The set that is worked in, where one is. */
  let openedSet: () => OpenedSet | null = () => null

  /** The same object until something in it changes: what looks at it alone is left in peace when art is loaded. */
  const outline = computed(() => film.value.outline)
  const project = computed<Project | null>(() => Object.values(outline.value.project)[0] ?? null)
  const optics = computed(() => (project.value === null ? null : opticsOf(project.value)))
  /** A take's length, frames, loaded or not. */
  const lengthOfTake = (takeId: string): number => {
    const body = film.value.takes[takeId]
    return body === undefined ? (takeLengths.value[takeId] ?? 0) : takeLengthFrames(body)
  }
  /** The same object until a length, an order or a transition changes: what is loaded changes none, and thousands of rows hang on it. */
  let staged: Outline | null = null
  const filmStage = computed<FilmStage>((before) => {
    const now = createFilmStage(outline.value, lengthOfTake)
    if (before !== undefined && staged === outline.value && before.shots.every((placed, i) => placed.lengthFrames === now.shots[i]!.lengthFrames)) return before
    staged = outline.value
    return now
  })

  /** How many panels each shot's circled take has, loaded or not, by take. */
  const panelCounts = computed((): ReadonlyMap<string, number> => {
    const { takes } = film.value
    return new Map(filmStage.value.shots.map(({ shot: { circledTakeId: id } }) => [id, takes[id] === undefined ? (takePanels.value[id] ?? 0) : placedPanels(takes[id]!).length]))
  })

  const stages = new WeakMap<TakeBody, { readonly optics: unknown; readonly stage: TakeStage }>()
  /** A take's evaluation, solved once for each body. Null until the body is loaded. */
  function stageOf(takeId: string): TakeStage | null {
    const body = takeOf(takeId)
    if (body === null || optics.value === null) return null
    const known = stages.get(body)
    if (known !== undefined && known.optics === optics.value) return known.stage
    const stage = createTakeStage(body, optics.value)
    stages.set(body, { optics: optics.value, stage })
    return stage
  }

  /** This window, as the server and other windows know it. */
  const session = crypto.randomUUID()
  claimWindow(session)
  const artist = useLocalStorage('rubato.artist', '')
  const here = shallowRef<readonly Present[]>([])
  const connected = ref(true)
  /** Goes up when something about the film's renders has changed on the server. */
  const rendersTold = ref(0)
  /** Nothing has ever been done to this film. */
  const isBlank = ref(false)
  const conflicts = shallowRef<readonly Conflict[]>([])
  let kept: KeptChanges = KEEPS_NOTHING
  const keptReady = openKept(session).then(
    (there) => void (kept = there),
    () => undefined,
  )
  let live: Live | null = null
  const lookingAt = shallowRef<{ readonly version: string; readonly name: string } | null>(null)

  const outgoing = createOutgoing({
    send: (_, body) => api.sendBatch(projectId.value!, body),
    sendInParts: (_, body) => uploadBatch(projectId.value!, body),
    revisions,
    author: () => artist.value,
    keep: () => ({ projectId: projectId.value ?? '', kept }),
    onStale: () => sync.catchUp(),
    onInvalid: (id, why) => beside.setAside(id, why),
    healthy: api.healthy,
  })
  /** What others did to the shots before the artist's moves its frames on; the artist stays with them. */
  function inPlace(work: () => void) {
    const there = whereabouts()
    work()
    if (JSON.stringify(whereabouts()) !== JSON.stringify(there)) giveBack(there, false)
  }
  const sync = createSync({
    film,
    projectId: () => projectId.value,
    revisions,
    outgoing: () => outgoing,
    busy: () => editing.isTrying(),
    inPlace,
    onTakeSizes(lengths, panels) {
      const isNews = Object.entries(lengths).some(([id, frames]) => takeLengths.value[id] !== frames)
      if (isNews) inPlace(() => (takeLengths.value = { ...takeLengths.value, ...lengths }))
      takePanels.value = { ...takePanels.value, ...panels }
    },
    onTouched: (refs) =>
      refs.forEach(({ kind, id }) => {
        if (kind === 'take') void ensureTakeWithArt(id).catch(() => undefined)
        else if (kind === 'set') void ensure('drawing', setDrawings(film.value.sets?.[id] ?? EMPTY_SET)).catch(() => undefined)
      }),
    onConflict: (conflict) => {
      conflicts.value = [...conflicts.value, conflict]
      void kept.addConflict(projectId.value ?? '', conflict).catch(() => undefined)
    },
  })

  const units = createUnits({
    film,
    projectId: () => projectId.value,
    version: () => lookingAt.value?.version ?? null,
    revisions,
    isFresh: (key, revision) => sync.isFresh(key, revision),
    inPlace,
    busy: () => editing.isTrying(),
    waiting: () => outgoing.waiting(),
    onLeaving(takes) {
      takeLengths.value = { ...takeLengths.value, ...Object.fromEntries(takes.map(([id, take]) => [id, takeLengthFrames(take)])) }
      takePanels.value = { ...takePanels.value, ...Object.fromEntries(takes.map(([id, take]) => [id, Object.keys(take.panels).length])) }
    },
  })
  const { ensure, ensureTakeWithArt, ensureTakesWithArt } = units
  const editing = createEditing({
    film,
    projectId: () => projectId.value,
    lookingAt: () => lookingAt.value?.name ?? null,
    openedSet: () => openedSet(),
    revisions,
    whereabouts: () => whereabouts(),
    giveBack: (there) => giveBack(there, true),
    refuse,
    send: (change) => outgoing.add(change),
    released: () => sync.release(),
    ensure,
  })
  const { history, gestureOpen, perform, beginGesture, undo, redo, tryMine } = editing
  const beside = createAside({
    film,
    projectId: () => projectId.value,
    kept: () => kept,
    waiting: () => outgoing.waiting(),
    replaceWaiting: (changes) => outgoing.replaceWaiting(changes),
    settle: editing.settle,
    forget: editing.forget,
    noteMade: editing.noteMade,
    whereabouts: () => whereabouts(),
    refuse,
  })
  const { aside, tryAside, dropAside } = beside

  /** A version is opened to be looked at: nothing can be changed in it, and nothing comes in. */
  async function openVersion(id: string, version: string) {
    close()
    loadFailure.value = null
    try {
      const opened = await api.openVersion(id, version)
      projectId.value = id
      lookingAt.value = { version, name: opened.name }
      film.value = { outline: opened.outline, takes: {}, drawings: {} }
      takeLengths.value = opened.takeLengths
      takePanels.value = opened.takePanels
    } catch (error) {
      loadFailure.value = (error as Error).message
    }
  }

  async function open(id: string) {
    close()
    loadFailure.value = null
    try {
      await keptReady
      const opened = await api.openProject(id)
      let unread: Error | null = null
      const found = <T>(work: Promise<readonly T[]>) => work.catch((error: Error) => ((unread = error), []))
      const waiting = await found(kept.adopt(id))
      projectId.value = id
      film.value = { outline: opened.outline, takes: {}, drawings: {} }
      takeLengths.value = opened.takeLengths
      takePanels.value = opened.takePanels
      revisions.set(unitKey(outlineRef(id)), opened.outlineRevision)
      sync.begin(opened.journalSeq)
      isBlank.value = opened.journalSeq === 0 && Object.keys(opened.outline.shots).length <= 1
      conflicts.value = await found(kept.conflicts(id))
      aside.value = await found(kept.aside(id))
      if (unread !== null) refuse(`What this browser kept of the film can’t be read (${(unread as Error).message}). What the server has is here. Close other windows of this film and reload to try again.`)
      if (waiting.length > 0) {
        await sync.resync(waiting)
        void outgoing.flush()
      }
      live = openLive(id, sync.seq, {
        onEntry: sync.take,
        onUnread: () => sync.catchUpSoon(),
        onReset: () => {
          refuse('Everything was put back from a backup. The film has been read anew; what had not been saved yet is tried again.')
          void open(id)
        },
        onRenders: () => void rendersTold.value++,
        onHere: (list) => (here.value = list.filter((each) => each.session !== session)),
        onConnected: (now) => {
          connected.value = now
          if (now) outgoing.tryNow()
        },
        me: () => ({ session, name: artist.value, shotId: whereabouts().shotId }),
      })
    } catch (error) {
      loadFailure.value = (error as Error).message
      projectId.value = null
      film.value = EMPTY_FILM
    }
  }

  function close() {
    live?.end()
    live = null
    here.value = []
    connected.value = true
    conflicts.value = []
    aside.value = []
    lookingAt.value = null
    lastRefusal.value = null
    projectId.value = null
    film.value = EMPTY_FILM
    editing.reset()
    takeLengths.value = {}
    takePanels.value = {}
    revisions.clear()
    units.reset()
    outgoing.reset()
  }

  /** Tells the artist why something was not done. A drag that is refused at every step says so once. */
  function refuse(text: string) {
    const last = lastRefusal.value
    const now = performance.now()
    lastRefusal.value = last !== null && last.text === text && now - last.at < REPEAT_AFTER_MS ? { ...last, at: now } : { text, at: now, number: (last?.number ?? 0) + 1 }
  }

  function dropConflict(id: string) {
    conflicts.value = conflicts.value.filter((conflict) => conflict.id !== id)
    void kept.dropConflict(id).catch(() => undefined)
  }

  /**
   * Keeps the film as it is as a version before a step that changes much. Where that can't be done the artist is asked;
   * false: the step is not to be made.
   */
  async function safeguard(name: string): Promise<boolean> {
    const id = projectId.value
    if (id === null || lookingAt.value !== null) return true
    await outgoing.flush()
    const trouble = outgoing.waiting().length > 0 ? 'The last changes have not reached the server yet.' : await api.makeVersion(id, shorten(name, 120), artist.value, 'before').then(() => null, (error: Error) => error.message)
    if (trouble === null) return true
    return ask({ title: 'No version could be kept', text: `Before a step like this Rubato keeps a version of the film. It could not: ${trouble} Undo can still take the step back while this window is open.`, yes: 'Go on without', no: 'Not now' })
  }

  /** Until the server has what is on the screen. Throws where it can't be reached: what goes out would miss the last changes. */
  async function settled(): Promise<void> {
    editing.settle()
    await outgoing.flush()
    if (outgoing.waiting().length > 0) throw new Error('The last changes have not reached the server yet, so they would be missing. Try again when it says Saved.')
  }

  function onWhereabouts(ask: () => Whereabouts, give: (there: Whereabouts, undone: boolean) => void) {
    whereabouts = ask
    giveBack = give
  }

  /** A drawing that nobody has drawn in yet is empty: it need not be asked for. */
  function startDrawing(id: string) {
    if (film.value.drawings[id] === undefined) film.value = { ...film.value, drawings: { ...film.value.drawings, [id]: EMPTY_DRAWING } }
  }

  const setBodyOf = (id: string) => film.value.sets?.[id] ?? null
  /** A take as it is seen: with the pieces of its sets among its levels. Edits are made on `film.takes`. */
  const takeOf = (id: string): TakeBody | null => {
    const body = film.value.takes[id]
    return body === undefined ? null : unfolded(body, setBodyOf)
  }
  const drawingOf = (id: string): Drawing | null => film.value.drawings[id] ?? null

  return {
    projectId,
    film,
    project,
    outline,
    optics,
    filmStage,
    history,
    lastRefusal,
    loadFailure,
    gestureOpen,
    saving: outgoing.state,
    artist,
    here,
    connected,
    rendersTold,
    conflicts,
    aside,
    tryAside,
    dropAside,
    tryMine,
    dropConflict,
    leftBehind: async () => (await keptReady, kept.left()),
    moved: () => live?.moved(),
    stageOf: reading(stageOf),
    takeOf: reading(takeOf),
    drawingOf: reading(drawingOf),
    startDrawing,
    open,
    openVersion,
    lookingAt,
    close,
    ensure,
    ensureTakeWithArt,
    ensureTakesWithArt,
    isBlank,
    perform,
    beginGesture,
    undo,
    redo,
    refuse,
    onWhereabouts,
    onOpenedSet: (ask: () => OpenedSet | null) => void (openedSet = ask),
    /** Sends what waits, with what is still being tried. */
    settled,
    flush: () => {
      editing.settle()
      return outgoing.flush()
    },
    safeguard,
    undoLabel: computed(() => history.value.past.at(-1)?.change.label ?? null),
    redoLabel: computed(() => history.value.future.at(-1)?.change.label ?? null),
    panelCounts,
    lengthOfTake: reading(lengthOfTake),
    panelsOf: (takeId: string) => (takeOf(takeId) === null ? [] : placedPanels(takeOf(takeId)!)),
  }
})
