import { bendMove, setKeyValue, setPath } from '@rubato/core/edits'
import { into, outOf } from '@rubato/core/depth'
import { add, subtract, type Point3 } from '@rubato/core/geometry'
import { bentThrough, handlesOf } from '@rubato/core/moves'
import type { useLevelWay } from '~/composables/levels/useLevelWay'
import { followDrag, type DragStep } from '~/gestures/drag'
import type { PathMark } from '~/plan/pathMarks'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** Where in the set a drag takes a place that it took hold of; null where that is nowhere. */
export type PlaceStep = (step: DragStep, start: Point3) => Point3 | null

const told = ({ x, y, depth }: Point3) => `x ${x.toFixed(3)}  y ${y.toFixed(3)}  depth ${depth.toFixed(3)}`

/** What any view does with the way of the level in hand: its keys dragged, its path bent. */
export function useWayGestures({ keys }: Pick<ReturnType<typeof useLevelWay>, 'keys'>, tell: (text: string | null) => void, over: () => void = () => undefined) {
  const film = useFilmStore()
  const desk = useDeskStore()

  /** Views tell places of the set; keys are told in the axes of what carries their level. */
  const carriageOfOne = () => desk.carriageOf(desk.selectedLevelId ?? '')

  function follow(event: PointerEvent, label: string, move: (gesture: Gesture, at: DragStep) => void, click?: () => void) {
    let gesture: Gesture | null = null
    const close = (how: 'commit' | 'abandon') => {
      gesture?.[how]()
      tell(null)
      over()
    }
    followDrag(event, {
      begin: () => (gesture = film.beginGesture(label)),
      move: (at) => move(gesture!, at),
      end: () => close('commit'),
      cancel: () => close('abandon'),
      click: () => {
        click?.()
        over()
      },
    })
  }

  /** A key is dragged wherever the playhead is; a click chooses it and goes there. */
  function dragKey(event: PointerEvent, id: string, placeAt: PlaceStep) {
    const [takeId, index] = [desk.takeId, keys.value.findIndex((each) => each.id === id)]
    const key = keys.value[index]
    if (takeId === null || key === undefined) return
    const carriage = carriageOfOne()
    const choose = () => {
      const many = event.shiftKey || event.ctrlKey || event.metaKey
      desk.selectedFramingIds = []
      desk.selectedKeyIds = !many ? [id] : desk.selectedKeyIds.includes(id) ? desk.selectedKeyIds.filter((other) => other !== id) : [...desk.selectedKeyIds, id]
      if (!many) desk.goTo((desk.placedShot?.startFrame ?? 0) + key.frame)
    }
    follow(
      event,
      `key ${index + 1} of ${desk.selectedLevel?.name ?? ''}`,
      (gesture, step) => {
        const at = placeAt(step, outOf(carriage, key.value))
        if (at === null) return
        const place = into(carriage, at)
        if (gesture.update((f) => setKeyValue(f.takes[takeId]!, takeId, id, place))) tell(`${index + 1}: ${told(place)}`)
        else desk.nudge++
      },
      choose,
    )
  }

  /** Drags a path's handle, or bends a straight way by its middle; a double click on a handle makes it straight again. */
  function dragMark(event: PointerEvent, mark: PathMark, placeAt: PlaceStep) {
    const [takeId, index] = [desk.takeId, keys.value.findIndex((each) => each.id === mark.keyId)]
    const [from, to] = [keys.value[index], keys.value[index + 1]]
    if (takeId === null || from === undefined || to === undefined) return
    if (event.detail > 1) return void film.perform('straight path', (f) => setPath(f.takes[takeId]!, takeId, mark.keyId, { kind: 'straight' }))
    const own = handlesOf(from.value, to.value, from.move.path)
    const carriage = carriageOfOne()
    const stands = mark.kind === 'middle' ? from.value : add((mark.end === 'leave' ? from : to).value, own[mark.end])
    follow(event, 'bend path', (gesture, step) => {
      const at = placeAt(step, outOf(carriage, stands))
      if (at === null) return
      const by = subtract(into(carriage, at), stands)
      gesture.update((f) => (mark.kind === 'handle' ? bendMove(f.takes[takeId]!, takeId, mark.keyId, mark.end, add(own[mark.end], by)) : setPath(f.takes[takeId]!, takeId, mark.keyId, bentThrough(from.value, to.value, by))))
      tell('path bent; its timing stays')
    })
  }
  return { dragKey, dragMark }
}
