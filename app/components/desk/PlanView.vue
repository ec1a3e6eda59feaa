<script setup lang="ts">
import type { CameraPose } from '@rubato/core/camera'
import { levelPlane, pointOnPlane } from '@rubato/core/depth'
import { shownCell } from '@rubato/core/document'
import { setLevelDepth, editLevel } from '@rubato/core/edits'
import { useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useInkColours } from '~/composables/useInkColours'
import { followDrag } from '~/gestures/drag'
import { drawPlan, type PlanLevel, type PlanScene } from '~/plan/drawPlan'
import { fitPlan, fromPlanPx, toPlanPx, type PlanScale } from '~/plan/planScale'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { drawingBounds } from '~/viewport/paint'

const film = useFilmStore()
const desk = useDeskStore()
const { colours } = useInkColours()
const canvas = ref<HTMLCanvasElement | null>(null)
const pane = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(pane)
const live = ref<string | null>(null)
/** The artist's own zoom and place; null fits everything. */
const held = shallowRef<{ pxPerFw: number; centreX: number; centreDepth: number } | null>(null)
const hover = ref<'camera' | 'level' | null>(null)

const bars = computed<readonly PlanLevel[]>(() =>
  desk.levels.map((level) => {
    const cell = desk.take === null ? null : shownCell(desk.take, level, desk.placedPanel?.index ?? 0)
    const drawing = cell === null ? null : film.drawingOf(cell.drawingId)
    const bounds = drawing === null ? null : drawingBounds(drawing)
    const plane = levelPlane(level)
    const a = pointOnPlane(plane, { x: bounds?.left ?? 0, y: 0 })
    const b = pointOnPlane(plane, { x: bounds?.right ?? 0, y: 0 })
    return { id: level.id, name: level.name, depth: level.depth, ends: [a, b], selected: level.id === desk.selectedLevelId, visible: level.visible }
  }),
)
const path = computed<readonly CameraPose[]>(() => {
  const { stage, framings } = desk
  if (stage === null || framings.length < 2) return []
  const [first, last] = [framings[0]!.frame, framings.at(-1)!.frame]
  const steps = Math.min(160, last - first)
  return Array.from({ length: steps + 1 }, (_, i) => stage.poseAt(first + ((last - first) * i) / Math.max(1, steps)))
})
const dragging = ref(false)
let frozen: PlanScale | null = null
const scale = computed<PlanScale>(() => {
  if (held.value !== null) return { ...held.value, widthPx: width.value, heightPx: height.value }
  if (dragging.value && frozen !== null) return { ...frozen, widthPx: width.value, heightPx: height.value }
  const poses = desk.framings.map((entry) => entry.framing.pose)
  const here = desk.stage?.poseAt(0)
  // Far bars may be cut off; what the camera does and each level's depth must be seen.
  const points = [...poses, ...(here ? [here] : []), ...desk.levels.map((level) => ({ x: 0, depth: level.depth }))]
  return fitPlan(points, width.value, height.value)
})

function draw() {
  const context = canvas.value?.getContext('2d')
  if (!context || desk.stageFrame === null || width.value === 0) return
  const ratio = window.devicePixelRatio || 1
  const [w, h] = [Math.round(width.value * ratio), Math.round(height.value * ratio)]
  if (context.canvas.width !== w || context.canvas.height !== h) Object.assign(context.canvas, { width: w, height: h })
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  const total = desk.framings.length
  const scene: PlanScene = {
    lens: desk.stageFrame.lens,
    levels: bars.value,
    path: path.value,
    framings: desk.framings.map((entry, i) => ({
      id: entry.framing.id,
      pose: entry.framing.pose,
      number: i + 1,
      shade: total < 2 ? 1 : i / (total - 1),
      selected: desk.selectedFramingIds.includes(entry.framing.id),
    })),
    live: live.value,
  }
  drawPlan(context, scale.value, scene, colours.value)
}
watch(() => [desk.stageFrame, bars.value, path.value, scale.value, colours.value, live.value, desk.selectedFramingIds], draw, { flush: 'post' })

const local = (event: { clientX: number; clientY: number }) => {
  const box = pane.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}

function hit(event: PointerEvent): { kind: 'camera' } | { kind: 'level'; id: string } | null {
  const at = local(event)
  if (desk.pose !== null) {
    const cam = toPlanPx(scale.value, desk.pose.x, desk.pose.depth)
    if (Math.hypot(at.x - cam.x, at.y - cam.y) < 14) return { kind: 'camera' }
  }
  let best: { id: string; distance: number } | null = null
  for (const level of bars.value) {
    const [a, b] = level.ends.map((end) => toPlanPx(scale.value, end.x, end.depth)) as [{ x: number; y: number }, { x: number; y: number }]
    const t = Math.max(0, Math.min(1, ((at.x - a.x) * (b.x - a.x) + (at.y - a.y) * (b.y - a.y)) / Math.max(1e-6, (b.x - a.x) ** 2 + (b.y - a.y) ** 2)))
    const distance = Math.hypot(at.x - a.x - t * (b.x - a.x), at.y - a.y - t * (b.y - a.y))
    if (distance < 7 && (best === null || distance < best.distance || level.selected)) best = { id: level.id, distance }
  }
  return best === null ? null : { kind: 'level', id: best.id }
}

