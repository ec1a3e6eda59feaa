import {
  bodyKinds,
  EMPTY_OUTLINE,
  loadedUnit,
  UNIT_KINDS,
  withUnit,
  placedPanels,
  takeLengthFrames,
  type Drawing,
  type Film,
  type Project,
  type TakeBody,
  holdable,
  shorten, outlineRef } from '@rubato/core/document'
import {
  applyChange,
  EMPTY_HISTORY,
  followMarks,
  insistOn,
  invertChange,
  isEmpty,
  merge,
  LABEL_LETTERS,
  readsOf,
  rebaseChange,
  rebaseOver,
  record,
  stepBack,
  stepForward,
  type Change,
  type Edit,
  type History,
  type Made,
  type MakeRefusal,
  type Whereabouts,
} from '@rubato/core/edits'
import { createFilmStage, createTakeStage, opticsOf, type TakeStage } from '@rubato/core/stage'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { unitKey } from '#shared/edits'
import type { Present } from '#shared/live'
import { api } from '~/api/client'
import { openLive, type Live } from '~/api/live'
import { wordRefusal } from '~/text/refusals'
import { uploadBatch } from '~/api/upload'
import { claimWindow, KEEPS_NOTHING, openKept, type Conflict, type KeptChanges, type SetAside } from './kept'
import { ask } from './question'
import { unkeepable } from './unkeepable'
import { createOutgoing } from './outgoing'
import { createSync } from './sync'
import { createUnits } from './units'

export type Make = (film: Film) => Made

/** A change that is tried from where it began, over and over, and kept once or dropped. */
export interface Gesture {
  update(make: Make): boolean
  commit(): void
  abandon(): void
  readonly changed: boolean
}

const REPEAT_AFTER_MS = 2500
const EMPTY_FILM: Film = { outline: EMPTY_OUTLINE, takes: {}, drawings: {} }

