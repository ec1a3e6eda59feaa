import { posesEqual, type CameraPose } from '@rubato/core/camera'
import { panelAtFrame, placedFramings, rackLevels, type Framing, type Level } from '@rubato/core/document'
import { reframe, keyFraming, type Whereabouts } from '@rubato/core/edits'
import { framesPerSecond, timecodeOfFrame } from '@rubato/core/time'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { useFilmStore, type Gesture } from './film'

export type View = 'boards' | 'draw' | 'desk'
export type Tool = 'camera' | 'level' | 'pen'

/** How a change of the camera is kept at this frame; told beside the lens view. */
export type CameraMode = 'reframes' | 'changes-framing' | 'looking' | 'auto-key' | 'locked'

export interface LensSettings {
  matte: boolean
  matteStrength: number
  thirds: boolean
  safeAreas: boolean
  framings: boolean
  darkSurround: boolean
}

/** Where the artist is on the Desk: playhead, selection, tool, and what is shown. Nothing here is part of the film. */
export const useDeskStore = defineStore('desk', () => {
  const film = useFilmStore()
  const view = ref<View>('desk')
  const playhead = ref(0)
  const playing = ref(false)
  const tool = ref<Tool>('camera')
  const selectedLevelId = ref<string | null>(null)
  const selectedFramingIds = shallowRef<readonly string[]>([])
  const autoKey = ref(false)
  const keepPicture = useLocalStorage('rubato.keepPicture', true)
  const lens = useLocalStorage<LensSettings>(
    'rubato.lens',
    { matte: true, matteStrength: 0.82, thirds: false, safeAreas: false, framings: true, darkSurround: false },
    { mergeDefaults: true },
  )
  /** A pose that is only being looked at; gone when the playhead moves. */
  const trial = shallowRef<{ readonly shotId: string; readonly frame: number; readonly pose: CameraPose } | null>(null)
  const copiedFraming = shallowRef<Framing | null>(null)
  const nudge = ref(0)

  const lengthFrames = computed(() => film.filmStage.lengthFrames)
  const placedShot = computed(() => film.filmStage.shotAt(playhead.value))
  const shotId = computed(() => placedShot.value?.shot.id ?? null)
  const takeId = computed(() => placedShot.value?.shot.circledTakeId ?? null)
  const take = computed(() => (takeId.value === null ? null : film.takeOf(takeId.value)))
  const stage = computed(() => (takeId.value === null ? null : film.stageOf(takeId.value)))
  const shotFrame = computed(() => Math.max(0, playhead.value - (placedShot.value?.startFrame ?? 0)))
  const placedPanel = computed(() => (take.value === null ? null : panelAtFrame(take.value, shotFrame.value)))
  const cameraId = computed(() => (take.value === null ? null : (Object.values(take.value.cameras).sort((a, b) => a.order - b.order)[0]?.id ?? null)))
  const camera = computed(() => (cameraId.value === null ? null : (take.value?.cameras[cameraId.value] ?? null)))
  const framings = computed(() => (take.value === null || cameraId.value === null ? [] : placedFramings(take.value, cameraId.value)))
  const framingHere = computed(() => framings.value.find((entry) => entry.frame === shotFrame.value) ?? null)
  const trialHere = computed(() => {
    const tried = trial.value
    return tried !== null && tried.shotId === shotId.value && tried.frame === shotFrame.value ? tried.pose : null
  })
  const pose = computed<CameraPose | null>(() => trialHere.value ?? stage.value?.poseAt(shotFrame.value) ?? null)
  const stageFrame = computed(() => {
    if (stage.value === null || pose.value === null) return null
    return trialHere.value === null ? stage.value.at(shotFrame.value) : stage.value.withPose(shotFrame.value, trialHere.value)
  })
  /** The framings around the playhead: the one it stands on or left last, and the next. */
  const moveHere = computed(() => {
    const index = framings.value.findLastIndex((entry) => entry.frame <= shotFrame.value)
    const from = framings.value[index]
    const to = framings.value[index + 1]
    return from === undefined || to === undefined ? null : { from, to, index }
  })
  const levels = computed<readonly Level[]>(() => (take.value === null ? [] : rackLevels(take.value)))
  const selectedLevel = computed(() => levels.value.find((level) => level.id === selectedLevelId.value) ?? null)
  const cameraMode = computed<CameraMode>(() => {
    const here = framingHere.value ?? (framings.value.length === 1 ? framings.value[0]! : null)
    if (camera.value?.locked === true || here?.framing.locked === true) return 'locked'
    if (autoKey.value) return 'auto-key'
    if (framings.value.length <= 1) return 'reframes'
    return framingHere.value === null ? 'looking' : 'changes-framing'
  })
  const timecode = computed(() => (film.project === null ? '' : timecodeOfFrame(playhead.value, film.project.rate)))
  const fps = computed(() => (film.project === null ? 24 : framesPerSecond(film.project.rate)))

  watch([shotId, shotFrame], () => (trial.value = null))
  // Taking up the pen with nothing selected is meant for the first level that can be drawn on.
  watch(tool, (now) => {
    if (now === 'pen') chooseLevelToDraw()
  })
  watch([view, takeId], () => {
    if (view.value === 'draw') chooseLevelToDraw()
  })
  watch(levels, (now) => {
    if (selectedLevelId.value !== null && !now.some((level) => level.id === selectedLevelId.value)) selectedLevelId.value = null
    if (view.value === 'draw') chooseLevelToDraw()
  })

  /** With nothing selected, the first level that can be drawn on; a figure first. */
  function chooseLevelToDraw() {
    if (selectedLevel.value !== null) return
    const open = levels.value.filter((level) => level.visible && !level.locked && level.kind !== 'reference')
    selectedLevelId.value = (open.find((level) => level.figure === true) ?? open[0])?.id ?? null
  }

  /** Selects the next level nearer (−1) or farther (1). */
  function stepLevel(step: -1 | 1) {
    const nearFirst = [...levels.value].sort((a, b) => a.depth - b.depth || a.order - b.order)
    const at = nearFirst.findIndex((level) => level.id === selectedLevelId.value)
    const next = nearFirst[Math.min(nearFirst.length - 1, Math.max(0, at + step))]
    if (next !== undefined) selectedLevelId.value = next.id
  }

  function goTo(frame: number) {
    playhead.value = Math.min(Math.max(0, lengthFrames.value - 1), Math.max(0, Math.round(frame)))
  }

  function goToShot(id: string) {
    const placed = film.filmStage.placeOf(id)
    if (placed !== null) goTo(placed.startFrame)
  }

  /**
   * Begins a change of the camera at this frame. Where it is kept it is a gesture on the film; where it is only
   * looking, it becomes the trial pose and nothing is written.
   */
  function beginCamera(label?: string): { update(next: CameraPose): void; end(): void; abandon(): void } {
    const [id, camId, frame, shot] = [takeId.value, cameraId.value, shotFrame.value, shotId.value]
    const before = trial.value
    const mode = cameraMode.value
    if (id === null || camId === null || shot === null || pose.value === null) return { update() {}, end() {}, abandon() {} }
    if (mode === 'locked') {
      refuseLocked(camId)
      return { update() {}, end() {}, abandon() {} }
    }
    if (mode === 'looking') {
      return {
        update: (next) => (trial.value = { shotId: shot, frame, pose: next }),
        end() {},
        abandon: () => (trial.value = before),
      }
    }
    const gesture: Gesture = film.beginGesture(label ?? (mode === 'auto-key' ? 'key framing' : mode === 'reframes' ? 'reframe' : 'change framing'))
    const newId = crypto.randomUUID()
    return {
      update(next) {
        gesture.update((now) =>
          mode === 'auto-key' ? keyFraming(now.takes[id]!, id, camId, frame, next, newId) : reframe(now.takes[id]!, id, camId, frame, next, newId),
        )
      },
      end: () => gesture.commit(),
      abandon: () => gesture.abandon(),
    }
  }

  function refuseLocked(camId: string) {
    nudge.value++
    film.refuse(
      take.value?.cameras[camId]?.locked === true
        ? 'This camera is locked. Unlock it in the inspector to change it.'
        : 'This framing is locked. Unlock it in the inspector to change it.',
    )
  }

  /** Writes what the lens shows as a framing at the playhead. */
  function key() {
    const [id, camId, now] = [takeId.value, cameraId.value, pose.value]
    if (id === null || camId === null || now === null) return
    const existing = framingHere.value
    if (existing !== null && posesEqual(existing.framing.pose, now)) return
    const done = film.perform(existing === null ? 'key framing' : 'change framing', (f) =>
      keyFraming(f.takes[id]!, id, camId, shotFrame.value, now, crypto.randomUUID()),
    )
    if (done) trial.value = null
    else nudge.value++
  }

  function whereabouts(): Whereabouts {
    const selection = [...(selectedLevelId.value === null ? [] : [`level:${selectedLevelId.value}`]), ...selectedFramingIds.value.map((id) => `framing:${id}`)]
    return { shotId: shotId.value, frame: shotFrame.value, selection }
  }

  film.onWhereabouts(whereabouts, (there) => {
    const placed = there.shotId === null ? null : film.filmStage.placeOf(there.shotId)
    if (placed !== null) goTo(placed.startFrame + Math.min(there.frame, Math.max(0, placed.lengthFrames - 1)))
    else goTo(playhead.value)
    selectedLevelId.value = there.selection.find((entry) => entry.startsWith('level:'))?.slice(6) ?? null
    selectedFramingIds.value = there.selection.filter((entry) => entry.startsWith('framing:')).map((entry) => entry.slice(8))
    trial.value = null
  })

  function reset() {
    playhead.value = 0
    playing.value = false
    tool.value = 'camera'
    selectedLevelId.value = null
    selectedFramingIds.value = []
    autoKey.value = false
    trial.value = null
  }

  return {
    view,
    playhead,
    playing,
    tool,
    selectedLevelId,
    selectedFramingIds,
    autoKey,
    keepPicture,
    lens,
    trial,
    copiedFraming,
    nudge,
    lengthFrames,
    placedShot,
    shotId,
    takeId,
    take,
    stage,
    shotFrame,
    placedPanel,
    cameraId,
    camera,
    framings,
    framingHere,
    trialHere,
    pose,
    stageFrame,
    moveHere,
    levels,
    selectedLevel,
    cameraMode,
    timecode,
    fps,
    chooseLevelToDraw,
    stepLevel,
    goTo,
    goToShot,
    beginCamera,
    key,
    reset,
  }
})
