import type { CameraPose } from '@rubato/core/camera'
import { bendMove, editKey, setFramingPose, setPath } from '@rubato/core/edits'
import { add, type Point3 } from '@rubato/core/geometry'
import { bentThrough, handlesOf } from '@rubato/core/moves'
import { useCameraPath } from '~/composables/camera/useCameraPath'
import { followDrag, type DragStep } from '~/gestures/drag'
import type { PathMark } from '~/plan/pathMarks'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** A step of a drag, turned into a pose; with what it comes to, to be told beside the pointer. */
export type PoseStep = (step: DragStep, start: CameraPose) => { readonly pose: CameraPose; readonly told: string }

/** What a view does with framings and their path: choosing, dragging, bending. */
export function useFramingGestures(tell: (text: string | null) => void, over: () => void = () => undefined) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { framingOf } = useCameraPath()

  function choose(id: string, event: PointerEvent) {
    const entry = framingOf(id)
    if (entry === null) return
    const many = event.shiftKey || event.ctrlKey || event.metaKey
    desk.selectedFramingIds = !many ? [id] : desk.selectedFramingIds.includes(id) ? desk.selectedFramingIds.filter((other) => other !== id) : [...desk.selectedFramingIds, id]
    if (!many) desk.goTo((desk.placedShot?.startFrame ?? 0) + entry.frame)
  }

  function finish() {
    tell(null)
    over()
  }

  function drag(event: PointerEvent, label: string, step: (gesture: Gesture, at: DragStep) => void, clicked: () => void = () => undefined) {
    let gesture: Gesture | null = null
    followDrag(event, {
      begin: () => (gesture = film.beginGesture(label)),
      move: (at) => step(gesture!, at),
      end: () => (gesture?.commit(), finish()),
      cancel: () => (gesture?.abandon(), finish()),
      click: clicked,
    })
  }

  /** Drags a framing by its bead or frame, wherever the playhead is; a click chooses it. */
  function dragFraming(event: PointerEvent, id: string, poseOf: PoseStep, label = 'move framing') {
    const [takeId, entry] = [desk.takeId, framingOf(id)]
    if (takeId === null || entry === null) return
    const number = desk.framings.indexOf(entry) + 1
    drag(
      event,
      `${label} ${number}`,
      (gesture, at) => {
        const { pose, told } = poseOf(at, entry.framing.pose)
        if (gesture.update((f) => setFramingPose(f.takes[takeId]!, takeId, id, pose))) tell(`${number}: ${told}`)
        else desk.nudge++
      },
      () => choose(id, event),
    )
  }

  /** Drags the live camera: as the camera tool does, by the mode it is in. */
  function dragLive(event: PointerEvent, poseOf: PoseStep, label?: string, clicked?: () => void) {
    const start = desk.pose
    if (start === null || desk.playing) return
    let camera: ReturnType<typeof desk.beginCamera> | null = null
    followDrag(event, {
      begin: () => (camera = desk.beginCamera(label)),
      move: (at) => {
        const { pose, told } = poseOf(at, start)
        camera!.update(pose)
        tell(told)
      },
      end: () => (camera?.end(), finish()),
      cancel: () => (camera?.abandon(), finish()),
      click: () => clicked?.(),
    })
  }

  /** Drags a path's handle, or bends a straight move by its middle; a double click on a handle makes it straight again. */
  function dragMark(event: PointerEvent, mark: PathMark, toSet: (dx: number, dy: number) => Point3) {
    const [takeId, entry] = [desk.takeId, framingOf(mark.keyId)]
    const next = entry === null ? undefined : desk.framings[desk.framings.indexOf(entry) + 1]
    if (takeId === null || entry === null || next === undefined) return
    if (event.detail > 1) return straighten(mark.keyId)
    const [from, to] = [entry.framing.pose, next.framing.pose]
    const { move } = entry.framing
    const handle = mark.kind === 'handle' ? handlesOf(from, to, move.path)[mark.end] : null
    drag(event, 'bend path', (gesture, { dx, dy }) => {
      const by = toSet(dx, dy)
      gesture.update((f) => {
        const take = f.takes[takeId]!
        return mark.kind === 'handle' ? bendMove(take, takeId, mark.keyId, mark.end, add(handle!, by)) : setPath(take, takeId, mark.keyId, bentThrough(from, to, by))
      })
      tell('path bent; its timing stays')
    })
  }

  function straighten(framingId: string) {
    const takeId = desk.takeId
    if (takeId !== null) film.perform('straight path', (f) => setPath(f.takes[takeId]!, takeId, framingId, { kind: 'straight' }))
  }

  function toggleLock(framingId: string) {
    const [takeId, entry] = [desk.takeId, framingOf(framingId)]
    if (takeId !== null && entry !== null) film.perform(entry.framing.locked ? 'unlock framing' : 'lock framing', (f) => editKey(f.takes[takeId]!, takeId, framingId, { locked: !entry.framing.locked }))
  }

  return { choose, dragFraming, dragLive, dragMark, straighten, toggleLock }
}
