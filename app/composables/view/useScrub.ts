import type { Gesture, Make } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** What a number field tells, each with what is done then. */
export interface FieldEvents {
  begin(): void
  scrub(value: number): void
  commit(): void
  cancel(): void
  set(value: number): void
}

/** Numbers of the film in fields: scrubbed, a gesture; typed, stepped or reset, one thing done. */
export function useScrub() {
  const film = useFilmStore()
  let gesture: Gesture | null = null
  const close = (how: 'commit' | 'abandon') => {
    gesture?.[how]()
    gesture = null
  }
  return {
    /** For `v-on` of a field: what a value makes of the film. Steps under one `joins` undo as one. */
    field: (label: string, makeOf: (value: number) => Make, joins: string | null = null): FieldEvents => ({
      begin: () => (gesture = film.beginGesture(label)),
      scrub: (value) => gesture?.update(makeOf(value)),
      commit: () => close('commit'),
      cancel: () => close('abandon'),
      set: (value) => film.perform(label, makeOf(value), joins),
    }),
  }
}
