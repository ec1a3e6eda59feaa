import { shallowRef } from 'vue'
import { useSound } from '~/composables/sound/useSound'
import type { StripLane } from '~/timeline/stripScene'

/** Lanes of sound carried up and down by their heads: where one would be put is told while it is carried. */
export function useLaneOrder(lanes: () => readonly StripLane[]) {
  const { orderLane } = useSound()
  /** Where the carried lane would lie: above another, or below all. `top` in the strip, px. */
  const place = shallowRef<{ readonly beforeId: string | null; readonly top: number } | null>(null)

  /** A lane carried so far from where it lies, px. */
  function carry(id: string, dy: number) {
    const all = lanes()
    const own = all.find((lane) => lane.id === id)
    const last = all.at(-1)
    if (own === undefined || last === undefined) return void (place.value = null)
    const middle = own.top + own.height / 2 + dy
    const before = all.find((lane) => middle < lane.top + lane.height / 2)
    place.value = before === undefined ? { beforeId: null, top: last.top + last.height } : { beforeId: before.id, top: before.top }
  }

  function put(id: string) {
    const at = place.value
    place.value = null
    const all = lanes()
    const next = all[all.findIndex((lane) => lane.id === id) + 1]?.id ?? null
    // Let go where it lies already, it has not been moved.
    if (at !== null && at.beforeId !== id && at.beforeId !== next) orderLane(id, at.beforeId)
  }

  return { place, carry, put, leave: () => (place.value = null) }
}
