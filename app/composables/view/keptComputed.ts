import equal from 'fast-deep-equal'
import { computed, type ComputedRef } from 'vue'

/** Computed, and the object that it was as long as it says the same: what is made of it need not be made anew. For small things, which are compared whole. */
export const keptComputed = <T>(get: () => T): ComputedRef<T> =>
  computed<T>((before) => {
    const now = get()
    return before !== undefined && equal(before, now) ? before : now
  })