function onDown(event: PointerEvent) {
  if (desk.playing) return
  if (event.button === 1) return pan(event)
  if (event.button !== 0) return
  const found = hit(event)
  frozen = scale.value
  if (found === null) return pan(event)
  if (found.kind === 'camera') dragCamera(event)
  else dragLevel(event, found.id)
}

function pan(event: PointerEvent) {
  const start = scale.value
  followDrag(event, {
    move: ({ dx, dy }) => (held.value = { pxPerFw: start.pxPerFw, centreX: start.centreX - dx / start.pxPerFw, centreDepth: start.centreDepth + dy / start.pxPerFw }),
    end: () => undefined,
    cancel: () => undefined,
  })
}

function dragCamera(event: PointerEvent) {
  const start = desk.pose!
  const turning = event.shiftKey
  let camera: ReturnType<typeof desk.beginCamera> | null = null
  followDrag(event, {
    begin: () => {
      camera = desk.beginCamera()
      dragging.value = true
    },
    move: ({ dx, dy, event: step }) => {
      if (turning) {
        const to = fromPlanPx(scale.value, local(step).x, local(step).y)
        const panDegrees = (Math.atan2(to.x - start.x, to.depth - start.depth) * 180) / Math.PI
        camera!.update({ ...start, panDegrees })
        live.value = `pan ${panDegrees.toFixed(1)}°`
        return
      }
      const next = { ...start, x: start.x + dx / scale.value.pxPerFw, depth: start.depth - dy / scale.value.pxPerFw }
      camera!.update(next)
      live.value = `x ${next.x.toFixed(3)}  depth ${next.depth.toFixed(3)}`
    },
    end: () => {
      camera?.end()
      done()
    },
    cancel: () => {
      camera?.abandon()
      done()
    },
  })
}

function dragLevel(event: PointerEvent, id: string) {
  desk.selectedLevelId = id
  const [takeId, level] = [desk.takeId!, desk.take!.levels[id]!]
  const camera = desk.keepPicture ? desk.pose : null
  let gesture: ReturnType<typeof film.beginGesture> | null = null
  followDrag(event, {
    begin: () => {
      gesture = film.beginGesture(`move ${level.name} in the plan`)
      dragging.value = true
    },
    move: ({ dx, dy, event: step }) => {
      if (step.shiftKey) {
        const x = level.x + dx / scale.value.pxPerFw
        gesture!.update((f) => editLevel(f.takes[takeId]!, takeId, id, { x }))
        live.value = `x ${x.toFixed(3)}`
        return
      }
      const raw = level.depth - dy / scale.value.pxPerFw
      const depth = Math.abs(raw) < 4 / scale.value.pxPerFw ? 0 : Math.round(raw * 1000) / 1000
      gesture!.update((f) => setLevelDepth(f.takes[takeId]!, takeId, id, depth, camera))
      live.value = `depth ${depth.toFixed(3)}${camera === null ? '' : ', picture kept'}`
    },
    end: () => {
      gesture?.commit()
      done()
    },
    cancel: () => {
      gesture?.abandon()
      done()
    },
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
  const point = fromPlanPx(scale.value, at.x, at.y)
  const pxPerFw = Math.min(2000, Math.max(2, scale.value.pxPerFw * Math.exp(-event.deltaY * 0.0015)))
  held.value = {
    pxPerFw,
    centreX: point.x - (at.x - width.value / 2) / pxPerFw,
    centreDepth: point.depth + (at.y - height.value / 2) / pxPerFw,
  }
}

function onHover(event: PointerEvent) {
  hover.value = event.buttons === 0 ? (hit(event)?.kind ?? null) : hover.value
}

function onKey(event: KeyboardEvent) {
  const step = 0.01 * (event.shiftKey ? 10 : 1)
  const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key]
  if (by === undefined || desk.pose === null) return
  event.preventDefault()
  event.stopPropagation()
  const camera = desk.beginCamera('nudge camera')
  camera.update({ ...desk.pose, x: desk.pose.x + by[0]!, depth: desk.pose.depth + by[1]! })
  camera.end()
}
</script>

<template>
  <section class="plan" aria-label="Plan">
    <header><b>Plan</b><span class="quiet">overhead</span><span class="grow" /><button v-if="held" class="chip" title="Show everything" @click="held = null">Fit</button></header>
    <div
      ref="pane"
      class="pane"
      tabindex="0"
      role="application"
      aria-label="Plan: drag the camera or a level; Shift-drag turns the camera or slides a level; arrows nudge the camera"
      :style="{ cursor: hover === 'camera' ? 'grab' : hover === 'level' ? 'ns-resize' : 'default' }"
      @pointerdown="onDown"
      @pointermove="onHover"
      @wheel="onWheel"
      @dblclick="held = null"
      @keydown="onKey"
    >
      <canvas ref="canvas" data-test="plan" />
    </div>
  </section>
</template>

<style scoped>
.plan {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-width: 0;
}
header {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 36px;
  padding: 0 10px;
  background: var(--paper-0);
}
.grow {
  flex: 1;
}
.pane {
  flex: 1;
  min-height: 0;
  overflow: hidden;
  touch-action: none;
}
canvas {
  display: block;
  width: 100%;
  height: 100%;
}
</style>
