import type { Tapped, TapPanel } from '@rubato/core/edits'
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import type { Gesture } from './editing'

/** Taps that are being made, or looked at before they are kept. */
export interface TapSession {
  readonly panels: readonly TapPanel[]
  /** The film's frame at which the first panel begins. */
  readonly startFrame: number
  readonly taps: number[]
  readonly gesture: Gesture
  /** Where the artist was. */
  readonly playhead: number
}

/** How far tap timing is. */
export const useTapTimingStore = defineStore('tapTiming', () => {
  const phase = ref<'idle' | 'running' | 'review'>('idle')
  const session = shallowRef<TapSession | null>(null)
  const tapped = shallowRef<Tapped>({ ended: [], current: 0, currentStart: 0 })
  /** Raised with every tap, for the eye. */
  const beat = ref(0)
  /** The artist's reaction is being measured. */
  const calibrating = ref(false)
  const elapsedFrames = ref(0)
  /** What was tried last. */
  const appliedKey = ref('')

  return { phase, session, tapped, beat, calibrating, elapsedFrames, appliedKey }
})
