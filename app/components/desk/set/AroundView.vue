<script setup lang="ts">
import { drawingBounds } from '@rubato/core/ink'
import { basisOf, lensOf, NEAREST_Z, project, unproject, type CameraPose } from '@rubato/core/camera'
import { add, cornersOf, scale, type Point3 } from '@rubato/core/geometry'
import { pointOnPlane } from '@rubato/core/depth'
import type { StageFrame } from '@rubato/core/stage'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useArt } from '~/composables/view/useArt'
import AroundTurn from '~/components/desk/set/AroundTurn.vue'
import LevelWay from '~/components/levels/LevelWay.vue'
import { useLevelWay } from '~/composables/levels/useLevelWay'
import { useCameraPath } from '~/composables/camera/useCameraPath'
import { useStageCanvas } from '~/composables/view/useStageCanvas'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import type { ViewBox } from '~/viewport/composition'

/** The whole set with its camera, seen from wherever one likes: looking around changes nothing. */
const film = useFilmStore()
const desk = useDeskStore()
const art = useArt()
const { path, beads } = useCameraPath()
const pane = ref<HTMLElement | null>(null)
const host = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(pane)
const EYE_MM = 35
/** The rings that turn a level are as large at any distance. */
const RING = 0.1
const USUAL = { yaw: 38, pitch: 18 }
const turn = ref({ ...USUAL })
const moved = ref<{ centre: Point3; distance: number } | null>(null)
const turning = ref(false)

/** What there is to see: from the camera to the farthest level. */
const whole = computed(() => {
  const points: Point3[] = [...desk.framings.map((entry) => entry.framing.pose), ...(desk.stage === null ? [] : [desk.stage.poseOf(desk.cameraAtWorkId, 0)]), ...desk.levels.filter((level) => level.visible)]
  const range = (field: 'x' | 'y' | 'depth') => [Math.min(...points.map((point) => point[field])), Math.max(...points.map((point) => point[field]))] as const
  if (points.length === 0) return { centre: { x: 0, y: 0, depth: 0 }, distance: 4 }
  const [x, y, depth] = [range('x'), range('y'), range('depth')]
  const reach = Math.max(1.2, x[1] - x[0], y[1] - y[0], depth[1] - depth[0])
  return { centre: { x: (x[0] + x[1]) / 2, y: (y[0] + y[1]) / 2, depth: (depth[0] + depth[1]) / 2 }, distance: reach * 1.35 + 0.6 }
})
watch(() => desk.takeId, () => (moved.value = null))
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
const seen = computed<StageFrame | null>(() => {
  const { stage, stageFrame } = desk
  if (stage === null || stageFrame === null) return null
  return stage.through(stageFrame.frame, stageFrame.cameraId, desk.pose ?? undefined, desk.triedHere, eye.value)
})
const signature = computed(() => (seen.value === null ? '' : art.signatureOf(seen.value)))
const { problem } = useStageCanvas(
  host,
  () => (seen.value === null || width.value === 0 ? null : art.composeFrame(seen.value, viewBox())),
  () => [signature.value, width.value, height.value, turning.value],
  () => null,
  () => null,
  { frame: '#8b8881', surround: null },
)

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
/** The camera's field as far as the picture plane, or a step ahead where it looks away. */
const field = computed(() => {
  const own = desk.stageFrame?.lens
  if (own === undefined) return null
  const reach = Math.min(8, Math.max(0.4, own.forward.depth > 0.1 ? -own.position.depth / own.forward.depth : 1))
  const corners = [[-0.5, -own.halfHeight], [0.5, -own.halfHeight], [0.5, own.halfHeight], [-0.5, own.halfHeight]].map(([u, v]) => unproject(own, u!, v!, reach))
  return { rays: corners.map((corner) => line([own.position, corner])).join(''), frame: line(corners, true), at: px(own.position) }
})
const track = computed(() => line(path.value))
const dots = computed(() => beads.value.flatMap((bead) => ((at) => (at === null ? [] : [{ ...bead, at, colour: `var(--bead-${Math.round(bead.shade * 4)})` }]))(px(bead.pose))))
const level = useLevelWay(px)
const outlines = computed(() =>
  (seen.value?.levels ?? []).flatMap((placed) => {
    const drawing = placed.drawingId === null ? null : film.drawingOf(placed.drawingId)
    const bounds = drawing === null ? null : drawingBounds(drawing)
    return bounds === null ? [] : [{ id: placed.level.id, d: line(cornersOf(bounds).map((corner) => pointOnPlane(placed.plane, corner)), true), selected: desk.chosenLevelIds.includes(placed.level.id) }]
  }),
)

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
function back() {
  turn.value = { ...USUAL }
  moved.value = null
}
const FROM = [
  { name: 'Behind', title: 'From behind the camera', yaw: 0, pitch: 12 },
  { name: 'Left', title: 'From the set’s left', yaw: 88, pitch: 6 },
  { name: 'Above', title: 'From above', yaw: 0, pitch: 80 },
] as const
</script>

