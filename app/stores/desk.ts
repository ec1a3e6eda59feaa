import type { CameraPose } from '@rubato/core/camera'
import { SET, type Carriage, type Stand } from '@rubato/core/depth'
import { carriageIn, panelAtFrame, placedFramings, type SeenLevels, pieceLevelId, pieceOf, rackLevels, showsNothing, wholeOf, type Framing, type Level, type PlacedFraming, type SetLevel, compareOrdered } from '@rubato/core/document'
import type { Whereabouts } from '@rubato/core/edits'
import type { Keyed } from '@rubato/core/moves'
import type { Point3 } from '@rubato/core/geometry'
import { framesPerSecond, timecodeOfFrame } from '@rubato/core/time'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { createCameraHand, type CameraMode } from './cameraHand'
import { createLevelHand, type CopiedLevelMove, type LevelTrial } from './levelHand'
import { useFilmStore } from './film'

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
  const playhead = ref(0)
  const playing = ref(false)
  const tool = ref<Tool>('camera')
  const selectedLevelId = ref<string | null>(null)
  /** Levels chosen beside the selected one. */
  const alsoLevelIds = shallowRef<readonly string[]>([])
  const selectedFramingIds = shallowRef<readonly string[]>([])
  /** Keys of levels. */
  const selectedKeyIds = shallowRef<readonly string[]>([])
  /** A span of the camera at work. */
  const selectedSpanId = ref<string | null>(null)
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
    const chosen = takeId.value === null || playing.value ? undefined : lookedThrough.value.get(takeId.value)
    return chosen !== undefined && take.value?.cameras[chosen] !== undefined ? chosen : liveCameraId.value
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
  /** The camera cut that is chosen, by its frame of the shot. */
  const selectedCutFrame = ref<number | null>(null)
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
  /** The level whose set is worked in; null where none is. */
  const openedSetId = ref<string | null>(null)
  const openedSet = computed<SetLevel | null>(() => {
    const level = openedSetId.value === null ? undefined : take.value?.levels[openedSetId.value]
    return level?.kind === 'set' ? level : null
  })
  /** Those of the shot, and the pieces of the set that is worked in: what can be chosen. */
  const levels = computed<readonly Level[]>(() => (take.value === null ? [] : rackLevels(take.value).filter(({ id }) => ((of) => of === null || of.setLevelId === openedSet.value?.id)(pieceOf(id)))))
  /** Which level can be chosen for one that is seen, or that has just been made: of a set that is not worked in, all of it. */
  function choosable(id: string): string {
    const open = openedSet.value?.id
    if (open !== undefined && take.value?.levels[id] === undefined && take.value?.levels[pieceLevelId(open, id)] !== undefined) return pieceLevelId(open, id)
    return pieceOf(id)?.setLevelId === open ? id : wholeOf(id)
  }
  const selectedLevel = computed(() => levels.value.find((level) => level.id === selectedLevelId.value) ?? null)
  const chosenLevelIds = computed(() => (selectedLevelId.value === null ? alsoLevelIds.value : [selectedLevelId.value, ...alsoLevelIds.value.filter((id) => id !== selectedLevelId.value)]))
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

  // One kind of thing is chosen at a time.
  watch(selectedFramingIds, (now) => {
    if (now.length === 0) return
    selectedKeyIds.value = []
    selectedSpanId.value = null
  })
  watch(selectedKeyIds, (now) => now.length > 0 && (selectedSpanId.value = null))
  watch(takeId, () => (selectedCutFrame.value = null))
  watch(selectedCutFrame, (now) => {
    if (now === null) return
    selectedFramingIds.value = []
    selectedKeyIds.value = []
    selectedSpanId.value = null
  })
  watch([selectedFramingIds, selectedKeyIds, selectedSpanId], ([framings, keys, span]) => (framings.length > 0 || keys.length > 0 || span !== null) && (selectedCutFrame.value = null))
  watch(selectedSpanId, (now) => {
    if (now === null) return
    selectedFramingIds.value = []
    selectedKeyIds.value = []
  })
  watch([() => take.value?.spans, takeId], () => {
    if (selectedSpanId.value !== null && take.value?.spans[selectedSpanId.value] === undefined) selectedSpanId.value = null
  })
  watch([selectedLevelId, takeId], () => (selectedKeyIds.value = []))
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
  // Taking up the pen with nothing selected is meant for the first level that can be drawn on.
  watch(tool, (now) => {
    if (now === 'pen') chooseLevelToDraw()
  })
  watch([view, takeId], () => {
    if (view.value === 'draw') chooseLevelToDraw()
  })
  watch(levels, (now) => {
    if (selectedLevelId.value !== null && !now.some((level) => level.id === selectedLevelId.value)) selectedLevelId.value = null
    if (alsoLevelIds.value.some((id) => !now.some((level) => level.id === id))) alsoLevelIds.value = []
    if (view.value === 'draw') chooseLevelToDraw()
  })

  /** With nothing selected, the first level that can be drawn on; a figure first. */
  function chooseLevelToDraw() {
    if (selectedLevel.value !== null) return
    const open = levels.value.filter((level) => level.visible && !level.locked && level.kind !== 'reference' && !showsNothing(level))
    selectedLevelId.value = (open.find((level) => level.figure === true) ?? open[0])?.id ?? null
  }

  /** Selects a level; with Ctrl or Shift it is chosen along with the others, or let go again. */
  function chooseLevel(seen: string, event: Pick<PointerEvent, 'ctrlKey' | 'metaKey' | 'shiftKey'> | null = null) {
    const id = choosable(seen)
    const many = event !== null && (event.ctrlKey || event.metaKey || event.shiftKey)
    if (!many || selectedLevelId.value === null) {
      selectedLevelId.value = id
      alsoLevelIds.value = []
    } else if (id === selectedLevelId.value) {
      const [next, ...rest] = alsoLevelIds.value
      if (next === undefined) return
      selectedLevelId.value = next
      alsoLevelIds.value = rest
    } else alsoLevelIds.value = alsoLevelIds.value.includes(id) ? alsoLevelIds.value.filter((other) => other !== id) : [...alsoLevelIds.value, id]
  }

  /** Selects the next level nearer (−1) or farther (1). */
  function stepLevel(step: -1 | 1) {
    const nearFirst = [...levels.value].sort((a, b) => placeOf(a.id).depth - placeOf(b.id).depth || compareOrdered(a, b))
    const at = nearFirst.findIndex((level) => level.id === selectedLevelId.value)
    const next = nearFirst[Math.min(nearFirst.length - 1, Math.max(0, at + step))]
    if (next !== undefined) chooseLevel(next.id)
  }

  function chooseNoKeys() {
    selectedFramingIds.value = []
    selectedKeyIds.value = []
    selectedSpanId.value = null
    selectedCutFrame.value = null
  }

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
    const selection = [...(selectedLevelId.value === null ? [] : [`level:${selectedLevelId.value}`]), ...selectedFramingIds.value.map((id) => `framing:${id}`), ...selectedKeyIds.value.map((id) => `key:${id}`), ...(selectedSpanId.value === null ? [] : [`span:${selectedSpanId.value}`])]
    return { shotId: shotId.value, frame: shotFrame.value, selection }
  }

  film.onOpenedSet(() => (openedSet.value === null || takeId.value === null || pose.value === null ? null : { takeId: takeId.value, setLevelId: openedSet.value.id, frame: shotFrame.value, camera: pose.value }))
  watch([takeId, openedSet], () => openedSet.value === null && (openedSetId.value = null))
  film.onWhereabouts(whereabouts, (there) => {
    const placed = there.shotId === null ? null : film.filmStage.placeOf(there.shotId)
    if (placed !== null) goTo(placed.startFrame + Math.min(there.frame, Math.max(0, placed.lengthFrames - 1)))
    else goTo(playhead.value)
    selectedLevelId.value = there.selection.find((entry) => entry.startsWith('level:'))?.slice(6) ?? null
    selectedFramingIds.value = there.selection.filter((entry) => entry.startsWith('framing:')).map((entry) => entry.slice(8))
    selectedKeyIds.value = there.selection.filter((entry) => entry.startsWith('key:')).map((entry) => entry.slice(4))
    selectedSpanId.value = there.selection.find((entry) => entry.startsWith('span:'))?.slice(5) ?? null
    trial.value = null
    levelTrial.value = null
  })

  function reset() {
    playhead.value = 0
    playing.value = false
    tool.value = 'camera'
    selectedLevelId.value = null
    alsoLevelIds.value = []
    selectedFramingIds.value = []
    copiedMove.value = null
    copiedLevelMove.value = null
    counterZooms.value = false
    selectedSpanId.value = null
    selectedCutFrame.value = null
    lookedThrough.value = new Map()
    autoKey.value = false
    trial.value = null
    levelTrial.value = null
    selectedKeyIds.value = []
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
    standOf,
    placeOf,
    carriageOf,
    levelValues: hand.valuesOf,
    levelModeOf: hand.modeOf,
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
