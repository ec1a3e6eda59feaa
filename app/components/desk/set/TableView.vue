<script setup lang="ts">
import { lensOf, untouchedPose, zoomPose, type CameraPose } from '@rubato/core/camera'
import { placedPanels } from '@rubato/core/document'
import { add, type Point3 } from '@rubato/core/geometry'
import type { TakeStage } from '@rubato/core/stage'
import { useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useArt } from '~/composables/view/useArt'
import { useOtherCameras } from '~/composables/camera/useOtherCameras'
import { useCameraPath } from '~/composables/camera/useCameraPath'
import { useFramingGestures, type PoseStep } from '~/composables/camera/useFramingGestures'
import { useSheet } from '~/composables/draw/useSheet'
import { useStageCanvas } from '~/composables/view/useStageCanvas'
import { useLevelWay } from '~/composables/levels/useLevelWay'
import { useWayGestures, type PlaceStep } from '~/composables/levels/useWayGestures'
import NeedOutline from '~/components/desk/checks/NeedOutline.vue'
import LevelWay from '~/components/levels/LevelWay.vue'
import { followDrag, type DragAxis, type DragStep } from '~/gestures/drag'
import { hitLevel } from '~/plan/levelHandles'
import { pathMarks } from '~/plan/pathMarks'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useNeededStore } from '~/stores/needed'
import { usePenStore } from '~/stores/pen'
import { extentOf, hitTable, knobOf, outlineOf, type TableBead } from '~/table/tableHit'
import { axisAt, fitTable, frameOnTable, onTable, pxPerFwAt, tablePx, truckedFrame, viewBoxOf, zoomedTable, type Px, type TableFrame, type TableScale } from '~/table/tableScale'

/** The art square on, with the frame of every framing: where one sees how much background a move needs. */
const film = useFilmStore()
const desk = useDeskStore()
const pen = usePenStore()
const needed = useNeededStore()
const { sheet, moods } = useSheet()
const { prepareFrames, signatureOf } = useArt()
const { path, beads, hasMarks, pathKeys } = useCameraPath()
const pane = ref<HTMLElement | null>(null)
const host = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(pane)
const live = ref<string | null>(null)
const held = shallowRef<TableScale | null>(null)
const frozen = shallowRef<TableScale | null>(null)
/** The frames are drawn where they cut the selected level's plane, or the picture plane. */
const onLevel = ref(true)
const ghosted = ref(false)
function toggleGhosts() {
  ghosted.value = !ghosted.value
  if (ghosted.value) pen.ghosts.on = true
}

const rest = computed(() => untouchedPose(film.optics ?? { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }))
const lens = computed(() => lensOf(rest.value, film.optics ?? { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }))
const plane = computed(() => (onLevel.value ? (desk.selectedLevel === null ? 0 : desk.placeOf(desk.selectedLevel.id).depth) : 0))
const planeName = computed(() => (onLevel.value && desk.selectedLevel !== null ? desk.selectedLevel.name : 'the picture plane'))

const UNIT: TableScale = { frameLeft: -0.5, frameTop: 0, frameWidth: 1, widthPx: 1, heightPx: 1 }
const scale = computed<TableScale>(() => {
  const size = { widthPx: width.value, heightPx: height.value }
  if (held.value !== null) return { ...held.value, ...size }
  if (frozen.value !== null) return { ...frozen.value, ...size }
  return desk.stage === null ? { ...UNIT, ...size } : fittedTo(desk.stage)
})
/** The scale that shows all of a shot's frames. */
function fittedTo(stage: TakeStage): TableScale {
  const optics = film.optics
  if (optics === null || width.value === 0) return { ...UNIT, widthPx: width.value, heightPx: height.value }
  const half = 0.5 / optics.aspect
  // Of the shot that comes next the camera that it begins with.
  const cameraId = stage === desk.stage ? desk.cameraAtWorkId : stage.live.at(0)
  const poses = [...(cameraId === null ? [] : stage.framings(cameraId).map((entry) => entry.framing.pose)), stage.poseOf(cameraId, 0)]
  const points = poses.flatMap((pose) => (frameOnTable(UNIT, lens.value, pose, optics, plane.value)?.corners ?? []).map(({ x, y }) => ({ u: x, v: half - y })))
  // A frame that looks far off would leave nothing to see of the others.
  return fitTable(points.filter(({ u, v }) => Math.abs(u) < 12 && Math.abs(v) < 12), optics.aspect, width.value, height.value)
}
watch(() => desk.takeId, () => (held.value = null))

