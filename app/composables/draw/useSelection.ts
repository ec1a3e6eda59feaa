import { pointOnPlane, type LevelPlane } from '@rubato/core/depth'
import { meetPlane, project, type Lens } from '@rubato/core/camera'
import type { Mark } from '@rubato/core/document'
import { addMarks, carryMarks, recolourMarks, removeMarks, type Made, type NewMark } from '@rubato/core/edits'
import { cornersOf, grown, rectangleAround, union, type Point2, type Rectangle } from '@rubato/core/geometry'
import { about, carryingOf, carryMark, markAt, marksInside, moved, type Affine, markBounds, type Carrying } from '@rubato/core/ink'
import { computed, ref, watch } from 'vue'
import type { Surface } from '~/composables/draw/surface'
import type { Ground, usePen } from '~/composables/draw/usePen'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFaceOnStore } from '~/stores/faceOn'
import { useFilmStore } from '~/stores/film'
import { usePenStore } from '~/stores/pen'

/** Which of a box's eight handles: −1, 0, 1 along its width and its height (up). */
export interface Handle {
  readonly x: -1 | 0 | 1
  readonly y: -1 | 0 | 1
}
const HANDLES: readonly Handle[] = [
  { x: -1, y: -1 }, { x: 0, y: -1 }, { x: 1, y: -1 }, { x: 1, y: 0 }, { x: 1, y: 1 }, { x: 0, y: 1 }, { x: -1, y: 1 }, { x: -1, y: 0 },
]
const REACH_PX = 5
const KNOB_PX = 26
const SHOWN_WIDER_PX = 8
/** On shorter sides there is no handle in the middle. */
const ROOM_FOR_HANDLE_PX = 40
/** A pasted copy stands this far from what it was copied from. */
const BESIDE_FW = 0.02
const NUDGE_FW = 0.001
/** Whatever they are: what erases and what is for print alone as well. */
const boundsOf = (marks: readonly Mark[]) => marks.reduce<Rectangle | null>((all, mark) => union(all, markBounds(mark)), null)
const many = (count: number) => (count === 1 ? 'a mark' : `${count} marks`)

