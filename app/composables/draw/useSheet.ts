import { exposuresOf, placedPanels, shownCell, type Drawing } from '@rubato/core/document'
import type { Stand } from '@rubato/core/depth'
import { placedLevel, type PlacedLevel, type StageFrame } from '@rubato/core/stage'
import { useArt } from '~/composables/view/useArt'
import { useAirStore } from '~/stores/air'
import { useDeskStore } from '~/stores/desk'
import { useFaceOnStore } from '~/stores/faceOn'
import { useFilmStore } from '~/stores/film'
import { useLevelToolStore } from '~/stores/levelTool'
import { usePenStore } from '~/stores/pen'
import { useTimingStore } from '~/stores/timing'
import { composeLevel, type ComposedLevel, type Composition, type ViewBox } from '~/viewport/composition'
import { CLEAR } from '~/viewport/levelAir'
import { SILHOUETTE } from '~/viewport/looks'
import { drawingSheet, ghostsAround, plannedGhosts } from '~/viewport/sheet'

/** On either side. */
const MOTION_GHOSTS = 4
const GHOST_STRENGTH = 0.5
/** How strongly a stand-in shows under the level that is drawn over it. */
const UNDER_SHARE = 0.4
/** What stands around a level that is looked at square on is only to find one’s way by. */
const FACE_ON_FADE = 0.7