const tableFrame = computed(() => {
  const { stage, stageFrame } = desk
  return stage === null || stageFrame === null ? null : stage.through(stageFrame.frame, stageFrame.cameraId, desk.pose ?? undefined, desk.triedHere, rest.value)
})
const tableSignature = computed(() => (tableFrame.value === null ? '' : signatureOf(tableFrame.value)))
/** A cut changes all of the art within one frame: while it plays a large view is drawn with so many px, a little less sharp. */
const MOST_PLAYED_PX = 250_000
/** Canvas px for a CSS px. */
function resolution(): number {
  const whole = Math.min(2, window.devicePixelRatio || 1)
  return desk.playing ? Math.min(whole, Math.sqrt(MOST_PLAYED_PX / Math.max(1, width.value * height.value))) : whole
}
// What lies behind the next cut is painted before it comes.
watch(
  () => (desk.playing && width.value > 0 ? film.filmStage.shots[((desk.placedShot?.index ?? -1) + 1) % Math.max(1, film.filmStage.shots.length)]?.shot.circledTakeId : undefined),
  async (takeId) => {
    if (takeId === undefined || takeId === desk.takeId) return
    await film.ensureTakeWithArt(takeId).catch(() => undefined)
    const stage = film.stageOf(takeId)
    if (stage === null || !desk.playing) return
    prepareFrames(placedPanels(stage.take).map((panel) => stage.through(panel.startFrame, stage.live.at(panel.startFrame), undefined, null, rest.value)), viewBoxOf(fittedTo(stage), resolution()))
  },
)
const { problem } = useStageCanvas(
  host,
  () => (tableFrame.value === null || width.value === 0 ? null : sheet(tableFrame.value, viewBoxOf(scale.value, resolution()), false, ghosted.value && !desk.playing)),
  // Ghosts are of the panels around.
  () => [ghosted.value, tableSignature.value, ...(ghosted.value ? [tableFrame.value?.panelIndex, desk.take, film.film.drawings] : []), scale.value, ...moods()],
  () => null,
  () => null,
  () => ({ frame: '#a29f98', surround: null }),
)

const seenOnTable = (u: number, v: number) => tablePx(scale.value, film.optics?.aspect ?? 16 / 9, u, v)
const frames = computed<readonly TableBead[]>(() =>
  film.optics === null
    ? []
    : beads.value.flatMap((bead) => {
        const frame = frameOnTable(scale.value, lens.value, bead.pose, film.optics!, plane.value)
        if (frame === null) return []
        return [{ id: bead.id, number: bead.number, colour: `var(--bead-${Math.round(bead.shade * 4)})`, selected: bead.selected, locked: bead.locked, frame, tag: frame.corners[3]! }]
      }),
)
const { others } = useOtherCameras()
/** The shot's other cameras, faint. */
const asideFrames = computed(() => others.value.flatMap(({ letter, pose }) => ((frame) => (frame === null ? [] : [{ letter, frame }]))(frameOnTable(scale.value, lens.value, pose, film.optics!, plane.value))))
const liveFrame = computed(() => (desk.pose === null || film.optics === null ? null : frameOnTable(scale.value, lens.value, desk.pose, film.optics, plane.value)))
/** The framing that the live frame stands for; dragging the one is dragging the other. */
const liveId = computed(() => (desk.trialHere !== null ? null : (desk.framingHere?.framing.id ?? (desk.framings.length === 1 ? desk.framings[0]!.framing.id : null))))
const centreOf = (pose: CameraPose): Px => onTable(scale.value, lens.value, axisAt(pose, film.optics!, plane.value)) ?? { x: -1e4, y: -1e4 }
const track = computed(() => (film.optics === null ? '' : path.value.map((pose, i) => `${i === 0 ? 'M' : 'L'}${centreOf(pose).x.toFixed(1)} ${centreOf(pose).y.toFixed(1)}`).join('')))
const marks = computed(() => (film.optics === null ? [] : pathMarks(pathKeys.value, hasMarks, centreOf)))

