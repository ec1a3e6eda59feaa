<script setup lang="ts">
import { lensOf, NEAREST_Z, project } from '@rubato/core/camera'
import type { AimSpan, FollowSpan } from '@rubato/core/document'
import { changeSpan } from '@rubato/core/edits'
import { computed, ref } from 'vue'
import { useSpans } from '~/composables/camera/useSpans'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** Of what the camera goes after: its place in the picture, the still zone and the lead room, each to be dragged. */
const props = defineProps<{
  toPane: (u: number, v: number) => { readonly x: number; readonly y: number }
  toFrame: (event: { clientX: number; clientY: number }) => { readonly u: number; readonly v: number }
  width: number
  height: number
}>()
const film = useFilmStore()
const desk = useDeskStore()
const { shown, wordOf } = useSpans()
const told = ref<string | null>(null)
const dragging = ref(false)

type Chaser = FollowSpan | AimSpan
const GRIP_PX = 13
const marks = computed(() => {
  const [stage, placed] = [desk.stage, shown.value]
  if (desk.playing || stage === null || film.optics === null || placed === null || desk.pose === null) return null
  const { span } = placed
  if (span.kind === 'hand') return null
  const now = stage.workOf(desk.cameraAtWorkId)?.toldAt(desk.shotFrame).find((each) => each.placed.span.id === span.id)
  if (now === undefined || now.place === null || now.point === null) return null
  const seen = project(lensOf(desk.pose, film.optics), now.point)
  const still = span.kind === 'follow' ? span.still : null
  const { place } = now
  const corner = (su: number, sv: number) => props.toPane(place.u + (su * (still?.widthFw ?? 0)) / 2, place.v + (sv * (still?.heightFw ?? 0)) / 2)
  const [a, b] = [corner(-1, 1), corner(1, -1)]
  return {
    span,
    mark: props.toPane(span.u, span.v),
    place: props.toPane(now.place.u, now.place.v),
    leads: Math.hypot(now.place.u - span.u, now.place.v - span.v) > 0.002,
    still: still === null || still.widthFw + still.heightFw === 0 ? null : { x: a.x, y: a.y, width: b.x - a.x, height: b.y - a.y },
    // Of one that has no size the grip lies beside the ring, to be pulled out.
    grip: still === null ? null : b.x - a.x < GRIP_PX && b.y - a.y < GRIP_PX ? { x: b.x + GRIP_PX, y: b.y + GRIP_PX } : b,
    point: seen.z > NEAREST_Z ? props.toPane(seen.u, seen.v) : null,
  }
})
const thirds = computed(() => {
  const half = 0.5 / (film.optics?.aspect ?? 1.78)
  return [-1 / 6, 1 / 6].flatMap((at) => {
    const [p, q, r, s] = [props.toPane(at, half), props.toPane(at, -half), props.toPane(-0.5, at * 2 * half), props.toPane(0.5, at * 2 * half)]
    return [`M${p.x} ${p.y}L${q.x} ${q.y}`, `M${r.x} ${r.y}L${s.x} ${s.y}`]
  }).join('')
})
const SNAP_FW = 0.012
const EDGE_FW = 0.01
/** A third or the middle, where it is nearly there. */
const near = (value: number, half: number) => [-half / 3, 0, half / 3].find((at) => Math.abs(value - at) < SNAP_FW) ?? value
const figure = (value: number) => value.toFixed(3).replace('-', '−')

