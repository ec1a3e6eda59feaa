import { basisOf, lensOf, NEAREST_Z, project, type CameraPose } from '@rubato/core/camera'
import { add, scale, type Point3 } from '@rubato/core/geometry'
import { computed, ref, type Ref } from 'vue'
import { followDrag } from '~/gestures/drag'
import { useFilmStore } from '~/stores/film'
import type { ViewBox } from '~/viewport/composition'

const EYE_MM = 35
const USUAL = { yaw: 38, pitch: 18 }
/** Places to look from at a press. */
export const LOOK_FROM = [
  { name: 'Behind', title: 'From behind the camera', yaw: 0, pitch: 12 },
  { name: 'Left', title: 'From the set’s left', yaw: 88, pitch: 6 },
  { name: 'Above', title: 'From above', yaw: 0, pitch: 80 },
] as const

/** What there is to see: its middle, and how far off all of it is in view, fw. */
export interface Sight {
  readonly centre: Point3
  readonly distance: number
}

/** How far off points are all in view, with room around them. */
export function sightOf(points: readonly Point3[]): Sight {
  if (points.length === 0) return { centre: { x: 0, y: 0, depth: 0 }, distance: 4 }
  const range = (field: 'x' | 'y' | 'depth') => [Math.min(...points.map((point) => point[field])), Math.max(...points.map((point) => point[field]))] as const
  const [x, y, depth] = [range('x'), range('y'), range('depth')]
  const reach = Math.max(1.2, x[1] - x[0], y[1] - y[0], depth[1] - depth[0])
  return { centre: { x: (x[0] + x[1]) / 2, y: (y[0] + y[1]) / 2, depth: (depth[0] + depth[1]) / 2 }, distance: reach * 1.35 + 0.6 }
}

/** An eye that goes round a set: turned by drags, slid with Shift, nearer by the wheel. It writes nothing. */
export function useOrbit(width: Readonly<Ref<number>>, height: Readonly<Ref<number>>, whole: Readonly<Ref<Sight>>) {
  const film = useFilmStore()
  const turn = ref({ ...USUAL })
  const moved = ref<Sight | null>(null)
  const turning = ref(false)
  const place = computed(() => moved.value ?? whole.value)
  const eye = computed<CameraPose>(() => {
    const angles = { panDegrees: turn.value.yaw, tiltDegrees: -turn.value.pitch, rollDegrees: 0 }
    const { x, y, depth } = add(place.value.centre, scale(basisOf(angles).forward, -place.value.distance))
    return { ...angles, x, y, depth, focalLengthMm: EYE_MM }
  })

  /** Where the eye's own frame lies in the view. */
  const frameBox = computed(() => {
    const aspect = film.optics?.aspect ?? 16 / 9
    const w = Math.max(20, Math.min(width.value, height.value * aspect))
    return { left: (width.value - w) / 2, top: (height.value - w / aspect) / 2, width: w, aspect }
  })
  function viewBox(): ViewBox {
    const ratio = turning.value ? 0.5 : Math.min(1.5, window.devicePixelRatio || 1)
    const { left, top, width: w } = frameBox.value
    return { widthPx: Math.max(1, Math.round(width.value * ratio)), heightPx: Math.max(1, Math.round(height.value * ratio)), frameLeftPx: left * ratio, frameTopPx: top * ratio, frameWidthPx: w * ratio }
  }

  const lens = computed(() => lensOf(eye.value, film.optics ?? { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }))
  function px(point: Point3): { x: number; y: number } | null {
    const at = project(lens.value, point)
    const { left, top, width: w, aspect } = frameBox.value
    return at.z < NEAREST_Z ? null : { x: left + (at.u + 0.5) * w, y: top + (0.5 / aspect - at.v) * w }
  }
  function line(points: readonly Point3[], closed = false): string {
    let started = false
    let d = ''
    for (const point of points) {
      const at = px(point)
      if (at === null) {
        started = false
        continue
      }
      d += `${started ? 'L' : 'M'}${at.x.toFixed(1)} ${at.y.toFixed(1)}`
      started = true
    }
    return closed && d !== '' ? `${d}Z` : d
  }

  function onDown(event: PointerEvent) {
    if (event.button > 1) return
    const [from, start, slides] = [{ ...turn.value }, place.value, event.shiftKey || event.button === 1]
    const basis = basisOf(eye.value)
    const over = () => (turning.value = false)
    followDrag(event, {
      begin: () => (turning.value = true),
      move: ({ dx, dy }) => {
        if (!slides) {
          turn.value = { yaw: from.yaw + dx * 0.4, pitch: Math.max(-85, Math.min(85, from.pitch + dy * 0.4)) }
          return
        }
        const perPx = start.distance / (frameBox.value.width * (EYE_MM / (film.optics?.filmBackMm ?? 36)))
        moved.value = { ...start, centre: add(start.centre, add(scale(basis.right, -dx * perPx), scale(basis.up, dy * perPx))) }
      },
      end: over,
      cancel: () => {
        turn.value = from
        over()
      },
    })
  }
  let resting: ReturnType<typeof setTimeout> | undefined
  function onWheel(event: WheelEvent) {
    event.preventDefault()
    turning.value = true
    clearTimeout(resting)
    resting = setTimeout(() => (turning.value = false), 250)
    moved.value = { ...place.value, distance: Math.min(200, Math.max(0.2, place.value.distance * Math.exp(event.deltaY * 0.0012))) }
  }
  function onKey(event: KeyboardEvent) {
    const by = { ArrowLeft: [-5, 0], ArrowRight: [5, 0], ArrowUp: [0, 5], ArrowDown: [0, -5] }[event.key]
    if (by === undefined || event.altKey || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    event.stopPropagation()
    turn.value = { yaw: turn.value.yaw + by[0]!, pitch: Math.max(-85, Math.min(85, turn.value.pitch + by[1]!)) }
  }
  /** All of it is in view again. */
  const whollySeen = () => (moved.value = null)
  function back() {
    turn.value = { ...USUAL }
    whollySeen()
  }
  const lookFrom = ({ yaw, pitch }: { readonly yaw: number; readonly pitch: number }) => (turn.value = { yaw, pitch })

  return { eye, turn, place, turning, viewBox, px, line, onDown, onWheel, onKey, back, whollySeen, lookFrom }
}