/** What is seen of a frame while it is worked on: with solo levels, ghosts, silhouettes, and paper over the rest. */
export function useSheet() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const pen = usePenStore()
  const timing = useTimingStore()
  const levelTool = useLevelToolStore()
  const art = useArt()
  const faceOn = useFaceOnStore()
  const air = useAirStore()

  /** Stand-ins fade as one; one that is drawn over lies faint under what is drawn. */
  function standInShare({ level: { id, standIn } }: PlacedLevel): number {
    if (standIn !== true) return 1
    const drawnOn = desk.selectedLevel?.carrier
    const isUnder = (desk.view === 'draw' || desk.tool === 'pen') && drawnOn?.kind === 'level' && drawnOn.levelId === id
    return desk.lens.standIns * (isUnder ? UNDER_SHARE : 1)
  }

  /** A hidden solo level is still hidden; with none left, all show. Playing, levels left out of playback are not there. */
  const soloDimming = (placed: PlacedLevel): number => {
    if (desk.playing && timing.isMuted(desk.takeId, placed.level.id)) return 0
    if (faceOn.leavesOut(placed)) return 0
    return pen.solo.length === 0 || pen.solo.includes(placed.level.id) ? standInShare(placed) : 0
  }

  function silhouette(stage: StageFrame, view: ViewBox): Composition {
    const figures = stage.levels.some((placed) => placed.level.figure === true)
    return art.composeFrame(stage, view, false, (placed) => soloDimming(placed) * (figures ? Number(placed.level.figure === true) : Number(placed.level.id === desk.selectedLevelId)), () => SILHOUETTE, CLEAR)
  }

  /** Ghosts of the panels around, of the selected level or of all that were drawn. */
  function ghosts(stage: StageFrame, view: ViewBox): ComposedLevel[] {
    const take = desk.take
    const { on, all, halfway } = pen.ghosts
    if (take === null || (!on && !halfway)) return []
    const panels = placedPanels(take)
    const shown = new Set<string>()
    for (const placed of stage.levels) if (placed.drawingId !== null) shown.add(placed.drawingId)
    const wanted = stage.levels.filter((placed) => placed.copy === 0 && placed.level.kind !== 'reference' && (all || placed.level.id === desk.selectedLevelId) && soloDimming(placed) > 0)
    const found: ComposedLevel[] = []
    // A level that is exposed inside panels goes by its exposures, all others by panels.
    const isExposed = ({ level: { id } }: PlacedLevel) => exposuresOf(take, id).some(({ cell }) => cell.offsetFrames !== undefined)
    const put = (placed: PlacedLevel, drawingId: string, drawing: Drawing, strength: number, side: 'before' | 'after') => {
      const ghost = composeLevel(stage, { ...placed, drawingId, pictureIndex: null }, drawingId, drawing, strength, { kind: 'ghost', side }, view, art.library())
      if (ghost !== null) found.push(ghost)
    }
    for (const placed of wanted.filter(isExposed)) {
      const exposures = exposuresOf(take, placed.level.id)
      const at = exposures.findLastIndex(({ frame }) => frame <= stage.frame)
      for (const { drawingId, side, strength } of ghostsAround(exposures.map(({ cell }) => cell), at, pen.ghosts).reverse()) {
        const drawing = film.drawingOf(drawingId)
        if (drawing !== null) put(placed, drawingId, drawing, strength, side)
      }
    }
    for (const plan of plannedGhosts(stage, panels.length, pen.ghosts).reverse()) {
      for (const placed of wanted) {
        if (isExposed(placed)) continue
        const cell = shownCell(take, placed.level, plan.panelIndex)
        const drawing = cell === null ? null : film.drawingOf(cell.drawingId)
        // What is held shows already, and a drawing is the ghost of its nearest panel only.
        if (cell === null || drawing === null || shown.has(cell.drawingId)) continue
        shown.add(cell.drawingId)
        put(placed, cell.drawingId, drawing, plan.strength, plan.side)
      }
    }
    return found.reverse()
  }

  /** The level in hand as it was and will be, every so many frames around this one, as this frame's lens sees it there. */
  function motionGhosts(stage: StageFrame, view: ViewBox): ComposedLevel[] {
    const [takeStage, level, every] = [desk.stage, desk.selectedLevel, levelTool.ghostsEvery]
    if (desk.tool !== 'level' || desk.playing || every < 1 || takeStage === null || level === null) return []
    const found: ComposedLevel[] = []
    const standAt = (frame: number) => takeStage.seen(frame, stage.pose).standOf(level.id)
    const isSame = (a: Stand, b: Stand) => a.size === b.size && (['place', 'right', 'up'] as const).every((name) => (['x', 'y', 'depth'] as const).every((axis) => Math.abs(a[name][axis] - b[name][axis]) < 1e-9))
    const here = standAt(stage.frame)
    for (let step = MOTION_GHOSTS; step >= 1; step--) {
      for (const side of ['before', 'after'] as const) {
        const frame = stage.frame + (side === 'before' ? -1 : 1) * step * every
        if (frame < 0 || frame >= takeStage.lengthFrames) continue
        if (isSame(standAt(frame), here)) continue
        const placed = placedLevel(takeStage.withPose(frame, stage.pose), level.id)
        const drawing = placed === null || placed.drawingId === null ? null : film.drawingOf(placed.drawingId)
        if (placed === null || placed.drawingId === null || drawing === null) continue
        const ghost = composeLevel(stage, placed, placed.drawingId, drawing, GHOST_STRENGTH * (1 - (step - 1) / (MOTION_GHOSTS + 1)), { kind: 'ghost', side }, view, art.library())
        if (ghost !== null) found.push(ghost)
      }
    }
    return found
  }

  /** The frame that is flipped to, as it is seen through this one's lens. */
  const flipped = (stage: StageFrame, frame: number): StageFrame => desk.stage?.withPose(frame, stage.pose) ?? stage

  /** Drawing is done in clear air. */
  const isDrawing = () => !desk.playing && (desk.view === 'draw' || desk.tool === 'pen')
  /** The picture alone, with what is solo. */
  function picture(stage: StageFrame, view: ViewBox): Composition {
    const range = isDrawing() ? null : air.shownRange
    if (range !== null) return art.composeFrame(stage, view, false, soloDimming, () => SILHOUETTE, { kind: 'depth', range })
    return art.composeFrame(stage, view, true, soloDimming, undefined, isDrawing() ? CLEAR : undefined)
  }

  /** `onPaper`: for drawing, with the other levels faded; else the picture, with ghosts where they are wanted. */
  function sheet(stage: StageFrame, view: ViewBox, onPaper: boolean, withGhosts: boolean): Composition {
    if (pen.silhouette) return silhouette(stage, view)
    if (pen.flipFrame !== null) return picture(flipped(stage, pen.flipFrame), view)
    return drawingSheet(picture(stage, view), desk.selectedLevelId, onPaper ? (faceOn.isFaceOn && faceOn.openIds === null ? Math.max(pen.fade, FACE_ON_FADE) : pen.fade) : 0, [...(withGhosts ? ghosts(stage, view) : []), ...motionGhosts(stage, view)])
  }

  /** What a sheet is made of beside the stage and the art; a view watches it. */
  const moods = () => [desk.lens.standIns, air.shownRange, isDrawing(), desk.view, desk.tool === 'pen', faceOn.mode, pen.silhouette, pen.flipFrame, pen.fade, pen.solo, desk.selectedLevelId, desk.tool === 'level' ? levelTool.ghostsEvery : 0, ...Object.values(pen.ghosts)]

  return { sheet, picture, moods }
}
