import type { CameraPose } from '@rubato/core/camera'
import { SET, type Carriage, type Stand } from '@rubato/core/depth'
import { carriageIn, panelAtFrame, placedFramings, type Framing, type PlacedFraming, type SeenLevels } from '@rubato/core/document'
import type { Whereabouts } from '@rubato/core/edits'
import type { Keyed } from '@rubato/core/moves'
import type { Point3 } from '@rubato/core/geometry'
import { framesPerSecond, timecodeOfFrame } from '@rubato/core/time'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { createCameraHand, type CameraMode } from './cameraHand'
import { createChosen } from './chosen'
import { createLevelHand, type CopiedLevelMove, type LevelTrial } from './levelHand'
import { useFilmStore } from './film'
import { reading } from './reading'

export type View = 'boards' | 'draw' | 'desk' | 'sets' | 'breakdown'
/** `target` points at what a camera is to go after. */
export type Tool = 'camera' | 'level' | 'walls' | 'region' | 'target' | 'pen'

export interface LensSettings {
  matte: boolean
  matteStrength: number
  thirds: boolean
  safeAreas: boolean
  framings: boolean
  darkSurround: boolean
  /** Squares on level ground so high (fw of the set) and so large, its horizon, and where the set's lines meet. */
  ground: boolean
  groundY: number
  groundStep: number
  /** How strongly stand-ins show, 0…1: all of them as one. */
  standIns: number
}

/** While it plays, numbers that no eye can read are not laid out for every frame. */
const READ_EVERY_MS = 160

