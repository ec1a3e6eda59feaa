import { meetPlane, project, snappedToSet } from '@rubato/core/camera'
import { into, planeOf, pointOnPlane, roomBehind, roomOfCorner, roomWalls, seenOutline, turnOf, turnedInto, wallCorners, wallOnLine, type Room, type RoomWall, type WallName } from '@rubato/core/depth'
import { carriageIn, placedPanels } from '@rubato/core/document'
import { standFlats, type NewFlat } from '@rubato/core/edits'
import { flatArt } from '@rubato/core/ink'
import { cornersOf, rectangleAround, type Point3 } from '@rubato/core/geometry'
import { placedLevel } from '@rubato/core/stage'
import { computed, shallowRef, watch } from 'vue'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { useLevels } from '~/composables/levels/useLevels'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useWallsStore, type WallMode } from '~/stores/walls'

interface Surface {
  readonly toFrame: (event: { clientX: number; clientY: number }) => { readonly u: number; readonly v: number }
  readonly toPane: (u: number, v: number) => { readonly x: number; readonly y: number }
}
type Made = Pick<RoomWall, 'stand' | 'width' | 'height' | 'pivot' | 'turn'>

const NAMES: Record<WallName, string> = { floor: 'Floor', far: 'Far wall', left: 'Left wall', right: 'Right wall', near: 'Near wall', ceiling: 'Ceiling' }
/** Each side a little lighter or darker, so that edges are seen before anything is drawn. */
const TONES: Record<WallName, string> = { floor: '#cfc9bc', far: '#ece8de', left: '#ddd8cc', right: '#e3ded3', near: '#e8e4da', ceiling: '#f4f1e9' }
const ALL: readonly WallName[] = ['floor', 'far', 'left', 'right', 'near', 'ceiling']
const OF_MODE: Record<Exclude<WallMode, 'wall'>, readonly WallName[]> = { room: ALL, corner: ['floor', 'far', 'left'], far: ['far'], floor: ['floor'], ceiling: ['ceiling'] }
const LABELS: Record<WallMode, string> = { room: 'build a room', corner: 'build a corner', wall: 'stand a wall', far: 'stand a far wall', floor: 'lay a floor', ceiling: 'hang a ceiling' }
/** So many times as far off as the picture plane, where none is said; and no nearer than this, fw. */
const FAR_TIMES = 1.75
const LEAST_FAR = 0.5
const CATCH_PX = 11
/** Corners no farther off the ground than this stand on it, fw. */
const OFF_GROUND_FW = 0.02
/** Smaller than this in the picture it was a click, fw. */
const LEAST_SEEN = 0.01
const words = (value: number) => String(Number(value.toFixed(2)))

