import type { Arrow, Fill } from '@rubato/core/document'
import { drawMark, replaceMarks } from '@rubato/core/edits'
import type { Point2 } from '@rubato/core/geometry'
import { fewPoints, outlinesOfArrow } from '@rubato/core/ink'
import { computed, shallowRef, watch } from 'vue'
import type { Surface } from '~/composables/draw/surface'
import type { Ground, usePen } from '~/composables/draw/usePen'
import type { useSelection } from '~/composables/draw/useSelection'
import { followDrag } from '~/gestures/drag'
import { useFilmStore } from '~/stores/film'
import { usePenStore, type ArrowLook } from '~/stores/pen'

/** How far what is kept of a way may be from what was drawn, CSS px. */
const TOLERANCE_PX = 2.5
const LEAST_PX = 4
const STEP = Math.PI / 12
const round = (value: number) => Math.round(value * 1e6) / 1e6

/** Arrows on a level: dragged out straight or drawn as they bend; a chosen one is changed by its points. */
export function useArrows(surface: Surface, hand: ReturnType<typeof usePen>, selection: ReturnType<typeof useSelection>) {
  const film = useFilmStore()
  const pen = usePenStore()
  /** What is dragged out, before it is a mark. */
  const drawn = shallowRef<{ readonly ground: Ground; readonly arrow: Arrow; readonly outlines: readonly number[][] } | null>(null)

  const looks = () => ({ taper: pen.arrow.tapers ? 1 : 0, heads: pen.arrow.both ? ('both' as const) : ('tip' as const) })
  const widthOn = (ground: Ground, onScreenFw: number) => Math.min(10, Math.max(1e-6, onScreenFw / ground.grows))
  const make = (ground: Ground, points: readonly number[]): Arrow => ({ points: points.map(round), widthFw: widthOn(ground, pen.arrow.widthFw), ...looks() })
  const markOf = (id: string, arrow: Arrow, { colour, opacity, forPrint }: { readonly colour: string; readonly opacity: number; readonly forPrint?: boolean | undefined }) => ({
    id,
    kind: 'fill' as const,
    mode: 'ink' as const,
    outlines: outlinesOfArrow(arrow),
    colour,
    opacity,
    arrow,
    ...(forPrint === true ? { forPrint: true as const } : {}),
  })

  function begin(event: PointerEvent) {
    const ground = hand.ground()
    const from = ground === null ? null : hand.artAt(ground, event)
    if (ground === null || from === null) return
    const way: Point2[] = [from]
    const show = (step: PointerEvent) => {
      const at = hand.artAt(ground, step)
      if (at === null) return
      let points: readonly number[]
      if (pen.arrow.bent) {
        way.push(at)
        points = fewPoints(way, TOLERANCE_PX / surface.frameWidth() / ground.grows)
      } else points = [from.x, from.y, ...(step.shiftKey ? evened(from, at) : [at.x, at.y])]
      const arrow = make(ground, points)
      drawn.value = { ground, arrow, outlines: points.length < 4 ? [] : outlinesOfArrow(arrow) }
    }
    followDrag(
      event,
      {
        move: ({ event: step }) => {
          const steps = step.getCoalescedEvents?.() ?? []
          for (const each of pen.arrow.bent && steps.length > 0 ? steps : [step]) show(each)
        },
        end: () => {
          const made = drawn.value
          drawn.value = null
          if (made === null || made.outlines.length === 0) return
          const { level, takeId, panelId, offsetFrames } = ground
          const mark = markOf(crypto.randomUUID(), made.arrow, { ...pen.brush, forPrint: pen.arrow.forPrint })
          const drawingId = crypto.randomUUID()
          if (film.perform(`arrow on ${level.name}`, (f) => drawMark(f.takes[takeId]!, takeId, f.drawings, level.id, panelId, mark, drawingId, pen.editHeld, offsetFrames))) pen.selectedMarks = [mark.id]
        },
        cancel: () => (drawn.value = null),
      },
      LEAST_PX,
    )
  }

  /** To multiples of 15°. */
  function evened(from: Point2, to: Point2): [number, number] {
    const length = Math.hypot(to.x - from.x, to.y - from.y)
    const angle = Math.round(Math.atan2(to.y - from.y, to.x - from.x) / STEP) * STEP
    return [from.x + length * Math.cos(angle), from.y + length * Math.sin(angle)]
  }

  /** The one arrow that is chosen. */
  const chosen = computed<(Fill & { arrow: Arrow }) | null>(() => {
    const [only, ...more] = selection.selected.value
    return more.length === 0 && only?.kind === 'fill' && only.arrow !== undefined ? (only as Fill & { arrow: Arrow }) : null
  })
  // The tray shows how the chosen one is.
  watch(chosen, (mark, before) => {
    if (mark === null || mark.id === before?.id) return
    const { arrow } = mark
    pen.arrow = { ...pen.arrow, widthFw: arrow.widthFw * (hand.ground(true)?.grows ?? 1), tapers: arrow.taper > 0, both: arrow.heads === 'both', forPrint: mark.forPrint === true }
  })
  /** Its points in the view, with one between that bends a straight one. */
  const points = computed<readonly { readonly at: Point2; readonly index: number; readonly isNew: boolean }[]>(() => {
    void selection.frame.value
    const ground = chosen.value === null ? null : hand.ground(true)
    if (chosen.value === null || ground === null) return []
    const places = pairs(chosen.value.arrow.points)
    const seen = places.map((place, index) => ({ at: hand.paneOf(ground, place.x, place.y), index, isNew: false }))
    if (places.length > 2) return seen
    const [a, b] = places as [Point2, Point2]
    return [seen[0]!, { at: hand.paneOf(ground, (a.x + b.x) / 2, (a.y + b.y) / 2), index: 1, isNew: true }, seen[1]!]
  })

  function dragPoint(event: PointerEvent, index: number, isNew: boolean) {
    const mark = chosen.value
    const ground = hand.ground()
    if (mark === null || ground === null) return
    const places = pairs(mark.arrow.points)
    const before = isNew ? [places[0]!, { x: (places[0]!.x + places[1]!.x) / 2, y: (places[0]!.y + places[1]!.y) / 2 }, places[1]!] : places
    const place = hand.placeOf(ground)
    let gesture: ReturnType<typeof film.beginGesture> | null = null
    followDrag(event, {
      begin: () => void (gesture = film.beginGesture(`bend an arrow on ${ground.level.name}`)),
      move: ({ event: step }) => {
        const at = hand.artAt(ground, step)
        if (at === null) return
        const arrow = { ...mark.arrow, points: before.flatMap(({ x, y }, i) => (i === index ? [round(at.x), round(at.y)] : [x, y])) }
        const next = markOf(mark.id, arrow, mark)
        if (next.outlines.length > 0) gesture?.update((f) => replaceMarks(place(f), [next]))
      },
      end: () => gesture?.commit(),
      cancel: () => gesture?.abandon(),
    })
  }

  /** How arrows are drawn from now on, and the chosen one with them. */
  function look(fields: Partial<ArrowLook>) {
    pen.arrow = { ...pen.arrow, ...fields }
    const mark = chosen.value
    const ground = mark === null || fields.bent !== undefined ? null : hand.ground()
    if (mark === null || ground === null) return
    const arrow: Arrow = { ...mark.arrow, ...(fields.widthFw === undefined ? {} : { widthFw: widthOn(ground, fields.widthFw) }), ...looks() }
    const place = hand.placeOf(ground)
    const next = markOf(mark.id, arrow, { ...mark, forPrint: pen.arrow.forPrint })
    film.perform(`change an arrow on ${ground.level.name}`, (f) => replaceMarks(place(f), [next]), fields.widthFw === undefined ? null : `arrow width ${mark.id}`)
  }

  return { begin, drawn, chosen, points, dragPoint, look }
}

function pairs(points: readonly number[]): Point2[] {
  return Array.from({ length: points.length / 2 }, (_, i) => ({ x: points[i * 2]!, y: points[i * 2 + 1]! }))
}
