<script setup lang="ts">
import { drawingBounds } from '@rubato/core/ink'
import { fieldAngleDegrees, FOCAL_LENGTH_RANGE_MM, type CameraPose } from '@rubato/core/camera'
import { planeOf, pointOnPlane, turnedInSet, wayInto, type LevelPlane } from '@rubato/core/depth'
import { showsNothing, shownAt, type Level } from '@rubato/core/document'
import { add } from '@rubato/core/geometry'
import type { PlacedLevel } from '@rubato/core/stage'
import { useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import GroundBar from '~/components/desk/set/GroundBar.vue'
import { useOtherCameras } from '~/composables/camera/useOtherCameras'
import { useCameraPath } from '~/composables/camera/useCameraPath'
import { useFramingGestures, type PoseStep } from '~/composables/camera/useFramingGestures'
import { useLevelWay } from '~/composables/levels/useLevelWay'
import { useWayGestures, type PlaceStep } from '~/composables/levels/useWayGestures'
import LevelWay from '~/components/levels/LevelWay.vue'
import { hitLevel } from '~/plan/levelHandles'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { useDepths, type DepthChange } from '~/composables/levels/useDepths'
import { useGround } from '~/composables/levels/useGround'
import { useInkColours } from '~/composables/draw/useInkColours'
import { keptComputed } from '~/composables/view/keptComputed'
import { followDrag, type DragStep } from '~/gestures/drag'
import { drawSet, fieldRays, knobAt, turnKnobAt, type DrawnLevel, type LevelHold } from '~/plan/drawSet'
import { dragged, fitScale, fromPx, PLAN_AXES, SIDE_AXES, toPx, zoomedAt, type DrawnScale, type Px } from '~/plan/elevation'
import { hitPathMark, pathMarks, type PathMark } from '~/plan/pathMarks'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import type { LevelChange } from '~/stores/levelHand'
import { createKeptLayer } from '~/canvas/keptLayer'

/** The set drawn from above (plan) or from the side: where the camera and the levels are, all of it dragged in place. */
const props = defineProps<{ kind: 'plan' | 'side' }>()
const axes = computed(() => (props.kind === 'plan' ? PLAN_AXES : SIDE_AXES))
const film = useFilmStore()
const desk = useDeskStore()
const { colours } = useInkColours()
const { path, beads, hasMarks, pathKeys } = useCameraPath()
const ground = useGround()
const depths = useDepths()
const fields = useLevelFields()
const canvas = ref<HTMLCanvasElement | null>(null)
const pane = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(pane)
const live = ref<string | null>(null)
/** The artist's own zoom and place; null fits everything. */
const held = shallowRef<DrawnScale | null>(null)
const hover = ref<Hit['kind'] | null>(null)

/** As they stand at this frame; hidden ones are not on the stage. The same while none has moved: what is drawn of them stays. */
const placed = computed<readonly PlacedLevel[]>((before) => {
  const now = desk.stageFrame?.levels ?? []
  return before?.length === now.length && now.every(({ level, copy, plane }, i) => before[i]!.plane === plane && before[i]!.copy === copy && before[i]!.level.id === level.id) ? before : now
})
const planes = computed(() => {
  const of = new Map<string, PlacedLevel[]>()
  for (const each of placed.value) of.set(each.level.id, [...(of.get(each.level.id) ?? []), each])
  return of
})
const holdOf = ({ kind, carrier, facing }: Level): LevelHold => (showsNothing({ kind }) ? 'carrier' : (facing ?? (carrier?.kind === 'camera' ? 'camera' : 'set')))
function hiddenPlane(level: Level) {
  const stand = desk.standOf(level.id)
  return { plane: planeOf(stand, level.pivot), place: stand.place }
}
const bars = keptComputed<readonly DrawnLevel[]>(() =>
  desk.levels.map((level) => {
    const cell = desk.take === null ? null : shownAt(desk.take, level.id, desk.read.frame)
    const drawing = cell === null ? null : film.drawingOf(cell.drawingId)
    const bounds = drawing === null ? null : drawingBounds(drawing)
    const all = planes.value.get(level.id) ?? []
    const { plane, place } = all.find(({ copy }) => copy === 0) ?? hiddenPlane(level)
    const endsOf = (on: LevelPlane) => {
      const end = (x: number, y: number) => pointOnPlane(on, props.kind === 'plan' ? { x, y: 0 } : { x: 0, y })
      return [end(bounds?.left ?? 0, bounds?.bottom ?? 0), end(bounds?.right ?? 0, bounds?.top ?? 0)] as const
    }
    return {
      id: level.id,
      name: level.name,
      depth: place.depth,
      ends: endsOf(plane),
      copies: all.flatMap((each) => (each.copy === 0 ? [] : [endsOf(each.plane)])),
      selected: desk.chosenLevelIds.includes(level.id),
      turns: level.id === desk.selectedLevelId && level.facing === undefined && level.visible && !desk.playing,
      visible: level.visible,
      place,
      stays: holdOf(level),
      carriedFrom: level.carrier?.kind === 'level' ? desk.placeOf(level.carrier.levelId) : null,
    }
  }),
)
const dragging = ref(false)
let frozen: DrawnScale | null = null
const scale = keptComputed<DrawnScale>(() => {
  if (held.value !== null) return { ...held.value, widthPx: width.value, heightPx: height.value }
  if (dragging.value && frozen !== null) return { ...frozen, widthPx: width.value, heightPx: height.value }
  const here = desk.stage?.poseOf(desk.cameraAtWorkId, 0)
  // Far bars may be cut off; what the camera does and each level's depth must be seen.
  return fitScale(axes.value, [...desk.framings.map((entry) => entry.framing.pose), ...(here ? [here] : []), ...desk.levels.map((level) => ({ depth: desk.placeOf(level.id).depth }))], width.value, height.value)
})
watch(() => desk.takeId, () => (held.value = null))
const marks = computed(() => pathMarks(pathKeys.value, hasMarks, (pose) => toPx(scale.value, pose)))

/** The way of the level in hand. */
const hand = useLevelWay((point) => toPx(scale.value, point))
const ways = useWayGestures(hand, (text) => (live.value = text), done)

const { others } = useOtherCameras()
const stillLayer = createKeptLayer()
function draw() {
  const context = canvas.value?.getContext('2d')
  if (!context || desk.stageFrame === null || width.value === 0) return
  const ratio = window.devicePixelRatio || 1
  const [w, h] = [Math.round(width.value * ratio), Math.round(height.value * ratio)]
  if (context.canvas.width !== w || context.canvas.height !== h) Object.assign(context.canvas, { width: w, height: h })
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  context.fillStyle = colours.value.paper
  context.fillRect(0, 0, width.value, height.value)
  if (props.kind === 'plan') ground.draw(context, scale.value, ratio)
  const still = { levels: bars.value, path: path.value, framings: beads.value, marks: marks.value }
  drawSet(context, scale.value, { ...still, others: others.value, lens: desk.stageFrame.lens, locked: desk.cameraAtWork?.locked === true, live: live.value, metresPerFw: film.project?.metresPerFw ?? null }, colours.value, (drawStill) =>
    stillLayer(context, { width: width.value, height: height.value, ratio }, [...Object.values(still), scale.value, colours.value], drawStill),
  )
}
watch(() => [film.project?.metresPerFw, desk.stageFrame, bars.value, path.value, beads.value, scale.value, marks.value, colours.value, live.value, others.value, ground.version.value], draw, { flush: 'post' })

const local = (event: { clientX: number; clientY: number }) => {
  const box = pane.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}

type Hit = { readonly kind: 'camera' } | { readonly kind: 'knob' } | { readonly kind: 'edge'; readonly side: 0 | 1 } | { readonly kind: 'framing'; readonly id: string } | { readonly kind: 'level'; readonly id: string } | { readonly kind: 'turn'; readonly id: string } | { readonly kind: 'mark'; readonly mark: PathMark }

const near = (at: Px, to: Px, px: number) => Math.hypot(at.x - to.x, at.y - to.y) < px
/** How far a point is from the way between two others, px. */
function fromSegment(at: Px, a: Px, b: Px): number {
  const t = Math.max(0, Math.min(1, ((at.x - a.x) * (b.x - a.x) + (at.y - a.y) * (b.y - a.y)) / Math.max(1e-6, (b.x - a.x) ** 2 + (b.y - a.y) ** 2)))
  return Math.hypot(at.x - a.x - t * (b.x - a.x), at.y - a.y - t * (b.y - a.y))
}

function hit(event: PointerEvent): Hit | null {
  const at = local(event)
  const lens = desk.stageFrame?.lens
  if (lens === undefined) return null
  if (!desk.playing && near(at, knobAt(scale.value, lens), 8)) return { kind: 'knob' }
  const mark = hitPathMark(marks.value, at.x, at.y)
  if (mark !== null) return { kind: 'mark', mark }
  const camera = toPx(scale.value, lens.position)
  if (near(at, camera, 14)) return { kind: 'camera' }
  const turned = bars.value.find((level) => level.turns && near(at, turnKnobAt(scale.value, level), 8))
  if (turned !== undefined) return { kind: 'turn', id: turned.id }
  const bead = beads.value.findLast((each) => near(at, toPx(scale.value, each.pose), 9))
  if (bead !== undefined) return { kind: 'framing', id: bead.id }
  let best: { id: string; distance: number } | null = null
  for (const level of bars.value) {
    const [a, b] = level.ends.map((end) => toPx(scale.value, end)) as [Px, Px]
    const distance = fromSegment(at, a, b)
    if (distance < 7 && (best === null || distance < best.distance || level.selected)) best = { id: level.id, distance }
  }
  if (best !== null) return { kind: 'level', id: best.id }
  const reach = (width.value + height.value) / scale.value.pxPerFw
  const side = fieldRays(scale.value, lens).findIndex((ray) => fromSegment(at, camera, toPx(scale.value, add(lens.position, { x: ray.x * reach, y: ray.y * reach, depth: ray.depth * reach }))) < 6)
  return side < 0 || near(at, camera, 30) ? null : { kind: 'edge', side: side as 0 | 1 }
}

const gestures = useFramingGestures((text) => (live.value = text), done)

function onDown(event: PointerEvent) {
  if (desk.playing) return
  if (event.button === 1) return pan(event)
  if (event.button !== 0) return
  if (props.kind === 'plan' && ground.pencil.value) return ground.stroke(event, local, () => scale.value)
  frozen = scale.value
  const onWay = hitLevel(null, hand.way.value, local(event), false)
  if (onWay?.kind === 'key' || onWay?.kind === 'mark') {
    dragging.value = true
    const placeAt: PlaceStep = (step, start) => add(start, wayOf(step))
    return onWay.kind === 'key' ? ways.dragKey(event, onWay.id, placeAt) : ways.dragMark(event, onWay.mark, placeAt)
  }
  const found = hit(event)
  if (found === null) return pan(event)
  dragging.value = found.kind !== 'framing'
  if (found.kind === 'camera') gestures.dragLive(event, event.shiftKey ? turning : moving, undefined, done)
  else if (found.kind === 'knob') gestures.dragLive(event, turning, 'turn camera', done)
  else if (found.kind === 'edge') gestures.dragLive(event, zooming, 'zoom', done)
  else if (found.kind === 'mark') gestures.dragMark(event, found.mark, (dx, dy) => dragged(scale.value, dx, dy))
  else if (found.kind === 'framing') gestures.dragFraming(event, found.id, moving)
  else if (found.kind === 'turn') turnLevel(event, found.id)
  else if (found.kind === 'level') dragLevel(event, found.id)
}

function pan(event: PointerEvent) {
  const start = scale.value
  followDrag(event, {
    move: ({ dx, dy }) => (held.value = { ...start, centreAcross: start.centreAcross - dx / start.pxPerFw, centreUp: start.centreUp + dy / start.pxPerFw }),
    end: () => undefined,
    cancel: () => undefined,
  })
}

/** A drag's way in the set; with X, Y or Z held, that way alone. */
function wayOf({ dx, dy, axis }: DragStep) {
  const by = dragged(scale.value, dx, dy)
  return axis === null ? by : { x: 0, y: 0, depth: 0, [axis]: by[axis] }
}
const moving: PoseStep = (step, start) => {
  const pose = { ...start, ...add(start, wayOf(step)) }
  return { pose, told: props.kind === 'plan' ? `x ${pose.x.toFixed(3)}  depth ${pose.depth.toFixed(3)}` : `y ${pose.y.toFixed(3)}  depth ${pose.depth.toFixed(3)}` }
}
const turning: PoseStep = ({ event }, start) => {
  const at = local(event)
  const to = fromPx(scale.value, at.x, at.y)
  const degrees = (radians: number) => (radians * 180) / Math.PI
  if (props.kind === 'plan') {
    const panDegrees = degrees(Math.atan2(to.across - start.x, to.up - start.depth))
    return { pose: { ...start, panDegrees }, told: `pan ${panDegrees.toFixed(1)}°` }
  }
  const tiltDegrees = Math.max(-89, Math.min(89, degrees(Math.atan2(to.up - start.y, Math.abs(to.across - start.depth)))))
  return { pose: { ...start, tiltDegrees }, told: `tilt ${tiltDegrees.toFixed(1)}°` }
}
/** The field's edge goes through the pointer: the angle from the axis gives the lens. */
const zooming: PoseStep = ({ event }, start) => {
  const at = local(event)
  const camera = toPx(scale.value, start)
  const { forward } = desk.stageFrame!.lens
  const heading = Math.atan2(forward[axes.value.across], forward[axes.value.up])
  const angle = Math.abs(((Math.atan2(at.x - camera.x, -(at.y - camera.y)) - heading + Math.PI * 3) % (Math.PI * 2)) - Math.PI)
  const half = props.kind === 'plan' ? 0.5 : 0.5 / film.optics!.aspect
  const mm = (half / Math.tan(Math.min(1.5, Math.max(0.005, angle)))) * film.optics!.filmBackMm
  const focalLengthMm = Math.min(FOCAL_LENGTH_RANGE_MM.max, Math.max(FOCAL_LENGTH_RANGE_MM.min, Math.round(mm * 10) / 10))
  return { pose: { ...start, focalLengthMm }, told: `lens ${focalLengthMm.toFixed(1)} mm, field ${fieldAngleDegrees(focalLengthMm, film.optics!.filmBackMm).toFixed(1)}°` }
}

function dragLevel(event: PointerEvent, id: string) {
  desk.chooseLevel(id, event)
  const [level, stands, carriage] = [desk.take!.levels[id]!, desk.placeOf(id), desk.carriageOf(id)]
  const label = `move ${level.name} in the ${props.kind === 'plan' ? 'plan' : 'side view'}`
  const across = props.kind === 'plan' ? 'x' : 'y'
  const keeps = desk.keepPicture
  /** Sideways it goes by the hand on levels, in depth as the rack sends it: one of the two at a time. */
  let sideways: LevelChange | null = null
  let deep: DepthChange | null = null
  followDrag(event, {
    move: (step) => {
      const by = dragged(scale.value, step.dx, step.dy)
      if (step.event.shiftKey || step.axis === across) {
        deep?.abandon()
        deep = null
        sideways ??= desk.beginLevels([id], ['place'], label)
        sideways.update((_, { place }) => ({ place: add(place, wayInto(carriage, { x: 0, y: 0, depth: 0, [across]: by[across] })) }))
        live.value = `${across} ${(stands[across] + by[across]).toFixed(3)}`
        return
      }
      sideways?.abandon()
      sideways = null
      deep ??= depths.begin([level.id], label)
      const raw = stands.depth + by.depth
      const depth = Math.abs(raw) < 4 / scale.value.pxPerFw ? 0 : Math.round(raw * 1000) / 1000
      deep.update(depth)
      live.value = `depth ${depth.toFixed(3)}${keeps ? ', picture kept' : ''}`
    },
    end: () => (sideways?.end(), deep?.end(), done()),
    cancel: () => (sideways?.abandon(), deep?.abandon(), done()),
    click: done,
  })
}

/** By its knob a level is panned in the plan and tilted in the side view, about its pivot; with Shift by 15°. */
function turnLevel(event: PointerEvent, id: string) {
  const [level, carriage, middle] = [desk.take!.levels[id]!, desk.carriageOf(id), toPx(scale.value, desk.placeOf(id))]
  const plan = props.kind === 'plan'
  const angle = ({ x, y }: Px) => (Math.atan2(y - middle.y, x - middle.x) * 180) / Math.PI
  const begun = angle(local(event))
  const label = `${plan ? 'pan' : 'tilt'} ${level.name}`
  let change: LevelChange | null = null
  followDrag(event, {
    begin: () => (change = fields.aboutMiddle(label, (joins) => desk.beginLevels([id], ['turn'], label, joins))),
    move: ({ event: step }) => {
      // Clockwise from above is a pan to the right; seen from the left, a tilt up goes the other way.
      const clockwise = ((angle(local(step)) - begun + 540) % 360) - 180
      const raw = plan ? clockwise : -clockwise
      const degrees = step.shiftKey ? Math.round(raw / 15) * 15 : Math.round(raw * 10) / 10
      change!.update((_, { turn }) => ({ turn: turnedInSet(carriage, turn, plan ? 'y' : 'x', degrees) }))
      live.value = `${plan ? 'pan' : 'tilt'} by ${degrees.toFixed(1)}°`
    },
    end: () => (change?.end(), done()),
    cancel: () => (change?.abandon(), done()),
    click: done,
  })
}

function done() {
  dragging.value = false
  frozen = null
  live.value = null
}

function onWheel(event: WheelEvent) {
  event.preventDefault()
  const at = local(event)
  held.value = zoomedAt(scale.value, at.x, at.y, Math.exp(-event.deltaY * 0.0015))
}

function onHover(event: PointerEvent) {
  if (event.buttons === 0) hover.value = hit(event)?.kind ?? null
}
const CURSORS: Partial<Record<Hit['kind'], string>> = { camera: 'grab', knob: 'crosshair', turn: 'crosshair', edge: 'col-resize', framing: 'grab', mark: 'move' }
const cursor = computed(() => (props.kind === 'plan' && ground.pencil.value ? 'crosshair' : hover.value === 'level' ? (props.kind === 'plan' ? 'ns-resize' : 'ew-resize') : ((hover.value && CURSORS[hover.value]) ?? 'default')))

function onKey(event: KeyboardEvent) {
  const step = 0.01 * (event.shiftKey ? 10 : 1)
  const [across, up] = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key] ?? [0, 0]
  if ((across === 0 && up === 0) || desk.pose === null || event.altKey || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  event.stopPropagation()
  const camera = desk.beginCamera('nudge camera')
  const pose: CameraPose = { ...desk.pose, ...add(desk.pose, { x: 0, y: 0, depth: 0, [axes.value.across]: across, [axes.value.up]: up }) }
  camera.update(pose)
  camera.end()
}
</script>

<template>
  <section class="set-view" :aria-label="kind === 'plan' ? 'Plan' : 'Side'">
    <div
      ref="pane"
      class="pane"
      tabindex="0"
      role="application"
      :aria-label="`${kind === 'plan' ? 'Plan' : 'Side'}: drag the camera, its knob to turn it, the edges of its field for the lens; beads, handles and levels, and the knob of the selected level to turn it; X, Y or Z held moves one way alone; arrows nudge the camera`"
      :style="{ cursor }"
      @pointerdown="onDown"
      @pointermove="onHover"
      @wheel="onWheel"
      @dblclick="hit($event as PointerEvent) === null && (held = null)"
      @keydown="onKey"
    >
      <canvas ref="canvas" :data-test="kind" />
      <LevelWay :way="hand.way.value" :width="width" :height="height" />
      <div class="corner">
        <template v-if="kind === 'plan'"><GroundBar /></template>
        <button v-if="held" class="chip" title="Show everything (double click)" @click="held = null" @pointerdown.stop>Fit</button>
      </div>
    </div>
  </section>
</template>

<style scoped>
.set-view,
.pane {
  position: relative;
  width: 100%;
  height: 100%;
  min-width: 0;
  min-height: 0;
  overflow: hidden;
  touch-action: none;
}
.corner {
  position: absolute;
  right: 6px;
  bottom: 6px;
  display: flex;
  gap: 4px;
}
canvas {
  display: block;
  width: 100%;
  height: 100%;
}
</style>
