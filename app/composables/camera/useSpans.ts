import { lensOf, project } from '@rubato/core/camera'
import { planeOf, pointOnPlane } from '@rubato/core/depth'
import { shownAt, targetHangs, type CameraSpan, type PlacedSpan, type SpanTarget } from '@rubato/core/document'
import { addSpan, changeSpan, placeSpan, removeSpans, SPAN_DEFAULTS, type NewSpan, type SpanSettings } from '@rubato/core/edits'
import type { Point2, Point3 } from '@rubato/core/geometry'
import { drawingBounds } from '@rubato/core/ink'
import { computed, shallowRef } from 'vue'
import { useScrub } from '~/composables/view/useScrub'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { spanName } from '~/text/cameraWords'

/** What is pointed at in the lens view is for: a new span of a kind, or one that is to go after something else. */
export type PointsFor = { readonly kind: 'follow' | 'aim' } | { readonly spanId: string }
export const pointsFor = shallowRef<PointsFor | null>(null)
/** Which spans are being baked; null: the dialog is closed. */
export const bakedIds = shallowRef<readonly string[] | null>(null)

const SIDE = 0.45
const inPicture = (value: number, most: number) => Math.min(most, Math.max(-most, Number.isFinite(value) ? value : 0))

/** The stretches in which the camera at work follows, aims or is held by hand. */
export function useSpans() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const scrub = useScrub()
  const spans = computed<readonly PlacedSpan[]>(() => desk.stage?.workOf(desk.cameraAtWorkId)?.spans ?? [])
  const selected = computed(() => spans.value.find(({ span }) => span.id === desk.selectedSpanId) ?? null)
  /** The chosen one; else the last begun of those at the playhead. */
  const shown = computed(() => selected.value ?? spans.value.findLast(({ first, last }) => first <= desk.read.frame && desk.read.frame <= last) ?? null)
  const wordOf = (span: CameraSpan) => (desk.take === null ? '' : spanName(desk.take, span))

  /** The middle of what is drawn on a level now; where its pivot stands where that can't be gone after, or nothing is drawn. */
  function middleOf(levelId: string): SpanTarget {
    const take = desk.take!
    const cell = shownAt(take, levelId, desk.shotFrame)
    const drawing = cell === null ? null : film.drawingOf(cell.drawingId)
    const bounds = drawing === null ? null : drawingBounds(drawing)
    if (bounds === null) return { levelId }
    const target = { levelId, at: { x: (bounds.left + bounds.right) / 2, y: (bounds.bottom + bounds.top) / 2 } }
    return targetHangs(take, target) ? { levelId } : target
  }

  function placeOf({ levelId, at }: SpanTarget): Point3 {
    const stand = desk.standOf(levelId)
    return at === undefined ? stand.place : pointOnPlane(planeOf(stand, desk.take!.levels[levelId]!.pivot), at)
  }

  /** Where a point is seen now, kept inside the frame: what is begun keeps the picture. */
  function seenAt(target: SpanTarget): { readonly u: number; readonly v: number } {
    const { u, v, z } = project(lensOf(desk.pose!, film.optics!), placeOf(target))
    return z <= 0 ? { u: 0, v: 0 } : { u: inPicture(u, SIDE), v: inPicture(v, SIDE / film.optics!.aspect) }
  }

  /** From the playhead to the shot's end; from its last frame there would be nothing of it. */
  function put(span: NewSpan, label: string) {
    const [takeId, shot] = [desk.takeId, desk.placedShot]
    if (takeId === null || shot === null) return
    const first = desk.shotFrame >= shot.lengthFrames - 1 ? 0 : desk.shotFrame
    desk.trial = null
    if (film.perform(label, (f) => addSpan(f.takes[takeId]!, takeId, span, first, null))) desk.selectedSpanId = span.id
    else desk.nudge++
  }

  function begin(kind: 'follow' | 'aim', target: SpanTarget) {
    const cameraId = desk.cameraAtWorkId
    if (cameraId === null || desk.pose === null || desk.take === null) return
    const span = { id: crypto.randomUUID(), cameraId, target, ...SPAN_DEFAULTS[kind], ...seenAt(target), kind } as NewSpan
    put(span, spanName(desk.take, span as CameraSpan))
  }

  /** Goes after the selected level, or asks to be shown what to go after. */
  function start(kind: 'follow' | 'aim') {
    if (desk.selectedLevelId !== null) return begin(kind, middleOf(desk.selectedLevelId))
    ask({ kind })
  }
  /** Goes after a point that another span has already. */
  const startAt = (kind: 'follow' | 'aim', target: SpanTarget) => begin(kind, target)
  function ask(what: PointsFor) {
    pointsFor.value = what
    desk.tool = 'target'
  }

  /** What was pointed at: a level, and the point of its art. Null: the paper beside all of them. */
  function pointed(levelId: string | null, at: Point2 | null) {
    const what = pointsFor.value
    if (what === null || desk.take === null) return
    if (levelId === null) return film.refuse('There is no figure under the pointer. Point at something that is drawn, or press Esc.')
    const exact = { levelId, ...(at === null ? {} : { at }) }
    const target = targetHangs(desk.take, exact) ? { levelId } : exact
    leave()
    if ('kind' in what) return begin(what.kind, target)
    const span = desk.take.spans[what.spanId]
    if (span === undefined) return
    change(span, `point ${wordOf(span)} elsewhere`, { target })
  }
  function leave() {
    pointsFor.value = null
    desk.tool = 'camera'
  }

  function hold() {
    const cameraId = desk.cameraAtWorkId
    if (cameraId === null) return
    put({ id: crypto.randomUUID(), cameraId, kind: 'hand', seed: crypto.getRandomValues(new Uint32Array(1))[0]!, ...SPAN_DEFAULTS.hand }, 'hand-held')
  }

  function change(span: CameraSpan, label: string, settings: SpanSettings, joins: string | null = null) {
    const takeId = desk.takeId
    return takeId !== null && film.perform(label, (f) => changeSpan(f.takes[takeId]!, takeId, span.id, settings), joins)
  }
  /** A number of a span in a field. */
  const field = (span: CameraSpan, label: string, settingsOf: (value: number) => SpanSettings) => {
    const takeId = desk.takeId!
    return scrub.field(`${label} of ${wordOf(span)}`, (value) => (f) => changeSpan(f.takes[takeId]!, takeId, span.id, settingsOf(value)), `span:${span.id}:${label}`)
  }
  function place(span: CameraSpan, first: number, last: number | null, label = `frames of ${wordOf(span)}`) {
    const takeId = desk.takeId
    if (takeId !== null) film.perform(label, (f) => placeSpan(f.takes[takeId]!, takeId, span.id, first, last), `span:${span.id}:frames`)
  }
  function remove(id: string) {
    const [takeId, span] = [desk.takeId, desk.take?.spans[id]]
    if (takeId !== null && span !== undefined) film.perform(`take out ${wordOf(span)}`, (f) => removeSpans(f.takes[takeId]!, takeId, [id]))
  }
  function bake() {
    const ids = selected.value !== null ? [selected.value.span.id] : spans.value.map(({ span }) => span.id)
    if (ids.length === 0) return film.refuse('There is nothing to bake: this camera follows nothing here, aims at nothing and is not held by hand.')
    bakedIds.value = ids
  }

  return { spans, selected, shown, wordOf, middleOf, start, startAt, ask, pointed, leave, hold, change, field, place, remove, bake }
}