/** The open film: its document, what can be undone, and what is on its way to the server. */
export const useFilmStore = defineStore('film', () => {
  const projectId = ref<string | null>(null)
  const film = shallowRef<Film>(EMPTY_FILM)
  const takeLengths = shallowRef<Readonly<Record<string, number>>>({})
  const takePanels = shallowRef<Readonly<Record<string, number>>>({})
  const history = shallowRef<History>(EMPTY_HISTORY)
  const lastRefusal = shallowRef<{ readonly text: string; readonly at: number; readonly number: number } | null>(null)
  const loadFailure = ref<string | null>(null)
  const gestureOpen = ref(false)
  let openGesture: Gesture | null = null
  const revisions = new Map<string, number>()
  /** Who is asked where the artist is, for undo to give back. */
  let whereabouts: () => Whereabouts = () => ({ shotId: null, frame: 0, selection: [] })
  let giveBack: (there: Whereabouts) => void = () => undefined

  /** The same object until something in it changes: what looks at it alone is left in peace when art is loaded. */
  const outline = computed(() => film.value.outline)
  const project = computed<Project | null>(() => Object.values(outline.value.project)[0] ?? null)
  const optics = computed(() => (project.value === null ? null : opticsOf(project.value)))
  const filmStage = computed(() =>
    createFilmStage(outline.value, (takeId) => {
      const body = film.value.takes[takeId]
      return body === undefined ? (takeLengths.value[takeId] ?? 0) : takeLengthFrames(body)
    }),
  )

  /** How many panels each shot's circled take has, loaded or not, by take. */
  const panelCounts = computed((): ReadonlyMap<string, number> => {
    const { takes } = film.value
    return new Map(filmStage.value.shots.map(({ shot: { circledTakeId: id } }) => [id, takes[id] === undefined ? (takePanels.value[id] ?? 0) : placedPanels(takes[id]!).length]))
  })

  const stages = new WeakMap<TakeBody, { readonly optics: unknown; readonly stage: TakeStage }>()
  /** A take's evaluation, solved once for each body. Null until the body is loaded. */
  function stageOf(takeId: string): TakeStage | null {
    const body = film.value.takes[takeId]
    if (body === undefined || optics.value === null) return null
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
  /** Nothing has ever been done to this film. */
  const isBlank = ref(false)
  const conflicts = shallowRef<readonly Conflict[]>([])
  const aside = shallowRef<readonly SetAside[]>([])
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
    onInvalid: setAside,
    healthy: api.healthy,
  })
  const sync = createSync({
    film,
    projectId: () => projectId.value,
    revisions,
    outgoing: () => outgoing,
    busy: () => openGesture !== null,
    inPlace(work) {
      const there = whereabouts()
      work()
      if (JSON.stringify(whereabouts()) !== JSON.stringify(there)) giveBack(there)
    },
    onTakeSizes(lengths, panels) {
      takeLengths.value = { ...takeLengths.value, ...lengths }
      takePanels.value = { ...takePanels.value, ...panels }
    },
    onTouched: (ids) => ids.forEach((id) => void ensureTakeWithArt(id).catch(() => undefined)),
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
    busy: () => openGesture !== null,
    waiting: () => outgoing.waiting(),
    onLeaving(takes) {
      takeLengths.value = { ...takeLengths.value, ...Object.fromEntries(takes.map(([id, take]) => [id, takeLengthFrames(take)])) }
      takePanels.value = { ...takePanels.value, ...Object.fromEntries(takes.map(([id, take]) => [id, Object.keys(take.panels).length])) }
    },
  })
  const { ensure, ensureTakeWithArt, ensureTakesWithArt } = units

  /** Takes one waiting change out of the film, with what was built on it, and keeps them beside it. All others stay. */
  function setAside(id: string, why: string) {
    openGesture?.commit()
    const waiting = outgoing.waiting()
    const refused = waiting.find((change) => change.id === id)
    if (refused === undefined) return
    const rest = rebaseOver(film.value, waiting, (under) => under, new Set([id]))
    const changes = [refused, ...rest.clashing.map(({ change }) => change)]
    const put: SetAside = { id: crypto.randomUUID(), changes, why, at: Date.now() }
    film.value = rest.film
    aside.value = [...aside.value, put]
    keepAside(put)
    outgoing.replaceWaiting(rest.kept)
    // What can be undone may be among what is no longer there.
    const gone = new Set(changes.map((change) => change.id))
    history.value = { past: history.value.past.filter((entry) => !gone.has(entry.change.id)), future: history.value.future.filter((entry) => !gone.has(entry.change.id)) }
    refuse(`“${refused.label}” could not be saved, so it was set aside${changes.length > 1 ? `, with ${changes.length - 1} more built on it` : ''}. ${why} Nothing is lost: see “set aside” at the top.`)
  }

  /** Does what was set aside again, on the film as it is now. */
  function tryAside(id: string): boolean {
    const found = aside.value.find((each) => each.id === id)
    if (found === undefined) return false
    openGesture?.commit()
    let value = film.value
    const again: Change[] = []
    for (const change of found.changes) {
      const rebased = rebaseChange(value, { ...change, id: crypto.randomUUID() })
      if (!rebased.ok) {
        refuse(`“${change.label}” no longer goes with the film as it is now. Save it as a file, or throw it away.`)
        return false
      }
      value = rebased.film
      if (rebased.change.edits.length > 0) again.push(rebased.change)
    }
    const before = whereabouts()
    film.value = value
    for (const change of again) {
      history.value = record(history.value, { change, before, after: whereabouts(), gesture: null })
      outgoing.add(change)
    }
    dropAside(id)
    return true
  }

  function dropAside(id: string) {
    aside.value = aside.value.filter((each) => each.id !== id)
    void kept.dropAside(id).catch(() => undefined)
  }

  const keepAside = (put: SetAside) => void kept.addAside(projectId.value ?? '', put).catch(() => refuse('This browser can’t keep what was set aside. Save it as a file before you close this window.'))

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
    projectId.value = null
    film.value = EMPTY_FILM
    history.value = EMPTY_HISTORY
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

  /** `whole`: checked to the last, as the server will; else what is tried many times a second, as far as that is quick. */
  function make(from: Film, how: Make, whole: boolean): { readonly film: Film; readonly edits: readonly Edit[] } | null {
    if (lookingAt.value !== null) {
      refuse(`This is the version “${lookingAt.value.name}”, to look at. Bring it back, whole or shot by shot, to work on it.`)
      return null
    }
    const result = how(from)
    if (!result.ok) {
      refuse(wordRefusal(result.refusal as MakeRefusal))
      return null
    }
    const edits = joined(projectId.value === null ? result.edits : followMarks(from, projectId.value, result.edits))
    const applied = applyChange(from, { edits })
    const refusal = applied.ok ? unkeepable(applied.value, edits, whole) : applied.refusal
    if (refusal !== null) {
      refuse(wordRefusal(refusal))
      return null
    }
    return applied.ok ? { film: applied.value, edits } : null
  }

  function keep(label: string, edits: readonly Edit[], before: Whereabouts, gesture: string | null, base: Film) {
    if (edits.length === 0) return
    const change = readyToSend({ id: crypto.randomUUID(), label: shorten(holdable(label), LABEL_LETTERS), edits }, base)
    history.value = record(history.value, { change, before, after: whereabouts(), gesture })
    outgoing.add(change)
  }

  /** Does one thing. False when it was refused; the reason is then in `lastRefusal`. Steps of one `gesture` undo as one. */
  function perform(label: string, how: Make, gesture: string | null = null): boolean {
    // What is being dragged is kept first: two trials of one film would lose one of them.
    openGesture?.commit()
    const before = whereabouts()
    const base = film.value
    const result = make(base, how, true)
    if (result === null) return false
    film.value = result.film
    keep(label, result.edits, before, gesture, base)
    return true
  }

  /**
   * Begins something that is dragged. Only `commit` makes it a change; until then nothing leaves this window. With `joins`
   * it undoes as one with what was done just before under that name.
   */
  function beginGesture(label: string, joins: string | null = null): Gesture {
    openGesture?.commit()
    const base = film.value
    const before = whereabouts()
    let edits: readonly Edit[] = []
    let over = false
    gestureOpen.value = true
    let settled: Film | null = film.value
    const settle = (next: Film) => {
      // Units loaded meanwhile must not be dropped with the trial. None came: the trial is the film as it stands, at no cost.
      const untouched = film.value === settled
      film.value = untouched ? next : { ...next, takes: { ...film.value.takes, ...next.takes }, drawings: { ...film.value.drawings, ...next.drawings } }
      settled = untouched ? film.value : null
    }
    const gesture: Gesture = {
      get changed() {
        return edits.length > 0
      },
      update(how) {
        if (over) return false
        const result = make(base, how, false)
        if (result === null) return false
        edits = result.edits
        settle(result.film)
        return true
      },
      commit() {
        if (over) return
        over = true
        openGesture = null
        gestureOpen.value = false
        const refusal = edits.length === 0 ? null : unkeepable(film.value, edits, true)
        if (refusal === null) keep(label, edits, before, joins, base)
        else {
          settle(base)
          refuse(wordRefusal(refusal))
        }
        sync.release()
      },
      abandon() {
        if (over) return
        over = true
        openGesture = null
        gestureOpen.value = false
        settle(base)
        sync.release()
      },
    }
    openGesture = gesture
    return gesture
  }

  /** True when what a step changes had left memory: it is fetched, then the step is done. */
  function fetched(change: Change, then: () => void): boolean {
    const missing = change.edits.map((edit) => edit.unit).filter((unit) => !revisions.has(unitKey(unit)) && loadedUnit(film.value, unit) === undefined)
    if (missing.length === 0) return false
    Promise.all(bodyKinds().map((kind) => ensure(kind, missing.flatMap((unit) => (unit.kind === kind ? [unit.id] : []))))).then(
      () => {
        // What the server does not have either is empty.
        film.value = missing.reduce((value, unit) => (loadedUnit(value, unit) === undefined ? withUnit(value, unit, UNIT_KINDS[unit.kind].empty) : value), film.value)
        then()
      },
      (error: Error) => refuse(`“${change.label}” could not be fetched to be changed. ${error.message}`),
    )
    return true
  }

  function undo(): string | null {
    openGesture?.commit()
    const step = stepBack(history.value)
    if (step === null || fetched(step.entry.change, () => void undo())) return null
    return replay(invertChange(step.entry.change, crypto.randomUUID()), step.history, step.entry.before)
  }

  function redo(): string | null {
    openGesture?.commit()
    const step = stepForward(history.value)
    if (step === null || fetched(step.entry.change, () => void redo())) return null
    return replay({ ...step.entry.change, id: crypto.randomUUID() }, step.history, step.entry.after)
  }

  /** Others may have gone on meanwhile: only what is still as this step left it is changed. */
  function replay(change: Change, next: History, there: Whereabouts): string | null {
    const { reads: _, ...plain } = change
    const rebased = rebaseChange(film.value, plain)
    if (!rebased.ok) {
      refuse(`“${change.label}” was changed by someone else since; this would take their work away. Change it by hand instead.`)
      return null
    }
    const base = film.value
    film.value = rebased.film
    history.value = next
    if (rebased.change.edits.length > 0) outgoing.add(readyToSend(rebased.change, base))
    giveBack(there)
    return change.label
  }

  /** Shows the film as it would be with my side of a conflict; the gesture is to be abandoned or committed. */
  function tryMine(conflict: Conflict): Gesture {
    const gesture = beginGesture(conflict.change.label)
    gesture.update((now) => {
      const mine = insistOn(now, conflict.change, crypto.randomUUID())
      return mine.ok ? { ok: true, edits: mine.change.edits } : { ok: false, refusal: { code: 'ground-gone' } }
    })
    return gesture
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

  function onWhereabouts(ask: () => Whereabouts, give: (there: Whereabouts) => void) {
    whereabouts = ask
    giveBack = give
  }

  const takeOf = (id: string): TakeBody | null => film.value.takes[id] ?? null
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
    conflicts,
    aside,
    tryAside,
    dropAside,
    tryMine,
    dropConflict,
    leftBehind: async () => (await keptReady, kept.left()),
    moved: () => live?.moved(),
    stageOf,
    takeOf,
    drawingOf,
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
    /** Sends what waits, with what is still being tried. */
    flush: () => {
      openGesture?.commit()
      return outgoing.flush()
    },
    safeguard,
    undoLabel: computed(() => history.value.past.at(-1)?.change.label ?? null),
    redoLabel: computed(() => history.value.future.at(-1)?.change.label ?? null),
    panelCounts,
    panelsOf: (takeId: string) => (takeOf(takeId) === null ? [] : placedPanels(takeOf(takeId)!)),
  }
})

/** With what it looks at of the film that it is made on. */
function readyToSend(change: Change, base: Film): Change {
  const reads = readsOf(base, change.edits)
  return reads.length === 0 ? change : { ...change, reads }
}

/** One edit for each unit, in the order units were first touched, without those that change nothing. */
function joined(edits: readonly Edit[]): Edit[] {
  const units = new Map<string, Edit>()
  for (const edit of edits) {
    const key = unitKey(edit.unit)
    const known = units.get(key)
    units.set(key, known === undefined ? edit : merge(known, edit)!)
  }
  return [...units.values()].filter((edit) => !isEmpty(edit))
}
