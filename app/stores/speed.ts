import { STROBES_FROM, strobingLimit, type SpeedOf, type Strobe } from '@rubato/core/checks'
import { insertFrames, type Slowing } from '@rubato/core/edits'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'
import { useDeskStore } from './desk'
import type { Gesture } from './editing'
import { useFilmStore } from './film'
import { useSurveyStore } from './survey'

/** How fast the camera and the levels of the shot that is open go over the screen. Worked out while somebody looks, and writes nothing. */
export const useSpeedStore = defineStore('speed', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const survey = useSurveyStore()
  /** Where strobing begins at 24 frames a second: seconds in which a frame's width is crossed. */
  const secondsAcross = useLocalStorage('rubato.strobesUnder', 1 / STROBES_FROM)
  const limit = computed(() => strobingLimit(desk.fps, 1 / Math.min(60, Math.max(0.5, Number(secondsAcross.value) || 1 / STROBES_FROM))))
  const speeds = shallowRef<readonly SpeedOf[]>([])
  /** The take that they are of. */
  const ofTakeId = ref<string | null>(null)
  const trouble = ref<string | null>(null)
  const lookers = ref(0)
  function look() {
    lookers.value++
    onScopeDispose(() => void lookers.value--)
  }

  let isOut = false
  let isStale = false
  async function ask() {
    const { take, takeId } = desk
    if (lookers.value === 0 || take === null || film.optics === null) return
    if (isOut) return void (isStale = true)
    isOut = true
    try {
      const answer = await survey.ask({ kind: 'speed', take, fps: desk.fps, limit: limit.value }, 'speed')
      speeds.value = answer.speeds
      ofTakeId.value = takeId
      trouble.value = null
    } catch (error) {
      trouble.value = `The speeds could not be worked out (${(error as Error).message}). It is tried again with the next change.`
    }
    isOut = false
    if (!isStale) return
    isStale = false
    void ask()
  }
  watch([() => lookers.value > 0, () => desk.take, () => film.optics, () => desk.fps, limit], () => void ask())

  const shown = computed(() => (ofTakeId.value === desk.takeId ? speeds.value : []))

  /** A mend that is shown as it would be: it is in the film once it is taken. */
  const trial = shallowRef<{ readonly levelId: string; readonly strobe: Strobe; readonly slowing: Slowing; readonly gesture: Gesture; readonly before: readonly SpeedOf[] } | null>(null)
  const working = ref<string | null>(null)
  const nameOf = (strobe: Strobe, levelId: string) => `${levelId} ${strobe.first}`
  async function trySlower(levelId: string, strobe: Strobe) {
    leave()
    const { take, takeId } = desk
    if (take === null || takeId === null || working.value !== null) return
    if (film.lookingAt !== null) return void film.perform('slower', () => ({ ok: true, edits: [] }))
    working.value = nameOf(strobe, levelId)
    const found = await survey.ask({ kind: 'slow', take, levelId, strobe, fps: desk.fps, limit: limit.value }, 'slow').catch((error: Error) => error)
    working.value = null
    if (desk.takeId !== takeId || desk.take !== take) return
    if (found instanceof Error) return film.refuse(`How many frames are missing could not be worked out. ${found.message}`)
    const { slowing } = found
    if (slowing === null) return film.refuse('No frames put in there make it slow enough: its panel keeps its length, or it sways by itself. Let go of the fermata, or calm its swing, bob or drift.')
    const before = shown.value
    const gesture = film.beginGesture(`slower: ${take.levels[levelId]?.name ?? ''}, ${slowing.frames} frames more`)
    gesture.update((f) => insertFrames(f.takes[takeId]!, takeId, slowing.before, slowing.frames))
    trial.value = { levelId, strobe, slowing, gesture, before }
  }
  function takeIt() {
    trial.value?.gesture.commit()
    trial.value = null
  }
  function leave() {
    trial.value?.gesture.abandon()
    trial.value = null
  }
  watch(() => desk.takeId, leave)

  return { secondsAcross, limit, shown, trouble, look, trial, working, nameOf, trySlower, takeIt, leave }
})
