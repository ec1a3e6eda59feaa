import { drawingBounds } from '@rubato/core/ink'
import { frameThis, lensOf, project, unproject, type CameraPose } from '@rubato/core/camera'
import { planeOf, pointOnPlane, turnOf } from '@rubato/core/depth'
import { isSetLevel, pieceOf, shownAt, type Level } from '@rubato/core/document'
import { keyFraming } from '@rubato/core/edits'
import { cornersOf, type Point3 } from '@rubato/core/geometry'
import { useLocalStorage } from '@vueuse/core'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

export interface FrameThisSettings {
  /** Part of the frame left free on each side. */
  margin: number
  by: 'truck' | 'lens'
}

/** Brings what is selected, or a drawn region, into view; keyed when asked. */
export function useFrameThis() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const settings = useLocalStorage<FrameThisSettings>('rubato.frameThis', { margin: 0.12, by: 'truck' }, { mergeDefaults: true })

  /** The corners of what is drawn on a level now; its pivot alone where nothing is. */
  function cornersOfLevel(level: Level): readonly Point3[] {
    const cell = desk.take === null ? null : shownAt(desk.take, level.id, desk.shotFrame)
    const drawing = cell === null ? null : film.drawingOf(cell.drawingId)
    const bounds = drawing === null ? null : drawingBounds(drawing)
    const plane = planeOf(desk.standOf(level.id), level.pivot)
    return bounds === null ? [] : cornersOf(bounds).map((corner) => pointOnPlane(plane, corner))
  }

  /** The pose that frames the chosen levels; null, with the reason told, where there is none. */
  function poseForChosen(): CameraPose | null {
    const [pose, optics] = [desk.pose, film.optics]
    const levels = desk.levels.filter((level) => desk.chosenLevelIds.includes(level.id))
    if (pose === null || optics === null) return null
    if (levels.length === 0) {
      film.refuse('Nothing is selected to be framed. Choose a level in the depth rack (Ctrl for several), or draw a region (Shift O).')
      return null
    }
    // Of a set, what its pieces show.
    const drawn = levels.flatMap((level) => (isSetLevel(level) ? Object.values(desk.take?.levels ?? {}).filter(({ id, visible }) => visible && pieceOf(id)?.setLevelId === level.id) : [level]))
    const points = drawn.flatMap(cornersOfLevel)
    if (points.length === 0) {
      film.refuse(`${levels.length === 1 ? `Nothing is drawn on ${levels[0]!.name}` : 'Nothing is drawn on these levels'} in this panel, so there is nothing to frame.`)
      return null
    }
    const [only] = levels
    // One that stands turned in the set is looked at square on; one that turns to the camera would only turn along.
    const turn = levels.length === 1 && only!.facing === undefined ? turnOf(desk.standOf(only!.id)) : null
    const turned = turn !== null && [turn.panDegrees, turn.tiltDegrees, turn.rollDegrees].some((degrees) => Math.abs(degrees) > 1e-9)
    return solved(points, turned ? turn : pose, settings.value.margin)
  }

  function solved(points: readonly Point3[], turn: Pick<CameraPose, 'panDegrees' | 'tiltDegrees' | 'rollDegrees'>, margin: number): CameraPose | null {
    const framed = frameThis(points, turn, desk.pose!, film.optics!, margin, settings.value.by)
    if (framed.ok) return framed.pose
    film.refuse(framed.code === 'no-such-lens' ? `From here it would take a lens of ${framed.focalLengthMm < 10 ? framed.focalLengthMm.toFixed(1) : Math.round(framed.focalLengthMm)} mm. Frame it by truck instead, or come nearer first.` : 'There is nothing to frame.')
    return null
  }

  /** Moves the camera onto it: as any camera change at this frame is kept, or only looked at. */
  function look(pose: CameraPose | null, label = 'frame this', counters = false) {
    if (pose === null) return
    const camera = desk.beginCamera(label, counters)
    camera.update(pose)
    camera.end()
  }

  function keyAt(frame: number, pose: CameraPose, label: string, gesture: string | null = null): boolean {
    const [takeId, cameraId] = [desk.takeId, desk.cameraAtWorkId]
    if (takeId === null || cameraId === null) return false
    const framed = desk.framedAs(pose, frame)
    const done = film.perform(label, (f) => keyFraming(f.takes[takeId]!, takeId, cameraId, frame, framed, crypto.randomUUID()), gesture)
    if (done) desk.trial = null
    else desk.nudge++
    return done
  }

  function frameChosen() {
    look(poseForChosen())
  }
  function keyChosen() {
    const pose = poseForChosen()
    if (pose !== null) keyAt(desk.shotFrame, pose, 'frame this and key')
  }

  /** The second press of two: what is framed now stays keyed here, and the camera arrives on what is chosen at the panel's end. */
  function travelToChosen() {
    const [pose, now, placed, shot] = [poseForChosen(), desk.pose, desk.placedPanel, desk.placedShot]
    if (pose === null || now === null || placed === null || shot === null) return
    const panelEnd = placed.startFrame + placed.panel.lengthFrames - 1
    const to = desk.shotFrame < panelEnd ? panelEnd : shot.lengthFrames - 1
    if (to <= desk.shotFrame) return film.refuse('The playhead stands on the shot’s last frame, so there is no time to travel. Put it earlier, then try again.')
    const gesture = `travel:${crypto.randomUUID()}`
    if (desk.framingHere === null && !keyAt(desk.shotFrame, now, 'travel to this', gesture)) return
    if (keyAt(to, pose, 'travel to this', gesture)) desk.goTo(shot.startFrame + to)
  }

  /** A region drawn in the lens view: from one corner to the other, u and v, as far off as `reach`. */
  function frameRegion(a: { u: number; v: number }, b: { u: number; v: number }, reach: number) {
    const [pose, optics] = [desk.pose, film.optics]
    if (pose === null || optics === null || Math.abs(a.u - b.u) < 0.005 || Math.abs(a.v - b.v) < 0.005) return
    const lens = lensOf(pose, optics)
    const points = [[a.u, a.v], [b.u, a.v], [b.u, b.v], [a.u, b.v]].map(([u, v]) => unproject(lens, u!, v!, reach))
    look(solved(points, pose, 0), 'frame the region')
  }

  /** The point that a move is about: the selected level's middle, or what the axis meets at the picture plane. */
  function subjectPoint(): Point3 {
    const level = desk.selectedLevel
    const corners = level === null ? [] : cornersOfLevel(level)
    if (level !== null) {
      if (corners.length === 0) return desk.placeOf(level.id)
      const sum = corners.reduce((a, b) => ({ x: a.x + b.x, y: a.y + b.y, depth: a.depth + b.depth }))
      return { x: sum.x / corners.length, y: sum.y / corners.length, depth: sum.depth / corners.length }
    }
    const pose = desk.pose!
    const lens = lensOf(pose, film.optics!)
    const z = -pose.depth / Math.max(0.05, lens.forward.depth)
    return unproject(lens, 0, 0, z > 0.05 ? z : Math.max(0.5, project(lens, { x: pose.x, y: pose.y, depth: 0 }).z))
  }

  return { settings, frameChosen, keyChosen, travelToChosen, frameRegion, subjectPoint, keyAt, look }
}
