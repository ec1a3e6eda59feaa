import { faceOn, planeOf, pointOnPlane, type Stand } from '@rubato/core/depth'
import { showsNothing, shownAt } from '@rubato/core/document'
import { cornersOf, dot, rectangleAround, subtract, union, type Rectangle } from '@rubato/core/geometry'
import { drawingBounds } from '@rubato/core/ink'
import { foldedOpen, placedLevel, type FoldedOpen, type PlacedLevel, type StageFrame } from '@rubato/core/stage'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'

/** How the paper shows the selected level: as the camera sees it, square on, or folded open with what it is hinged to. */
export type PaperMode = 'picture' | 'square' | 'open'

/** Where nothing is drawn yet there is room for a frame, fw of the art. */
const ROOM: Rectangle = Object.freeze({ left: -0.5, right: 0.5, bottom: -0.28, top: 0.28 })

interface Looked {
  readonly frame: StageFrame
  readonly standOf: (levelId: string) => Stand
  readonly open: FoldedOpen | null
}

/** How the paper in Draw lies before the set. It is a way to look: nothing is written. */
export const useFaceOnStore = defineStore('faceOn', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const mode = ref<PaperMode>('picture')
  watch(() => desk.shotId, () => (mode.value = 'picture'))

  function boundsOf(levelId: string): Rectangle {
    const cell = desk.take === null ? null : shownAt(desk.take, levelId, desk.shotFrame)
    const drawing = cell === null ? null : film.drawingOf(cell.drawingId)
    const drawn = drawing === null ? null : drawingBounds(drawing)
    return union(drawn, desk.take?.levels[levelId]?.paper ?? null) ?? ROOM
  }

  /** What is hinged to the selected level, were it folded open. */
  const hinged = computed(() => {
    const { stage, take, selectedLevelId: id } = desk
    if (desk.view !== 'draw' || desk.playing || stage === null || take === null || id === null) return null
    return foldedOpen(take, id, stage.seen(desk.shotFrame, desk.pose ?? undefined, desk.triedHere))
  })

  const looked = computed<Looked | null>(() => {
    const { stage, pose, selectedLevel: level, shotFrame: at } = desk
    if (mode.value === 'picture' || desk.view !== 'draw' || desk.playing || stage === null || pose === null || level === null || film.optics === null) return null
    const open = mode.value === 'open' ? hinged.value : null
    if (mode.value === 'open' && open === null) return null
    const tried = open === null ? desk.triedHere : new Map([...(desk.triedHere ?? []), ...open.tried])
    const { standOf } = stage.seen(at, pose, tried)
    const root = open === null ? level : desk.take!.levels[open.rootId]!
    const plane = planeOf(standOf(root.id), root.pivot)
    const along = (axis: typeof plane.axisX, point: ReturnType<typeof pointOnPlane>) => dot(subtract(point, plane.origin), axis) / dot(axis, axis)
    const corners = [...(open?.ids ?? [level.id])].flatMap((id) => {
      const each = desk.take!.levels[id]!
      const own = planeOf(standOf(id), each.pivot)
      return cornersOf(boundsOf(id)).map((corner) => ((point) => ({ x: along(plane.axisX, point), y: along(plane.axisY, point) }))(pointOnPlane(own, corner)))
    })
    const eye = faceOn(standOf(root.id), root.pivot, rectangleAround(corners) ?? ROOM, pose, film.optics)
    return { frame: stage.through(at, desk.cameraAtWorkId, pose, tried, eye), standOf, open }
  })
  /** What the paper shows. */
  const frame = computed(() => looked.value?.frame ?? desk.stageFrame)
  const standOf = (levelId: string): Stand => looked.value?.standOf(levelId) ?? desk.standOf(levelId)
  /** The levels that lie open; null where none do. */
  const openIds = computed(() => looked.value?.open?.ids ?? null)
  const isFaceOn = computed(() => looked.value !== null)
  /** Whether the paper leaves a level out: folded open, what does not lie there; square on, what stands before the one that is drawn on. */
  function leavesOut(placed: PlacedLevel): boolean {
    if (looked.value === null || placed.level.id === desk.selectedLevelId) return false
    const { open, frame: seen } = looked.value
    if (open !== null) return !open.ids.has(placed.level.id)
    const own = placedLevel(seen, desk.selectedLevelId)
    return own !== null && placed.z < own.z
  }

  function show(wanted: PaperMode) {
    if (wanted === mode.value) wanted = 'picture'
    const level = desk.selectedLevel
    if (wanted !== 'picture' && (level === null || showsNothing(level))) return film.refuse('Choose a level first: the paper then shows it square on.')
    if (wanted === 'open' && hinged.value === null) return film.refuse(`Nothing is hinged to ${level!.name}, so there is nothing to fold open. Rooms made with the wall tool are (Alt F at the Desk); so are levels that hang on another along an edge.`)
    mode.value = wanted
  }
  return { mode, frame, standOf, openIds, hinged, isFaceOn, leavesOut, show }
})
