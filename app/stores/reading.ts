import { computed, type ComputedRef } from 'vue'

/** What a store is asked for hundreds of times a frame, and that only reads: a getter that gives the function, since each call of an action costs as much as a small answer. */
export const reading = <F extends (...args: never[]) => unknown>(read: F): ComputedRef<F> => computed(() => read)
