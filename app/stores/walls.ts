import type { Point3 } from '@rubato/core/geometry'
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { withEachFilm } from './eachFilm'

/** What the wall tool makes of what is drawn. */
export type WallMode = 'room' | 'corner' | 'wall' | 'far' | 'floor' | 'ceiling'

const USUAL_HEIGHT_FW = 0.6

/** The wall tool of this window. */
export const useWallsStore = defineStore('walls', () => {
  const mode = ref<WallMode>('room')
  /** How high walls are made that are drawn along the ground, and how high over it ceilings, fw. */
  const height = ref(USUAL_HEIGHT_FW)
  /** How far off a far wall stands; null: somewhat behind the picture plane. */
  const farFw = ref<number | null>(null)
  /** The first edge of a corner that waits for its second. */
  const firstEdge = shallowRef<{ readonly corner: Point3; readonly end: Point3 } | null>(null)
  withEachFilm(() => {
    mode.value = 'room'
    height.value = USUAL_HEIGHT_FW
    farFw.value = firstEdge.value = null
  })
  return { mode, height, farFw, firstEdge }
})
