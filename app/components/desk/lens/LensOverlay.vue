<script setup lang="ts">
import { NEAREST_Z } from '@rubato/core/camera'
import { placedLevel } from '@rubato/core/stage'
import { computed } from 'vue'
import { frameCornersInView, levelOutline } from '~/components/desk/set/outlines'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** What is drawn over the picture: matte, guides, the framings around the playhead, what is selected. */
interface Place {
  readonly u: number
  readonly v: number
}
const props = defineProps<{
  /** The frame in the pane, px. */
  frame: { readonly left: number; readonly top: number; readonly width: number; readonly height: number }
  /** Of the pane, px. */
  width: number
  height: number
  /** From u, v in the frame to px of the pane. */
  toPane: (u: number, v: number) => { readonly x: number; readonly y: number }
  /** The region that is being drawn; null for none. */
  region: { readonly a: Place; readonly b: Place } | null
}>()
const film = useFilmStore()
const desk = useDeskStore()

const regionBox = computed(() => {
  if (props.region === null) return null
  const [a, b] = [props.toPane(props.region.a.u, props.region.a.v), props.toPane(props.region.b.u, props.region.b.v)]
  return { x: Math.min(a.x, b.x), y: Math.min(a.y, b.y), width: Math.abs(a.x - b.x), height: Math.abs(a.y - b.y) }
})

const stillFramings = computed(() => {
  if (desk.playing || !desk.lens.framings || desk.stageFrame === null || film.optics === null || desk.framings.length < 2) return []
  const { lens } = desk.stageFrame
  const total = desk.framings.length
  return desk.framings.flatMap((entry, index) => {
    if (entry.frame === desk.shotFrame && desk.trialHere === null) return []
    const nearby = desk.moveHere !== null ? index === desk.moveHere.index || index === desk.moveHere.index + 1 : true
    if (!nearby) return []
    const corners = frameCornersInView(entry.framing.pose, lens, film.optics!)
    if (corners === null) return []
    const points = corners.map(({ u, v }) => props.toPane(u, v))
    return [{ id: entry.framing.id, number: index + 1, points, shade: total < 2 ? 1 : index / (total - 1) }]
  })
})

const selectedOutline = computed(() => {
  if (desk.playing || desk.selectedLevel === null || desk.stageFrame === null) return null
  const placed = placedLevel(desk.stageFrame, desk.selectedLevelId)
  const drawing = placed === null || placed.drawingId === null ? null : film.drawingOf(placed.drawingId)
  const corners = placed === null || drawing === null ? null : levelOutline(placed, drawing, desk.stageFrame.lens)
  return corners?.every((corner) => corner.z > NEAREST_Z) ? corners.map(({ u, v }) => props.toPane(u, v)) : null
})

const path = (points: readonly { x: number; y: number }[]) => `M${points.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`
const mattePath = computed(() => {
  const f = props.frame
  return `M0 0H${props.width}V${props.height}H0ZM${f.left} ${f.top}v${f.height}h${f.width}v${-f.height}Z`
})
const thirds = computed(() => {
  const f = props.frame
  return [1, 2].flatMap((n) => [`M${f.left + (f.width * n) / 3} ${f.top}v${f.height}`, `M${f.left} ${f.top + (f.height * n) / 3}h${f.width}`]).join('')
})
const safe = computed(() =>
  [0.9, 0.8].map((part) => {
    const f = props.frame
    return { x: f.left + (f.width * (1 - part)) / 2, y: f.top + (f.height * (1 - part)) / 2, width: f.width * part, height: f.height * part }
  }),
)
</script>

<template>
  <svg class="overlay" :width="width" :height="height" aria-hidden="true">
    <path class="matte" :d="mattePath" fill-rule="evenodd" :style="{ opacity: desk.lens.matte ? desk.lens.matteStrength : 0 }" />
    <path v-if="desk.lens.thirds" class="guide" :d="thirds" />
    <template v-if="desk.lens.safeAreas"><rect v-for="(box, i) in safe" :key="i" class="guide" v-bind="box" /></template>
    <rect class="frame" :x="frame.left" :y="frame.top" :width="frame.width" :height="frame.height" data-test="frame" />
    <g v-for="still in stillFramings" :key="still.id">
      <path class="still" :d="path(still.points)" :style="{ stroke: `var(--bead-${Math.round(still.shade * 4)})` }" />
      <g :transform="`translate(${still.points[0]!.x} ${still.points[0]!.y})`">
        <rect class="tag" y="-14" width="20" height="14" :style="{ fill: `var(--bead-${Math.round(still.shade * 4)})` }" />
        <text class="tag-text" x="10" y="-3">{{ still.number }}</text>
      </g>
    </g>
    <rect v-if="regionBox" class="region" v-bind="regionBox" />
    <path v-if="selectedOutline" class="level-outline" :d="path(selectedOutline)" />
  </svg>
</template>

<style scoped>
.overlay {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.matte {
  fill: var(--surround);
}
.frame {
  fill: none;
  stroke: #ffffff;
  stroke-width: 1.5;
}
.guide {
  fill: none;
  stroke: #2a6a99;
  stroke-opacity: 0.55;
  stroke-width: 1;
}
.still {
  fill: none;
  stroke-width: 1.5;
  stroke-dasharray: 5 3;
}
.tag-text {
  fill: #ffffff;
  font-size: 11px;
  font-weight: 700;
  text-anchor: middle;
}
.region {
  fill: rgb(42 106 153 / 0.14);
  stroke: #2a6a99;
  stroke-width: 1.5;
}
.level-outline {
  fill: none;
  stroke: #2a6a99;
  stroke-opacity: 0.45;
}
</style>