/** The way of the level in hand, over its art. */
const level = useLevelWay((point) => onTable(scale.value, lens.value, point))
const ways = useWayGestures(level, (text) => (live.value = text), () => (frozen.value = null))

/** What has corners and a knob to take hold of: the live frame and what is chosen. */
const grips = computed(() => {
  if (desk.playing) return []
  const chosen = frames.value.filter((each) => each.selected && each.id !== liveId.value && !each.locked).map(({ id, frame }) => ({ id: id as string | null, frame }))
  return liveFrame.value === null || desk.cameraMode === 'locked' ? chosen : [...chosen, { id: null, frame: liveFrame.value }]
})

const local = (event: { clientX: number; clientY: number }): Px => {
  const box = pane.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}
const hit = (at: Px) => hitTable({ grips: grips.value, marks: marks.value, frames: frames.value, live: liveFrame.value, liveId: liveId.value }, at)
const hover = ref<string>('default')
function onHover(event: PointerEvent) {
  if (event.buttons !== 0 || desk.playing) return
  hover.value = { knob: 'crosshair', corner: 'nwse-resize', frame: 'grab', mark: 'move', none: 'default' }[hit(local(event))?.kind ?? 'none']
}

const gestures = useFramingGestures((text) => (live.value = text), () => (frozen.value = null))
/** Table px to the set: as far as the plane of the frames moves. */
const toSet = (dx: number, dy: number) => ({ x: dx / pxPerFwAt(scale.value, lens.value, plane.value), y: -dy / pxPerFwAt(scale.value, lens.value, plane.value), depth: 0 })

function onDown(event: PointerEvent) {
  if (desk.playing || film.optics === null) return
  const at = local(event)
  const onWay = event.button === 0 ? hitLevel(null, level.way.value, at, false) : null
  if (onWay?.kind === 'key' || onWay?.kind === 'mark') {
    frozen.value = scale.value
    const placeAt: PlaceStep = ({ dx, dy, axis }, start) => slidOnTable(start, dx, dy, axis)
    return onWay.kind === 'key' ? ways.dragKey(event, onWay.id, placeAt) : ways.dragMark(event, onWay.mark, placeAt)
  }
  const found = event.button === 0 ? hit(at) : null
  if (found === null) return event.button === 0 || event.button === 1 ? pan(event) : undefined
  frozen.value = scale.value
  if (found.kind === 'mark') return gestures.dragMark(event, marks.value[found.index]!, toSet)
  const step = { frame: sliding, corner: event.altKey ? zooming(found.frame, at) : trucking(found.frame, at), knob: rolling(found.frame) }[found.kind]
  const label = { frame: 'move framing', corner: event.altKey ? 'zoom framing' : 'truck framing', knob: 'roll framing' }[found.kind]
  const id = found.id ?? liveId.value
  if (id !== null) gestures.dragFraming(event, id, step, label)
  else gestures.dragLive(event, step, undefined, () => (frozen.value = null))
}

/** A place as far as its own depth moves on the table; Z held moves it in depth. */
function slidOnTable(start: Point3, dx: number, dy: number, axis: DragAxis | null): Point3 {
  const pxPerFw = pxPerFwAt(scale.value, lens.value, start.depth)
  const by = { x: dx / pxPerFw, y: -dy / pxPerFw }
  if (axis === 'depth') return { ...start, depth: start.depth + by.y }
  return { ...start, x: start.x + (axis === 'y' ? 0 : by.x), y: start.y + (axis === 'x' ? 0 : by.y) }
}

const sliding: PoseStep = ({ dx, dy, event, axis }: DragStep, start) => {
  let by = toSet(dx, dy)
  const alone = axis ?? (event.shiftKey ? (Math.abs(dx) > Math.abs(dy) ? 'x' : 'y') : null)
  if (alone !== null) by = alone === 'depth' ? { x: 0, y: 0, depth: -by.y } : { ...by, [alone === 'x' ? 'y' : 'x']: 0 }
  const pose = { ...start, ...add(start, by) }
  return { pose, told: alone === 'depth' ? `depth ${pose.depth.toFixed(3)}` : `x ${pose.x.toFixed(3)}  y ${pose.y.toFixed(3)}` }
}
const growth = (frame: TableFrame, from: Px, { event }: DragStep) => Math.max(0.02, Math.hypot(local(event).x - frame.centre.x, local(event).y - frame.centre.y) / Math.max(4, Math.hypot(from.x - frame.centre.x, from.y - frame.centre.y)))
const trucking =
  (frame: TableFrame, from: Px): PoseStep =>
  (step, start) => {
    const factor = growth(frame, from, step)
    const pose = truckedFrame(start, film.optics!, plane.value, factor)
    return { pose, told: `truck ${factor < 1 ? 'in' : 'out'}: ${(factor * 100).toFixed(0)} % of the distance, depth ${pose.depth.toFixed(3)}` }
  }