function drag(event: PointerEvent, label: string, settingsOf: (at: { u: number; v: number }, step: PointerEvent) => { readonly settings: Partial<Chaser>; readonly words: string }) {
  const [span, takeId] = [marks.value?.span, desk.takeId]
  if (event.button !== 0 || span === undefined || takeId === null) return
  event.stopPropagation()
  let gesture: Gesture | null = null
  const over = (how: 'commit' | 'abandon') => {
    gesture?.[how]()
    told.value = null
    dragging.value = false
  }
  followDrag(event, {
    begin: () => {
      desk.selectedSpanId = span.id
      gesture = film.beginGesture(`${label} of ${wordOf(span)}`)
      dragging.value = true
    },
    move: ({ event: step }) => {
      const { settings, words } = settingsOf(props.toFrame(step), step)
      if (gesture!.update((f) => changeSpan(f.takes[takeId]!, takeId, span.id, settings as never))) told.value = words
    },
    end: () => over('commit'),
    cancel: () => over('abandon'),
    click: () => (desk.selectedSpanId = span.id),
  })
}
function dragPlace(event: PointerEvent) {
  const half = 0.5 / film.optics!.aspect
  drag(event, 'place in the picture', (at, step) => {
    const free = step.ctrlKey || step.metaKey
    const u = Math.min(0.5, Math.max(-0.5, free ? at.u : near(at.u, 0.5)))
    const v = Math.min(half, Math.max(-half, free ? at.v : near(at.v, half)))
    return { settings: { u, v }, words: `u ${figure(u)}   v ${figure(v)}` }
  })
}
function dragStill(event: PointerEvent) {
  const place = marks.value?.place
  const start = marks.value?.span
  if (place === undefined || start?.kind !== 'follow') return
  const centre = desk.stage!.workOf(desk.cameraAtWorkId)!.toldAt(desk.shotFrame).find((each) => each.placed.span.id === start.id)!.place!
  const from = props.toFrame(event)
  const isGrip = (event.currentTarget as Element).classList.contains('grip')
  // An edge is dragged its own way, a corner both.
  const nearEdge = (off: number, size: number) => Math.abs(Math.abs(off) - size / 2) < EDGE_FW
  const [wide, high] = [isGrip || nearEdge(from.u - centre.u, start.still.widthFw), isGrip || nearEdge(from.v - centre.v, start.still.heightFw)]
  drag(event, 'still zone', (at) => {
    const widthFw = wide ? Math.min(1, Math.abs(at.u - centre.u) * 2) : start.still.widthFw
    const heightFw = high ? Math.min(1, Math.abs(at.v - centre.v) * 2) : start.still.heightFw
    return { settings: { still: { widthFw, heightFw } } as Partial<FollowSpan>, words: `still zone ${figure(widthFw)} × ${figure(heightFw)} fw` }
  })
}
</script>

<template>
  <svg v-if="marks" class="work" :width="width" :height="height" data-test="work-marks">
    <path v-if="dragging" class="third" :d="thirds" />
    <rect v-if="marks.still" class="still" v-bind="marks.still" />
    <rect v-if="marks.still" class="edges" v-bind="marks.still" @pointerdown="dragStill"><title>The still zone: inside it the camera does not move; drag an edge</title></rect>
    <path v-if="marks.point" class="tie" :d="`M${marks.place.x} ${marks.place.y}L${marks.point.x} ${marks.point.y}`" />
    <path v-if="marks.point" class="point" :d="`M${marks.point.x - 4} ${marks.point.y - 4}l8 8m0 -8l-8 8`" />
    <path v-if="marks.leads" class="lead" :d="`M${marks.place.x} ${marks.place.y}L${marks.mark.x} ${marks.mark.y}`" />
    <circle v-if="marks.leads" class="led" :cx="marks.place.x" :cy="marks.place.y" r="3" />
    <rect v-if="marks.grip" class="grip" :x="marks.grip.x - 4" :y="marks.grip.y - 4" width="8" height="8" data-test="still-grip" @pointerdown="dragStill"><title>The still zone: inside it the camera does not move</title></rect>
    <circle class="mark" :cx="marks.mark.x" :cy="marks.mark.y" r="8" data-test="work-mark" @pointerdown="dragPlace"><title>{{ marks.span.kind === 'follow' ? 'Where the figure is to be in the picture' : 'Where the point is to stay in the picture' }}: drag it; it catches on thirds, Ctrl lets it go</title></circle>
    <circle class="dot" :cx="marks.mark.x" :cy="marks.mark.y" r="1.5" />
  </svg>
  <p v-if="told" class="told" role="status">{{ told }}</p>
</template>

<style scoped>
.work {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.still,
.lead,
.tie,
.point,
.third {
  fill: none;
  stroke: #2a6a99;
  stroke-width: 1.5;
}
.still {
  stroke-dasharray: 5 3;
}
.edges {
  fill: none;
  stroke: transparent;
  stroke-width: 9;
  cursor: move;
  pointer-events: stroke;
}
.tie {
  stroke-opacity: 0.5;
  stroke-width: 1;
  stroke-dasharray: 2 3;
}
.third {
  stroke-opacity: 0.5;
  stroke-width: 1;
}
.mark {
  fill: rgb(255 255 255 / 0.55);
  stroke: #2a6a99;
  stroke-width: 2.2;
  cursor: grab;
  pointer-events: all;
}
.dot,
.led {
  fill: #2a6a99;
}
.grip {
  fill: #ffffff;
  stroke: #2a6a99;
  stroke-width: 1.5;
  cursor: nwse-resize;
  pointer-events: all;
}
.told {
  position: absolute;
  bottom: 6px;
  left: 50%;
  margin: 0;
  padding: 2px 10px;
  border-radius: 5px;
  background: var(--ink);
  color: var(--sheet);
  font-family: var(--mono);
  font-size: 12px;
  transform: translateX(-50%);
  pointer-events: none;
  white-space: pre;
}
</style>
