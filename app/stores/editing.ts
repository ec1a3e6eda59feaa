import { bodyKinds, holdable, loadedUnit, shorten, UNIT_KINDS, unitsOf, withUnit, withUnits, type BodyKind, type Film } from '@rubato/core/document'
import { applyChange, editInSet, EMPTY_HISTORY, followMarks, insistOn, invertChange, isEmpty, LABEL_LETTERS, merge, readsOf, rebaseChange, record, stepBack, stepForward, type Change, type Edit, type History, type Made, type MakeRefusal, type OpenedSet, type Whereabouts } from '@rubato/core/edits'
import { ref, shallowRef, type ShallowRef } from 'vue'
import { unitKey } from '#shared/edits'
import { wordRefusal } from '~/text/refusals'
import type { Conflict } from './kept'
import { unkeepable } from './unkeepable'

export type Make = (film: Film) => Made

/** A change that is tried from where it began, over and over, and kept once or dropped. */
export interface Gesture {
  update(make: Make): boolean
  commit(): void
  abandon(): void
  readonly changed: boolean
}

/** What changing a film needs of what is round it. */
export interface EditingParts {
  readonly film: ShallowRef<Film>
  readonly projectId: () => string | null
  /** The name of the version that is looked at; null where the film itself is open. */
  readonly lookingAt: () => string | null
  /** The set that is worked in: its pieces are levels of its shot for what is done. */
  readonly openedSet: () => OpenedSet | null
  readonly revisions: ReadonlyMap<string, number>
  /** Where the artist is, and how to be there again. */
  readonly whereabouts: () => Whereabouts
  readonly giveBack: (there: Whereabouts) => void
  readonly refuse: (text: string) => void
  /** To the server, from now on. */
  readonly send: (change: Change) => void
  /** What has come in meanwhile may be put in. */
  readonly released: () => void
  readonly ensure: (kind: BodyKind, ids: readonly string[]) => Promise<unknown>
}

/** All that changes the film by the artist's hand: doing, trying, undoing, doing again. */
export function createEditing({ film, projectId, lookingAt, openedSet, revisions, whereabouts, giveBack, refuse, send, released, ensure }: EditingParts) {
  const history = shallowRef<History>(EMPTY_HISTORY)
  const gestureOpen = ref(false)
  let openGesture: Gesture | null = null

  /** `whole`: checked to the last, as the server will; else what is tried many times a second, as far as that is quick. */
  function make(from: Film, how: Make, whole: boolean): { readonly film: Film; readonly edits: readonly Edit[] } | null {
    const version = lookingAt()
    if (version !== null) {
      refuse(`This is the version “${version}”, to look at. Bring it back, whole or shot by shot, to work on it.`)
      return null
    }
    const open = openedSet()
    const result = open === null ? how(from) : editInSet(from, open, how)
    if (!result.ok) {
      refuse(wordRefusal(result.refusal as MakeRefusal))
      return null
    }
    const edits = joined(projectId() === null ? result.edits : followMarks(from, projectId()!, result.edits))
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
    send(change)
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
      film.value = untouched ? next : bodyKinds().reduce((all, kind) => withUnits(all, kind, { ...unitsOf(film.value, kind), ...unitsOf(next, kind) }), next)
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
        released()
      },
      abandon() {
        if (over) return
        over = true
        openGesture = null
        gestureOpen.value = false
        settle(base)
        released()
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
    if (rebased.change.edits.length > 0) send(readyToSend(rebased.change, base))
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

  /** What was done by changes that are no longer there can't be undone. */
  function forget(gone: ReadonlySet<string>) {
    history.value = { past: history.value.past.filter((entry) => !gone.has(entry.change.id)), future: history.value.future.filter((entry) => !gone.has(entry.change.id)) }
  }
  /** A change that is made already: it can be undone, and goes to the server. */
  function noteMade(change: Change, before: Whereabouts) {
    history.value = record(history.value, { change, before, after: whereabouts(), gesture: null })
    send(change)
  }

  return {
    history,
    gestureOpen,
    isTrying: () => openGesture !== null,
    /** Keeps what is being tried. */
    settle: () => openGesture?.commit(),
    perform,
    beginGesture,
    undo,
    redo,
    tryMine,
    forget,
    noteMade,
    reset: () => (history.value = EMPTY_HISTORY),
  }
}

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