const zooming =
  (frame: TableFrame, from: Px): PoseStep =>
  (step, start) => {
    const pose = zoomPose(start, 1 / growth(frame, from, step))
    return { pose, told: `zoom: lens ${pose.focalLengthMm.toFixed(1)} mm` }
  }
const rolling =
  (frame: TableFrame): PoseStep =>
  ({ event }, start) => {
    const at = local(event)
    const angle = (Math.atan2(at.x - frame.centre.x, -(at.y - frame.centre.y)) * 180) / Math.PI
    const rollDegrees = event.shiftKey ? Math.round(angle / 15) * 15 : Math.round(angle * 10) / 10
    return { pose: { ...start, rollDegrees }, told: `roll ${rollDegrees.toFixed(1)}°` }
  }

function pan(event: PointerEvent) {
  const start = scale.value
  followDrag(event, {
    move: ({ dx, dy }) => (held.value = { ...start, frameLeft: start.frameLeft + dx, frameTop: start.frameTop + dy }),
    end: () => undefined,
    cancel: () => (held.value = null),
  })
}
function onWheel(event: WheelEvent) {
  event.preventDefault()
  const at = local(event)
  held.value = zoomedTable(scale.value, at.x, at.y, Math.exp(-event.deltaY * 0.0015))
}
function onKey(event: KeyboardEvent) {
  const step = 0.01 * (event.shiftKey ? 10 : 1)
  const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key]
  if (by === undefined || desk.pose === null || event.altKey || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  event.stopPropagation()
  const camera = desk.beginCamera('nudge camera')
  camera.update({ ...desk.pose, x: desk.pose.x + by[0]!, y: desk.pose.y + by[1]! })
  camera.end()
}
const sees = computed(() => {
  const optics = film.optics
  if (optics === null || desk.framings.length < 2) return null
  // What of the plane any frame of the move sees: the background that is needed there.
  const seen = extentOf(frames.value.flatMap(({ frame }) => frame.corners), pxPerFwAt(scale.value, lens.value, plane.value))
  return seen === null ? null : `${seen.width.toFixed(2)} × ${seen.height.toFixed(2)} fw`
})
</script>