/** Walls, floors and whole rooms, drawn in the lens view. */
export function useWalls({ toFrame, toPane }: Surface) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const walls = useWallsStore()
  const levels = useLevels()
  const fields = useLevelFields()
  const drawn = shallowRef<readonly Made[]>([])
  const told = shallowRef<string | null>(null)

  const farOff = computed(() => walls.farFw ?? Math.max(LEAST_FAR, -(desk.pose?.depth ?? -1)) * FAR_TIMES)
  const lens = () => desk.stageFrame!.lens

  /** The place on level ground so high under a point of the picture; null over the horizon. */
  function groundAt(at: { readonly u: number; readonly v: number }, y: number): Point3 | null {
    const met = meetPlane(lens(), at.u, at.v, { origin: { x: 0, y, depth: 0 }, axisX: { x: 1, y: 0, depth: 0 }, axisY: { x: 0, y: 0, depth: 1 } })
    return met === null || Math.hypot(met.x, met.y) > 1000 ? null : { x: met.x, y, depth: met.y }
  }

  /** The corner of a level's art that lies under the pointer, near the ground. */
  function cornerNear(event: { clientX: number; clientY: number }): { readonly levelId: string; readonly at: Point3 } | null {
    const { u, v } = toFrame(event)
    const pointer = toPane(u, v)
    let best: { levelId: string; at: Point3; off: number } | null = null
    for (const { level, plane, copy } of desk.stageFrame!.levels) {
      if (level.kind === 'reference' || copy !== 0) continue
      for (const corner of cornersOf(fields.boundsOf(level.id))) {
        const at = pointOnPlane(plane, corner)
        const seen = project(lens(), at)
        if (seen.z <= 0 || Math.abs(at.y - desk.lens.groundY) > OFF_GROUND_FW) continue
        const px = toPane(seen.u, seen.v)
        const off = Math.hypot(px.x - pointer.x, px.y - pointer.y)
        if (off < CATCH_PX && off < (best?.off ?? Infinity)) best = { levelId: level.id, at: { ...at, y: desk.lens.groundY }, off }
      }
    }
    return best
  }

  const onSky = () => film.refuse(`That is over the horizon, where there is no ground. Begin lower in the picture, or lower the ground (${words(desk.lens.groundY)} fw now).`)

  function onDown(event: PointerEvent) {
    if (desk.stageFrame === null || desk.placedPanel === null || desk.takeId === null) return
    if (film.lookingAt !== null) return film.refuse(`This is the version “${film.lookingAt.name}”, to look at. Bring it back to change it.`)
    const { mode } = walls
    if (mode === 'room' || mode === 'far') return drawRectangle(event, mode)
    if (mode === 'floor' || mode === 'ceiling') return drawOnGround(event, mode)
    return drawAlong(event)
  }

  /** `shows`: what a drag would make so far. */
  function follow(event: PointerEvent, shows: (step: PointerEvent) => { readonly made: readonly Made[]; readonly words: string } | null, done: (step: PointerEvent) => void) {
    const over = () => {
      drawn.value = []
      told.value = null
    }
    followDrag(event, {
      move: ({ event: step }) => {
        const now = shows(step)
        drawn.value = now?.made ?? []
        told.value = now?.words ?? null
      },
      end: ({ event: step }) => (over(), done(step)),
      cancel: over,
      click: over,
    })
  }

  function drawRectangle(event: PointerEvent, mode: 'room' | 'far') {
    const a = toFrame(event)
    const roomAt = (step: PointerEvent): Room | null => {
      const b = toFrame(step)
      const seen = rectangleAround([{ x: a.u, y: a.v }, { x: b.u, y: b.v }])!
      return seen.right - seen.left < LEAST_SEEN || seen.top - seen.bottom < LEAST_SEEN ? null : roomBehind(lens(), seen, farOff.value)
    }
    const some = (room: Room) => roomWalls(room).filter(({ name }) => OF_MODE[mode].includes(name) && name !== 'near')
    follow(
      event,
      (step) => {
        const room = roomAt(step)
        return room && { made: some(room), words: `${words(room.width)} × ${words(room.height)} fw${mode === 'room' ? `, ${words(room.length)} deep` : ''}; the far wall ${words(farOff.value)} fw off` }
      },
      (step) => {
        const room = roomAt(step)
        if (room === null) film.refuse('The rectangle is too small. Draw the far wall as it is to be seen.')
        else build(room, mode)
      },
    )
  }

  /** A floor or a ceiling from corner to corner, along the camera's pan. */
  function drawOnGround(event: PointerEvent, mode: 'floor' | 'ceiling') {
    const y = desk.lens.groundY + (mode === 'ceiling' ? walls.height : 0)
    const from = groundAt(toFrame(event), y)
    if (from === null) return mode === 'floor' ? onSky() : film.refuse('At this height there is no ceiling there. Begin higher in the picture, or make it lower.')
    const roomAt = (step: PointerEvent): Room | null => {
      const to = groundAt(toFrame(step), y)
      if (to === null) return null
      const { forward } = lens()
      const pan = Math.atan2(forward.x, forward.depth)
      const [dx, dd] = [to.x - from.x, to.depth - from.depth]
      const [width, length] = [Math.abs(dx * Math.cos(pan) - dd * Math.sin(pan)), Math.abs(dx * Math.sin(pan) + dd * Math.cos(pan))]
      const floor = { x: (from.x + to.x) / 2, y: desk.lens.groundY, depth: (from.depth + to.depth) / 2 }
      return width < 1e-3 || length < 1e-3 ? null : { floor, panDegrees: (pan * 180) / Math.PI, width, length, height: walls.height }
    }
    follow(
      event,
      (step) => {
        const room = roomAt(step)
        return room && { made: roomWalls(room).filter(({ name }) => name === mode), words: `${words(room.width)} × ${words(room.length)} fw` }
      },
      (step) => {
        const room = roomAt(step)
        if (room === null) onSky()
        else build(room, mode)
      },
    )
  }

  /** Along the ground: a wall, or one edge of a corner after the other. */
  function drawAlong(event: PointerEvent) {
    const first = walls.mode === 'corner' ? walls.firstEdge : null
    const caught = first === null ? cornerNear(event) : null
    const from = first?.corner ?? caught?.at ?? groundAt(toFrame(event), desk.lens.groundY)
    if (from === null) return onSky()
    const seenFrom = project(lens(), from)
    /** Shift or Alt: as the hand has it, not along the set's directions. */
    const endAt = (step: PointerEvent): Point3 | null => {
      const at = toFrame(step)
      const near = first === null ? cornerNear(step) : null
      if (near !== null) return near.at
      const snapped = first !== null || step.shiftKey || step.altKey ? null : snappedToSet(lens(), { x: seenFrom.u, y: seenFrom.v }, { x: at.u, y: at.v })
      return groundAt(snapped === null || snapped.along === 'y' ? at : { u: snapped.to.x, v: snapped.to.y }, desk.lens.groundY)
    }
    const wallTo = (end: Point3 | null) => (end === null ? null : wallOnLine(from, end, walls.height, lens().position))
    const roomTo = (end: Point3 | null) => (end === null || first === null ? null : roomOfCorner(first.corner, first.end, end, walls.height))
    follow(
      event,
      (step) => {
        const end = endAt(step)
        const room = roomTo(end)
        if (room !== null) return { made: roomWalls(room).filter(({ name }) => OF_MODE.corner.includes(name)), words: `${words(room.width)} × ${words(room.length)} fw` }
        const wall = first === null ? wallTo(end) : null
        return wall && { made: [wall], words: `${words(wall.width)} fw long` }
      },
      (step) => {
        const end = endAt(step)
        if (end === null) return onSky()
        if (walls.mode === 'wall') return standOne(wallTo(end), caught?.levelId ?? cornerNear(step)?.levelId ?? null, caught?.at ?? end)
        if (first === null) {
          if (wallTo(end) !== null) walls.firstEdge = { corner: from, end }
          return
        }
        const room = roomTo(end)
        walls.firstEdge = null
        if (room === null) film.refuse('The second edge lies along the first. Draw it away from that.')
        else build(room, 'corner')
      },
    )
  }

  const perform = (label: string, made: readonly NewFlat[], group: string | null) => {
    const [takeId, panelId] = [desk.takeId!, placedPanels(desk.take!)[0]!.panel.id]
    const done = film.perform(label, (f) => standFlats(f.takes[takeId]!, takeId, panelId, made, group, () => crypto.randomUUID()))
    if (done) desk.chooseLevel(made[0]!.id)
    return done
  }

  function build(room: Room, mode: Exclude<WallMode, 'wall'>) {
    const wanted = roomWalls(room).filter(({ name }) => OF_MODE[mode].includes(name))
    const ids = new Map(wanted.map(({ name }) => [name, crypto.randomUUID()]))
    const group = wanted.length > 1 ? levels.freshName(mode === 'room' ? 'Room' : 'Corner', new Set(desk.levels.map((each) => each.group ?? ''))) : null
    const taken = new Set(desk.levels.map(({ name }) => name))
    const called = (name: string) => (taken.has(name) ? levels.freshName(name) : name)
    const made = wanted.map(({ name, on, width, height, pivot, place, turn, stand }): NewFlat => {
      const hangs = on !== null && ids.has(on)
      // The camera before a room would see nothing but its near wall.
      return {
        id: ids.get(name)!,
        drawingId: crypto.randomUUID(),
        name: called(NAMES[name]),
        art: flatArt(width, height, TONES[name]),
        visible: name !== 'near',
        on: hangs ? ids.get(on)! : null,
        width,
        height,
        pivot,
        place: hangs ? place : stand.place,
        turn: hangs ? turn : turnOf(stand),
      }
    })
    // What is drawn next stands on the same floor.
    if (perform(LABELS[mode], made, group) && mode !== 'far') desk.lens.groundY = Number(room.floor.y.toFixed(6))
  }

  /** A wall that begins or ends at another is hinged to it there. */
  function standOne(wall: Made | null, besideId: string | null, hinge: Point3) {
    if (wall === null) return film.refuse('The line is too short. Draw it along the ground, as long as the wall is to be.')
    const beside = besideId === null ? null : placedLevel(desk.stageFrame, besideId)
    const own = { id: crypto.randomUUID(), drawingId: crypto.randomUUID(), name: levels.freshName('Wall'), visible: true }
    if (beside === null) {
      const { stand, ...rest } = wall
      return void perform(LABELS.wall, [{ ...own, ...rest, place: stand.place, on: null, art: flatArt(rest.width, rest.height, TONES.left) }], null)
    }
    const [leftFoot, rightFoot] = wallCorners(wall)
    const off = (foot: Point3) => Math.hypot(foot.x - hinge.x, foot.depth - hinge.depth)
    const isLeft = off(leftFoot!) <= off(rightFoot!)
    const seen = desk.stage!.seen(desk.shotFrame, desk.pose ?? undefined)
    const carriage = carriageIn(desk.take!, beside.level, seen, { kind: 'level', levelId: beside.level.id, turn: true, size: true })
    // Its size is its carrier's too.
    const [width, height] = [wall.width / carriage.size, wall.height / carriage.size]
    const made: NewFlat = {
      ...own,
      on: beside.level.id,
      width,
      height,
      art: flatArt(width, height, TONES.right),
      pivot: { x: ((isLeft ? -1 : 1) * width) / 2, y: -height / 2 },
      place: into(carriage, isLeft ? leftFoot! : rightFoot!),
      turn: turnOf(turnedInto(carriage, wall.stand)),
    }
    perform(`${LABELS.wall} on ${beside.level.name}`, [made], beside.level.group ?? null)
  }

  function giveUp(): boolean {
    if (walls.firstEdge === null) return false
    walls.firstEdge = null
    return true
  }
  watch(() => [desk.tool, walls.mode, desk.shotId, desk.playhead], giveUp)

  /** The walls that are being drawn, as lines in the view. */
  const lines = computed(() => {
    const frame = desk.stageFrame
    if (frame === null) return ''
    const path = (points: readonly { readonly x: number; readonly y: number }[], closed: boolean) =>
      `M${points.map(({ x: u, y: v }) => ((at) => `${at.x.toFixed(1)} ${at.y.toFixed(1)}`)(toPane(u, v))).join('L')}${closed ? 'Z' : ''}`
    const outlines = drawn.value.flatMap(({ stand, width, height, pivot }) => {
      const outline = seenOutline(frame.lens, planeOf(stand, pivot), { left: -width / 2, bottom: -height / 2, right: width / 2, top: height / 2 })
      return outline === null ? [] : [path(outline, true)]
    })
    const edge = walls.firstEdge
    const ends = edge === null ? [] : [edge.corner, edge.end].map((point) => project(frame.lens, point))
    return [...outlines, ...(ends.length === 2 && ends.every(({ z }) => z > 0) ? [path(ends.map(({ u, v }) => ({ x: u, y: v })), false)] : [])].join('')
  })
  const corner = computed(() => {
    const [frame, edge] = [desk.stageFrame, walls.firstEdge]
    if (frame === null || edge === null) return null
    const { u, v, z } = project(frame.lens, edge.corner)
    return z > 0 ? toPane(u, v) : null
  })

  return { onDown, lines, corner, told, farOff, giveUp }
}