<template>
  <section class="around" aria-label="Around">
    <div ref="pane" class="pane" tabindex="0" role="application" aria-label="Around: drag to look around, Shift-drag to slide, wheel to come nearer; the camera is not touched" @pointerdown="onDown" @wheel="onWheel" @dblclick="back" @keydown="onKey">
      <div ref="host" class="host" data-test="around" :data-yaw="turn.yaw.toFixed(1)" />
      <svg class="overlay" :width="width" :height="height" aria-hidden="true">
        <path v-for="each in outlines" :key="each.id" class="edge" :class="{ selected: each.selected }" :d="each.d" />
        <path class="track" :d="track" />
        <template v-if="field">
          <path class="ray" :d="field.rays" />
          <path class="frame" :d="field.frame" />
          <circle v-if="field.at" class="camera" :cx="field.at.x" :cy="field.at.y" r="6" />
        </template>
        <g v-for="dot in dots" :key="dot.id">
          <ellipse class="bead" :cx="dot.at.x" :cy="dot.at.y" rx="5.5" ry="4" :style="{ fill: dot.colour }" :transform="`rotate(-24 ${dot.at.x} ${dot.at.y})`" />
          <text class="number" :x="dot.at.x + 7" :y="dot.at.y + 12">{{ dot.number }}</text>
        </g>
      </svg>
      <LevelWay :way="level.way.value" :width="width" :height="height" />
      <AroundTurn :width="width" :height="height" :px="px" :radius="place.distance * RING" />
      <div class="corner" @pointerdown.stop @dblclick.stop>
        <button v-for="from in FROM" :key="from.name" class="chip" :title="from.title" @click="turn = { yaw: from.yaw, pitch: from.pitch }">{{ from.name }}</button>
        <button class="chip" title="As it was first (double click)" @click="back">Reset</button>
      </div>
      <p v-if="problem" class="note">{{ problem }}</p>
    </div>
  </section>
</template>

<style scoped src="./artView.css"></style>
<style scoped>
.around {
  height: 100%;
}
.pane {
  cursor: move;
}
.edge {
  stroke: #ffffff;
  stroke-opacity: 0.4;
}
.edge.selected {
  stroke: #cfe3f0;
  stroke-opacity: 1;
  stroke-width: 2;
}
.track {
  stroke: #cfe3f0;
  stroke-width: 1.5;
  stroke-dasharray: 4 3;
}
.ray {
  stroke: #1b1813;
  stroke-opacity: 0.6;
}
.frame {
  stroke: #1b1813;
  stroke-width: 2;
}
.camera {
  fill: #1b1813;
  stroke: #ffffff;
}
.number {
  fill: #ffffff;
  font-size: 11px;
}
.note {
  position: absolute;
  top: 4px;
  left: 8px;
  margin: 0;
  padding: 2px 8px;
  background: var(--paper-0);
  color: var(--vermilion-text);
}
</style>