/** Marks chosen by rectangle, lasso or click on the selected level, and what is done with them. */
export function useSelection(surface: Surface, pen: ReturnType<typeof usePen>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const ink = usePenStore()
  const faceOn = useFaceOnStore()
  /** The way of the pointer while it selects, CSS px of the view. */
  const track = ref<readonly Point2[]>([])
  /** What a drag has come to, beside the pointer. */
  const live = ref<{ readonly text: string; readonly at: Point2 } | null>(null)

  const selected = computed<readonly Mark[]>(() => {
    if (ink.selectedMarks.length === 0) return []
    const wanted = new Set(ink.selectedMarks)
    return pen.drawingHere()?.marks.filter((mark) => wanted.has(mark.id)) ?? []
  })
  const box = computed<Rectangle | null>(() => (selected.value.length === 0 ? null : boundsOf(selected.value)))

  watch(() => [desk.selectedLevelId, desk.shotId, desk.placedPanel?.panel.id], () => (ink.selectedMarks = []))

  /** The box, its handles and its knob in the view. */
  const frame = computed(() => {
    const ground = box.value === null || faceOn.frame === null ? null : pen.ground(true)
    if (box.value === null || ground === null) return null
    // Shown a little wider, so that its handles leave what is selected free.
    const rectangle = grown(box.value, SHOWN_WIDER_PX / surface.frameWidth() / ground.grows)
    const at = (x: number, y: number) => pen.paneOf(ground, x, y)
    const px = surface.frameWidth() * ground.grows
    const [wide, high] = [(rectangle.right - rectangle.left) * px, (rectangle.top - rectangle.bottom) * px]
    const middle = at((rectangle.left + rectangle.right) / 2, (rectangle.bottom + rectangle.top) / 2)
    const top = at((rectangle.left + rectangle.right) / 2, rectangle.top)
    const away = Math.hypot(top.x - middle.x, top.y - middle.y) || 1
    return {
      corners: cornersOf(rectangle).map(({ x, y }) => at(x, y)),
      handles: HANDLES.filter(({ x, y }) => (x !== 0 || wide > ROOM_FOR_HANDLE_PX) && (y !== 0 || high > ROOM_FOR_HANDLE_PX)).map((handle) => ({ handle, at: at(...placeOn(rectangle, handle)) })),
      top,
      knob: { x: top.x + ((top.x - middle.x) / away) * KNOB_PX, y: top.y + ((top.y - middle.y) / away) * KNOB_PX },
    }
  })

  function placeOn({ left, right, bottom, top }: Rectangle, { x, y }: Handle): [number, number] {
    return [(left + right) / 2 + ((right - left) / 2) * x, (bottom + top) / 2 + ((top - bottom) / 2) * y]
  }

  const localOf = (event: PointerEvent): Point2 => {
    const pane = surface.pane()!.getBoundingClientRect()
    return { x: event.clientX - pane.left, y: event.clientY - pane.top }
  }

  function choose(ids: readonly string[], event: { readonly shiftKey: boolean; readonly altKey: boolean }) {
    const before = new Set(ink.selectedMarks)
    for (const id of ids) if (event.altKey) before.delete(id)
    else before.add(id)
    ink.selectedMarks = event.shiftKey || event.altKey ? [...before] : [...ids]
  }

  /** Begins to select: what is dragged around is caught, what is clicked is taken. Shift adds, Alt takes away. */
  function begin(event: PointerEvent) {
    const ground = pen.ground()
    if (ground === null) return
    const marks = () => pen.drawingHere()?.marks ?? []
    const first = localOf(event)
    let last = event
    followDrag(event, {
      move: ({ event: step }) => {
        last = step
        const at = localOf(step)
        track.value = ink.tool === 'lasso' ? [...(track.value.length === 0 ? [first] : track.value), at] : [first, { x: at.x, y: first.y }, at, { x: first.x, y: at.y }]
      },
      end: () => {
        const pane = surface.pane()!.getBoundingClientRect()
        const polygon = track.value.flatMap(({ x, y }) => pen.artAt(ground, { clientX: x + pane.left, clientY: y + pane.top }) ?? [])
        track.value = []
        choose(marksInside(marks(), polygon).map((mark) => mark.id), last)
      },
      cancel: () => (track.value = []),
      click: (up) => {
        const at = pen.artAt(ground, up)
        const found = at === null ? null : markAt(marks(), at, (REACH_PX / surface.frameWidth()) / ground.grows)
        if (found !== null) choose([found.id], up)
        else if (!up.shiftKey && !up.altKey) ink.selectedMarks = []
      },
    })
  }

  /** Drags the selection: `carry` says what to do for the pointer's place on the level. */
  function drag(event: PointerEvent, label: string, carry: (from: Point2, to: Point2, step: PointerEvent) => { readonly affine: Affine; readonly text: string }) {
    event.stopPropagation()
    const ground = pen.ground()
    const from = ground === null ? null : pen.artAt(ground, event)
    if (ground === null || from === null) return
    const ids = ink.selectedMarks
    const place = pen.placeOf(ground)
    let gesture: Gesture | null = null
    const over = () => (live.value = null)
    followDrag(event, {
      begin: () => (gesture = film.beginGesture(`${label} ${many(ids.length)} on ${ground.level.name}`)),
      move: ({ event: step }) => {
        const to = pen.artAt(ground, step)
        if (to === null) return
        const { affine, text } = carry(from, to, step)
        gesture!.update((f) => carryMarks(place(f), ids, carryingOf(affine)))
        const at = localOf(step)
        live.value = { text, at: { x: at.x + 14, y: at.y - 10 } }
      },
      end: () => (over(), gesture?.commit()),
      cancel: () => (over(), gesture?.abandon()),
    })
  }

  const inPx = (fw: number) => `${Math.round(fw * (film.project?.widthPx ?? 0) * 10) / 10}`

  function dragMove(event: PointerEvent) {
    const grows = pen.ground(true)?.grows ?? 1
    drag(event, 'move', (from, to, step) => {
      let [dx, dy] = [to.x - from.x, to.y - from.y]
      if (step.shiftKey) [dx, dy] = Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy]
      return { affine: moved(dx, dy), text: `${inPx(dx * grows)}, ${inPx(dy * grows)} px` }
    })
  }

  /** Corners keep proportions (Shift: not), sides scale one way; Alt scales about the middle. */
  function dragHandle(event: PointerEvent, handle: Handle) {
    const rectangle = box.value
    if (rectangle === null) return
    const [hx, hy] = placeOn(rectangle, handle)
    drag(event, 'scale', (from, to, step) => {
      const [ax, ay] = placeOn(rectangle, step.altKey ? { x: 0, y: 0 } : ({ x: -handle.x, y: -handle.y } as Handle))
      const part = (now: number, was: number, anchor: number) => (Math.abs(was - anchor) < 1e-9 ? 1 : (now - anchor) / (was - anchor))
      let sx = handle.x === 0 ? 1 : part(hx + to.x - from.x, hx, ax)
      let sy = handle.y === 0 ? 1 : part(hy + to.y - from.y, hy, ay)
      if (handle.x !== 0 && handle.y !== 0 && !step.shiftKey) sx = sy = Math.abs(sx - 1) > Math.abs(sy - 1) ? sx : sy
      const least = (s: number) => (Math.abs(s) < 0.01 ? 0.01 * (s < 0 ? -1 : 1) : s)
      ;[sx, sy] = [least(sx), least(sy)]
      return { affine: about({ x: ax, y: ay }, sx, sy, 0), text: sx === sy ? `${Math.round(sx * 100)} %` : `${Math.round(sx * 100)} × ${Math.round(sy * 100)} %` }
    })
  }

  function dragKnob(event: PointerEvent) {
    const centre = middleOf()
    if (centre === null) return
    drag(event, 'turn', (from, to, step) => {
      const angle = (p: Point2) => (Math.atan2(p.y - centre.y, p.x - centre.x) * 180) / Math.PI
      let degrees = ((angle(to) - angle(from) + 540) % 360) - 180
      if (step.shiftKey) degrees = Math.round(degrees / 15) * 15
      return { affine: about(centre, 1, 1, degrees), text: `${Math.round(degrees * 10) / 10}°` }
    })
  }

  function middleOf(): Point2 | null {
    return box.value === null ? null : { x: (box.value.left + box.value.right) / 2, y: (box.value.bottom + box.value.top) / 2 }
  }

  /** Does something with the selection at once; tells where there is none. */
  function perform(label: string, make: (ground: Ground, ids: readonly string[]) => ((f: typeof film.film) => Made) | null, gesture: string | null = null): boolean {
    if (selected.value.length === 0) {
      film.refuse('Nothing is selected. Choose Select (A), then drag around what you mean or click it.')
      return false
    }
    const ground = pen.ground()
    if (ground === null) return false
    const made = make(ground, selected.value.map((mark) => mark.id))
    return made !== null && film.perform(`${label} ${many(selected.value.length)} on ${ground.level.name}`, made, gesture)
  }

  const carry = (label: string, affine: (centre: Point2) => Affine, gesture: string | null = null) =>
    perform(
      label,
      (ground, ids) => {
        const centre = middleOf()
        const place = pen.placeOf(ground)
        return centre === null ? null : (f) => carryMarks(place(f), ids, carryingOf(affine(centre)))
      },
      gesture,
    )

  function nudge(dx: number, dy: number, far: boolean) {
    const grows = pen.ground(true)?.grows ?? 1
    const step = (NUDGE_FW * (far ? 10 : 1)) / grows
    carry('nudge', () => moved(dx * step, dy * step), `nudge:${ink.selectedMarks.join()}`)
  }

  function remove() {
    const done = perform('delete', (ground, ids) => {
      const place = pen.placeOf(ground)
      return (f) => removeMarks(place(f), ids)
    })
    if (done) ink.selectedMarks = []
  }

  function recolour() {
    perform('tone of', (ground, ids) => {
      const place = pen.placeOf(ground)
      return (f) => recolourMarks(place(f), ids, ink.brush.colour, ink.brush.opacity)
    })
  }

  function copy(): boolean {
    const ground = pen.ground()
    if (ground === null || selected.value.length === 0) {
      if (ground !== null) film.refuse('Nothing is selected to copy. Choose Select (A), then drag around what you mean.')
      return false
    }
    ink.clipboard = { marks: selected.value, lens: ground.lens, plane: ground.plane, from: whereNow() }
    return true
  }

  const whereNow = () => `${desk.takeId}/${desk.placedPanel?.panel.id}/${desk.selectedLevelId}`

  function cut() {
    if (copy()) remove()
  }

  /** Puts down what was copied so that it is seen where it was, whatever the level's depth; a copy in its own place stands beside. */
  function paste() {
    const kept = ink.clipboard
    if (kept === null) return film.refuse('Nothing was copied yet. Select something and copy it first.')
    const ground = pen.ground()
    if (ground === null) return
    put(kept.marks, ground, kept.lens, kept.plane, kept.from === whereNow(), 'paste')
  }

  function duplicate() {
    const ground = pen.ground()
    if (ground === null || selected.value.length === 0) return film.refuse('Nothing is selected to duplicate. Choose Select (A), then drag around what you mean.')
    put(selected.value, ground, ground.lens, ground.plane, true, 'duplicate')
  }

  function put(marks: readonly Mark[], ground: Ground, lens: Lens, plane: LevelPlane, beside: boolean, label: string) {
    const carrying = between(marks, lens, plane, ground)
    if (carrying === null) return film.refuse(`What was copied can’t be seen on ${ground.level.name} from here.`)
    const aside = beside ? carryingOf(moved(BESIDE_FW / ground.grows, -BESIDE_FW / ground.grows)) : null
    const copies: NewMark[] = marks.map((mark) => {
      const there = carryMark(mark, carrying)
      const { order: _order, ...rest } = aside === null ? there : carryMark(there, aside)
      return { ...rest, id: crypto.randomUUID() } as NewMark
    })
    const place = pen.placeOf(ground)
    if (film.perform(`${label} ${many(copies.length)} on ${ground.level.name}`, (f) => addMarks(place(f), copies))) ink.selectedMarks = copies.map((mark) => mark.id)
  }

  /** From where marks were seen on one level to where that is on another. */
  function between(marks: readonly Mark[], lens: Lens, plane: LevelPlane, to: Ground): Carrying | null {
    const bounds = boundsOf(marks)
    if (bounds === null) return null
    const point = (from: Point2): Point2 | null => {
      const seen = project(lens, pointOnPlane(plane, from))
      return seen.z < 0.01 ? null : meetPlane(lens, seen.u, seen.v, to.plane)
    }
    const corners = cornersOf(bounds).map(point)
    if (corners.some((corner) => corner === null || Math.abs(corner.x) > 9e3 || Math.abs(corner.y) > 9e3)) return null
    const there = rectangleAround(corners as Point2[])!
    const area = (r: Rectangle) => Math.max(1e-12, (r.right - r.left) * (r.top - r.bottom))
    const [a, b] = corners as [Point2, Point2]
    return { point: (from) => point(from) ?? { x: 0, y: 0 }, growth: Math.sqrt(area(there) / area(bounds)), turnDegrees: (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI, mirrors: false }
  }

  function all() {
    const marks = pen.drawingHere()?.marks ?? []
    ink.selectedMarks = marks.map((mark) => mark.id)
  }

  return {
    begin, track, live, frame, selected, dragMove, dragHandle, dragKnob, nudge, remove, recolour, copy, cut, paste, duplicate, all,
    flipAcross: () => carry('flip', (centre) => about(centre, -1, 1, 0)),
    flipUpDown: () => carry('flip', (centre) => about(centre, 1, -1, 0)),
    turnQuarter: () => carry('turn', (centre) => about(centre, 1, 1, -90)),
    none: () => (ink.selectedMarks = []),
  }
}