<template>
  <section class="table" aria-label="Table">
    <div
      ref="pane"
      class="pane"
      tabindex="0"
      role="application"
      aria-label="Table: drag a frame to move it, its corner to truck, Alt and its corner to zoom, its knob to roll; handles and diamonds bend the path; arrows nudge the camera"
      :style="{ cursor: hover }"
      @pointerdown="onDown"
      @pointermove="onHover"
      @wheel="onWheel"
      @dblclick="hit(local($event)) === null && (held = null)"
      @keydown="onKey"
    >
      <div ref="host" class="host" data-test="table" />
      <svg class="overlay" :width="width" :height="height" aria-hidden="true">
        <path class="rest" :d="`M${scale.frameLeft} ${scale.frameTop}h${scale.frameWidth}v${scale.frameWidth / (film.optics?.aspect ?? 1.78)}h${-scale.frameWidth}Z`" />
        <g v-for="each in asideFrames" :key="each.letter" class="other" data-test="table-other"><path :d="outlineOf(each.frame)" /><text :x="each.frame.corners[0]!.x + 4" :y="each.frame.corners[0]!.y - 4">{{ each.letter }}</text></g>
        <path class="track" :d="track" />
        <g v-for="each in frames" :key="each.id" :data-framing="each.number">
          <path class="still" :class="{ selected: each.selected }" :d="outlineOf(each.frame)" :style="{ stroke: each.colour }" />
          <g :transform="`translate(${each.tag.x} ${each.tag.y})`">
            <rect class="tag" y="-14" width="20" height="14" :style="{ fill: each.colour }" />
            <text class="tag-text" x="10" y="-3">{{ each.number }}</text>
            <text v-if="each.locked" class="lock-text" x="24" y="-3">locked</text>
          </g>
        </g>
        <path v-if="liveFrame" class="live" :class="{ looking: desk.trialHere !== null }" :d="outlineOf(liveFrame)" data-test="table-live" />
        <template v-for="mark in marks" :key="`${mark.keyId}:${mark.kind}:${mark.kind === 'handle' ? mark.end : ''}`">
          <line v-if="mark.kind === 'handle'" class="arm" :x1="mark.from.x" :y1="mark.from.y" :x2="mark.at.x" :y2="mark.at.y" />
          <circle v-if="mark.kind === 'handle'" class="grip" :cx="mark.at.x" :cy="mark.at.y" r="4.5" :data-handle="mark.end" />
          <path v-else class="grip" :d="`M${mark.at.x} ${mark.at.y - 6}l6 6l-6 6l-6 -6Z`" data-handle="middle" />
        </template>
        <g v-for="grip in grips" :key="grip.id ?? 'live'">
          <line class="arm" :x1="grip.frame.top.x" :y1="grip.frame.top.y" :x2="knobOf(grip.frame).x" :y2="knobOf(grip.frame).y" />
          <circle class="grip" :cx="knobOf(grip.frame).x" :cy="knobOf(grip.frame).y" r="4.5" />
          <rect v-for="(corner, i) in grip.frame.corners" :key="i" class="grip" :x="corner.x - 3.5" :y="corner.y - 3.5" width="7" height="7" />
        </g>
      </svg>
      <NeedOutline :frame="tableFrame" :lens="lens" :width="width" :height="height" :to-pane="seenOnTable" />
      <LevelWay :way="level.way.value" :width="width" :height="height" />
      <p v-if="live" class="told" role="status">{{ live }}</p>
      <div class="corner" @pointerdown.stop @dblclick.stop>
        <span v-if="sees && !live" class="chip" title="How much of this plane the framings see together">{{ sees }}</span>
        <button class="chip" :aria-pressed="onLevel && desk.selectedLevel !== null" title="Where the frames are drawn: on the selected level, or on the picture plane" @click="onLevel = !onLevel">on {{ planeName }}</button>
        <button class="chip" :aria-pressed="needed.shown" title="The outline of the art that the moves of all shots need of the chosen level (Alt Shift B)" @click="needed.shown = !needed.shown">Needed</button>
        <button class="chip" :aria-pressed="ghosted" title="The neighbouring panels as ghosts, as many as Draw shows" @click="toggleGhosts">Ghosts</button>
        <button v-if="held" class="chip" title="Show everything (double click)" @click="held = null">Fit</button>
      </div>
      <p v-if="problem" class="told wrong">{{ problem }}</p>
    </div>
  </section>
</template>

<style scoped src="./artView.css"></style>
<style scoped>
.table {
  height: 100%;
}
.other path {
  fill: none;
  stroke: var(--ink-3);
  stroke-dasharray: 4 4;
}
.other text {
  fill: var(--ink-2);
  font-size: 11px;
  font-weight: 600;
}
.rest {
  stroke: #ffffff;
  stroke-opacity: 0.55;
  stroke-dasharray: 2 4;
}
.track {
  stroke: var(--bead-3);
  stroke-width: 1.4;
  stroke-dasharray: 3 3;
}
.still {
  stroke-width: 1.6;
}
.still.selected {
  stroke-width: 3;
}
.live {
  stroke: #1b1813;
  stroke-width: 2;
}
.live.looking {
  stroke-dasharray: 6 4;
}
.arm {
  stroke: #1b1813;
}
.overlay .grip {
  fill: #ffffff;
  stroke: #1b1813;
  stroke-width: 1.3;
}
.tag-text {
  fill: #ffffff;
  font-size: 11px;
  font-weight: 700;
  text-anchor: middle;
}
.lock-text {
  fill: #ffffff;
  font-size: 11px;
}
.told {
  position: absolute;
  bottom: 6px;
  left: 6px;
  margin: 0;
  padding: 3px 9px;
  border-radius: 5px;
  background: var(--ink);
  color: var(--paper-0);
  pointer-events: none;
}
</style>
