import type { Film } from '@rubato/core/document'
import { rebaseChange, rebaseOver, type Change, type Whereabouts } from '@rubato/core/edits'
import { shallowRef, type ShallowRef } from 'vue'
import type { KeptChanges, SetAside } from './kept'

/** What setting aside needs of what is round it. */
export interface AsideParts {
  readonly film: ShallowRef<Film>
  readonly projectId: () => string | null
  readonly kept: () => KeptChanges
  readonly waiting: () => readonly Change[]
  readonly replaceWaiting: (changes: readonly Change[]) => void
  /** Keeps what is being tried. */
  readonly settle: () => void
  /** They can't be undone any more. */
  readonly forget: (ids: ReadonlySet<string>) => void
  readonly noteMade: (change: Change, before: Whereabouts) => void
  readonly whereabouts: () => Whereabouts
  readonly refuse: (text: string) => void
}

/** Changes that the server does not take: kept beside the film, in sight, until the artist has decided. */
export function createAside({ film, projectId, kept, waiting: waitingNow, replaceWaiting, settle, forget, noteMade, whereabouts, refuse }: AsideParts) {
  const aside = shallowRef<readonly SetAside[]>([])

  /** Takes one waiting change out of the film, with what was built on it, and keeps them beside it. All others stay. */
  function setAside(id: string, why: string) {
    settle()
    const waiting = waitingNow()
    const refused = waiting.find((change) => change.id === id)
    if (refused === undefined) return
    const rest = rebaseOver(film.value, waiting, (under) => under, new Set([id]))
    const changes = [refused, ...rest.clashing.map(({ change }) => change)]
    const put: SetAside = { id: crypto.randomUUID(), changes, why, at: Date.now() }
    film.value = rest.film
    aside.value = [...aside.value, put]
    keepAside(put)
    replaceWaiting(rest.kept)
    // What can be undone may be among what is no longer there.
    forget(new Set(changes.map((change) => change.id)))
    refuse(`“${refused.label}” could not be saved, so it was set aside${changes.length > 1 ? `, with ${changes.length - 1} more built on it` : ''}. ${why} Nothing is lost: see “set aside” at the top.`)
  }

  /** Does what was set aside again, on the film as it is now. */
  function tryAside(id: string): boolean {
    const found = aside.value.find((each) => each.id === id)
    if (found === undefined) return false
    settle()
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
    for (const change of again) noteMade(change, before)
    dropAside(id)
    return true
  }

  function dropAside(id: string) {
    aside.value = aside.value.filter((each) => each.id !== id)
    void kept().dropAside(id).catch(() => undefined)
  }

  const keepAside = (put: SetAside) => void kept().addAside(projectId() ?? '', put).catch(() => refuse('This browser can’t keep what was set aside. Save it as a file before you close this window.'))

  return { aside, setAside, tryAside, dropAside }
}