/** Where the artist is on the Desk: playhead, selection, tool, and what is shown. Nothing here is part of the film. */
export const useDeskStore = defineStore('desk', () => {
  const film = useFilmStore()
  const view = ref<View>('desk')
  const asked = ref(0)
  /** Never past the film's end. While a drag makes the film shorter, or it is read anew, it waits there and comes back. */
  const playhead = computed({ get: () => Math.min(asked.value, Math.max(0, lengthFrames.value - 1)), set: (frame: number) => void (asked.value = frame) })
  const playing = ref(false)
  const tool = ref<Tool>('camera')
  const autoKey = ref(false)
  const keepPicture = useLocalStorage('rubato.keepPicture', true)
  const lens = useLocalStorage<LensSettings>(
    'rubato.lens',
    { matte: true, matteStrength: 0.82, thirds: false, safeAreas: false, framings: true, darkSurround: false, ground: false, groundY: -0.25, groundStep: 0.5, standIns: 1 },
    { mergeDefaults: true },
  )
  /** A pose that is only being looked at; gone when the playhead moves. */
  const trial = shallowRef<{ readonly shotId: string; readonly frame: number; readonly pose: CameraPose } | null>(null)
  /** What levels are only tried with; gone when the playhead moves. */
  const levelTrial = shallowRef<LevelTrial | null>(null)
  const copiedFraming = shallowRef<Framing | null>(null)
  /** A move to be pasted, with the length of the shot that it is from. */
  const copiedMove = shallowRef<{ readonly framings: readonly Keyed<CameraPose>[]; readonly from: string; readonly shotFrames: number } | null>(null)
  /** A level's move to be pasted. */
  const copiedLevelMove = shallowRef<CopiedLevelMove | null>(null)
  /** A framing that was copied to be altered: its next change undoes along with the copy. */
  const drifting = shallowRef<{ readonly framingId: string; readonly joins: string } | null>(null)
  /** While on, truck and zoom answer each other: the chosen plane keeps its size. */
  const counterZooms = ref(false)
  const nudge = ref(0)
  /** The frame of the shot that figures are read at while it plays. */
  const readFrame = ref(0)

  const lengthFrames = computed(() => film.filmStage.lengthFrames)
  const placedShot = computed(() => film.filmStage.shotAt(playhead.value))
  const shotId = computed(() => placedShot.value?.shot.id ?? null)
  const takeId = computed(() => placedShot.value?.shot.circledTakeId ?? null)
  const take = computed(() => (takeId.value === null ? null : film.takeOf(takeId.value)))
  const stage = computed(() => (takeId.value === null ? null : film.stageOf(takeId.value)))
  const chosen = createChosen({ takeId, take, view, tool, placeOf: (levelId) => placeOf(levelId) })
  const { selectedLevelId, alsoLevelIds, selectedFramingIds, selectedKeyIds, selectedSpanId, selectedCutFrame, openedSetId, openedSet, levels, choosable, selectedLevel, chosenLevelIds, chooseLevelToDraw, chooseLevel, stepLevel, chooseNoKeys } = chosen
  const shotFrame = computed(() => Math.max(0, playhead.value - (placedShot.value?.startFrame ?? 0)))
  const placedPanel = computed(() => (take.value === null ? null : panelAtFrame(take.value, shotFrame.value)))
  /** The camera that the film sees at the playhead. */
  const liveCameraId = computed(() => stage.value?.live.at(shotFrame.value) ?? null)
  /** In a live cut, the camera that was pressed last. */
  const pressedCameraId = ref<string | null>(null)
  /** By take, the camera that is looked through though it may not be live. */
  const lookedThrough = shallowRef<ReadonlyMap<string, string>>(new Map())
  /** The camera whose framings are seen and changed: the live one, unless another is looked through. While it plays the film is seen. */
  const cameraAtWorkId = computed(() => {
    if (playing.value && pressedCameraId.value !== null && take.value?.cameras[pressedCameraId.value] !== undefined) return pressedCameraId.value
    const through = takeId.value === null || playing.value ? undefined : lookedThrough.value.get(takeId.value)
    return through !== undefined && take.value?.cameras[through] !== undefined ? through : liveCameraId.value
  })
  const isLookingAside = computed(() => cameraAtWorkId.value !== liveCameraId.value)
  /** Looks through a camera, wherever the film is; null: through the live one. */
  function lookThrough(cameraId: string | null) {
    if (takeId.value === null) return
    const next = new Map(lookedThrough.value)
    if (cameraId === null) next.delete(takeId.value)
    else next.set(takeId.value, cameraId)
    trial.value = null
    chooseNoKeys()
    lookedThrough.value = next
  }
  const cameraAtWork = computed(() => (cameraAtWorkId.value === null ? null : (take.value?.cameras[cameraAtWorkId.value] ?? null)))
  const framings = computed(() => (take.value === null || cameraAtWorkId.value === null ? [] : placedFramings(take.value, cameraAtWorkId.value)))
  const framingHere = computed(() => framings.value.find((entry) => entry.frame === shotFrame.value) ?? null)
  const trialHere = computed(() => {
    const tried = trial.value
    return tried !== null && tried.shotId === shotId.value && tried.frame === shotFrame.value ? tried.pose : null
  })
  /** Where a hand has the camera, or had it in a try that is looked at, at a frame of the shot; null for what the film says. */
  const operatedAt = shallowRef<((frame: number) => CameraPose | null) | null>(null)
  const operatedHere = computed(() => operatedAt.value?.(shotFrame.value) ?? null)
  const pose = computed<CameraPose | null>(() => operatedHere.value ?? trialHere.value ?? stage.value?.poseOf(cameraAtWorkId.value, shotFrame.value) ?? null)
  const read = computed(() => (playing.value ? { frame: readFrame.value, pose: stage.value?.poseOf(cameraAtWorkId.value, readFrame.value) ?? null } : { frame: shotFrame.value, pose: pose.value }))
  const triedHere = computed(() => {
    const tried = levelTrial.value
    return tried !== null && tried.shotId === shotId.value && tried.frame === shotFrame.value ? tried.values : null
  })
  const stageFrame = computed(() => {
    if (stage.value === null || pose.value === null) return null
    return stage.value.through(shotFrame.value, cameraAtWorkId.value, pose.value, triedHere.value)
  })
  /** The framings around the playhead: the one it stands on or left last, and the next. The same object as long as they are. */
  const moveHere = computed<{ readonly from: PlacedFraming; readonly to: PlacedFraming; readonly index: number } | null>((before) => {
    const index = framings.value.findLastIndex((entry) => entry.frame <= shotFrame.value)
    const from = framings.value[index]
    const to = framings.value[index + 1]
    if (from === undefined || to === undefined) return null
    return before?.from === from && before.to === to ? before : { from, to, index }
  })
  /** The plane that a counter-zoom keeps: the selected level's, or the picture plane. */
  const keptPlane = computed(() => (selectedLevel.value === null ? 0 : placeOf(selectedLevel.value.id).depth))
  const cameraMode = computed<CameraMode>(() => {
    const here = framingHere.value ?? (framings.value.length === 1 ? framings.value[0]! : null)
    if (cameraAtWork.value?.locked === true || here?.framing.locked === true) return 'locked'
    if (autoKey.value) return 'auto-key'
    if (framings.value.length <= 1) return 'reframes'
    return framingHere.value === null ? 'looking' : 'changes-framing'
  })
  const timecode = computed(() => (film.project === null ? '' : timecodeOfFrame(playhead.value + (film.project.startTimecodeFrames ?? 0), film.project.rate, film.project.dropFrame ?? false)))
  const fps = computed(() => (film.project === null ? 24 : framesPerSecond(film.project.rate)))

  watch([lengthFrames, () => film.gestureOpen], () => lengthFrames.value > 0 && !film.gestureOpen && (asked.value = playhead.value))
  watch([shotId, shotFrame], () => {
    trial.value = null
    levelTrial.value = null
  })
  let readAt = 0
  watch(
    [playing, shotId, shotFrame],
    ([, shot], [, before]) => {
      if (!playing.value || (shot === before && performance.now() - readAt < READ_EVERY_MS)) return
      readAt = performance.now()
      readFrame.value = shotFrame.value
    },
    { flush: 'sync' },
  )

  function goTo(frame: number) {
    playhead.value = Math.min(Math.max(0, lengthFrames.value - 1), Math.max(0, Math.round(frame)))
  }

  function goToShot(id: string) {
    const placed = film.filmStage.placeOf(id)
    if (placed !== null) goTo(placed.startFrame)
  }

  const hand = createLevelHand({ film, takeId, take, stage, shotFrame, shotId, levelTrial, triedHere, autoKey, nudge })
  /** How levels stand, swaying and stepped, at the frame that is seen; while it plays, at one that can be read. */
  const seen = computed<SeenLevels | null>(() => stage.value?.seen(read.value.frame, read.value.pose ?? undefined, triedHere.value) ?? null)
  const standOf = (levelId: string): Stand => (seen.value === null || take.value?.levels[levelId] === undefined ? SET : seen.value.standOf(levelId))
  /** Where a level stands in the set. */
  const placeOf = (levelId: string): Point3 => standOf(levelId).place
  /** The axes that a level's numbers are in. */
  function carriageOf(levelId: string): Carriage {
    const level = take.value?.levels[levelId]
    return seen.value === null || take.value === null || level === undefined ? SET : carriageIn(take.value, level, seen.value)
  }

  /** What a framing would have to say for the camera at work to be at a pose, at the playhead. */
  const framedAs = (asked: CameraPose, frame = shotFrame.value) => stage.value?.framedAs(cameraAtWorkId.value, frame, asked) ?? asked
  const { beginCamera, key: keyCamera } = createCameraHand({ film, framedAs, takeId, take, cameraAtWorkId, shotFrame, shotId, trial, trialHere, pose, framingHere, cameraMode, drifting, keeps: () => (counterZooms.value ? keptPlane.value : null), nudge })

  /** Keeps what is seen: of the chosen levels while they are in hand, else of the camera. */
  function key() {
    if (tool.value === 'level' && chosenLevelIds.value.length > 0) hand.key(chosenLevelIds.value)
    else keyCamera()
  }

  function whereabouts(): Whereabouts {
    return { shotId: shotId.value, frame: shotFrame.value, selection: chosen.told() }
  }

  film.onOpenedSet(() => (openedSet.value === null || takeId.value === null || pose.value === null ? null : { takeId: takeId.value, setLevelId: openedSet.value.id, frame: shotFrame.value, camera: pose.value }))
  watch([takeId, openedSet], () => openedSet.value === null && (openedSetId.value = null))
  film.onWhereabouts(whereabouts, (there, undone) => {
    const placed = there.shotId === null ? null : film.filmStage.placeOf(there.shotId)
    if (placed !== null) goTo(placed.startFrame + Math.min(there.frame, Math.max(0, placed.lengthFrames - 1)))
    else goTo(playhead.value)
    chosen.choose(there.selection)
    if (!undone) return
    trial.value = null
    levelTrial.value = null
  })

  function reset() {
    playhead.value = 0
    playing.value = false
    tool.value = 'camera'
    chosen.reset()
    copiedMove.value = null
    copiedLevelMove.value = null
    counterZooms.value = false
    lookedThrough.value = new Map()
    autoKey.value = false
    trial.value = null
    levelTrial.value = null
  }

  return {
    view,
    playhead,
    playing,
    tool,
    selectedLevelId,
    selectedFramingIds,
    selectedSpanId,
    autoKey,
    keepPicture,
    lens,
    trial,
    copiedFraming,
    copiedMove,
    copiedLevelMove,
    drifting,
    counterZooms,
    keptPlane,
    alsoLevelIds,
    chosenLevelIds,
    levelTrial,
    triedHere,
    selectedKeyIds,
    seen,
    standOf: reading(standOf),
    placeOf: reading(placeOf),
    carriageOf: reading(carriageOf),
    levelValues: reading(hand.valuesOf),
    levelModeOf: reading(hand.modeOf),
    beginLevels: hand.begin,
    keyLevels: hand.key,
    nudge,
    lengthFrames,
    placedShot,
    shotId,
    takeId,
    take,
    stage,
    shotFrame,
    placedPanel,
    cameraAtWorkId,
    cameraAtWork,
    liveCameraId,
    isLookingAside,
    pressedCameraId,
    lookThrough,
    selectedCutFrame,
    framings,
    framingHere,
    trialHere,
    operatedAt,
    operatedHere,
    pose,
    /** The frame and the pose that figures and small drawings show: the playhead's, but while it plays only so often as one can read. */
    read,
    stageFrame,
    moveHere,
    levels,
    selectedLevel,
    openedSetId,
    openedSet,
    choosable,
    cameraMode,
    timecode,
    fps,
    chooseLevelToDraw,
    chooseLevel,
    chooseNoKeys,
    stepLevel,
    goTo,
    goToShot,
    beginCamera,
    framedAs,
    key,
    reset,
  }
})
