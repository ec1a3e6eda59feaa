import type { DepthRange } from '@rubato/core/depth'
import type { AirName, AirValues } from '@rubato/core/moves'
import { depthRangeOf } from '@rubato/core/stage'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { useDeskStore } from './desk'
import { withEachFilm } from './eachFilm'

/** Which of a shot's haze and focus is worked on, and whether distances are seen in the place of colours. Nothing here is part of the film. */
export const useAirStore = defineStore('air', () => {
  const desk = useDeskStore()
  const open = ref(false)
  const chosen = ref<AirName>('haze')
  /** Whose keys the strip shows. */
  const inHand = computed<AirName | null>(() => (open.value && desk.take?.air[chosen.value] !== undefined ? chosen.value : null))

  /** Haze and focus that were copied, as they were at that frame. */
  const copied = shallowRef<{ readonly [A in AirName]: AirValues[A] | null } | null>(null)

  const distances = ref(false)
  /** By take, the distances that are white and black, where the artist has said. */
  const ends = shallowRef<ReadonlyMap<string, DepthRange>>(new Map())
  const ofShot = computed<DepthRange | null>(() => (distances.value && desk.stage !== null ? depthRangeOf([desk.stage]) : null))
  const range = computed<DepthRange | null>(() => (desk.takeId === null ? null : (ends.value.get(desk.takeId) ?? ofShot.value)))
  const shownRange = computed(() => (distances.value ? range.value : null))
  /** Null: as the shot has them. */
  function setEnds(next: DepthRange | null) {
    if (desk.takeId === null) return
    const all = new Map(ends.value)
    if (next === null) all.delete(desk.takeId)
    else all.set(desk.takeId, next)
    ends.value = all
  }
  withEachFilm(() => {
    open.value = distances.value = false
    chosen.value = 'haze'
    copied.value = null
    ends.value = new Map()
  })
  return { open, chosen, inHand, copied, distances, range, shownRange, hasOwnEnds: computed(() => desk.takeId !== null && ends.value.has(desk.takeId)), setEnds }
})
