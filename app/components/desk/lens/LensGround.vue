<script setup lang="ts">
import { groundLines, horizonLine, SET_DIRECTIONS, vanishingPoint, type Segment } from '@rubato/core/camera'
import { computed } from 'vue'
import { useDeskStore } from '~/stores/desk'

/** Level ground in squares, its horizon, and the points where the set's lines meet, as the camera sees them; lines are drawn towards those. */
const props = defineProps<{
  width: number
  height: number
  /** From u, v in the frame to px of the view. */
  toPane: (u: number, v: number) => { readonly x: number; readonly y: number }
  /** A frame width in the view, px. */
  frameWidth: number
}>()
const desk = useDeskStore()

const lens = computed(() => desk.stageFrame?.lens ?? null)
/** As far as the view shows, and a little. */
const reach = computed(() => ({ u: Math.min(4, props.width / props.frameWidth / 2 + 0.5), v: Math.min(4, props.height / props.frameWidth / 2 + 0.5) }))
const pathOf = (segments: readonly Segment[]) =>
  segments
    .map(([from, to]) => {
      const [a, b] = [props.toPane(from.x, from.y), props.toPane(to.x, to.y)]
      return `M${a.x.toFixed(1)} ${a.y.toFixed(1)}L${b.x.toFixed(1)} ${b.y.toFixed(1)}`
    })
    .join('')
const squares = computed(() => (lens.value === null ? '' : pathOf(groundLines(lens.value, desk.lens.groundY, desk.lens.groundStep, reach.value))))
const horizon = computed(() => {
  const line = lens.value === null ? null : horizonLine(lens.value, reach.value)
  return line === null ? '' : pathOf([line])
})
const NAMES = { x: 'across', y: 'up and down', depth: 'into depth' } as const
const points = computed(() =>
  lens.value === null
    ? []
    : (['x', 'y', 'depth'] as const).flatMap((along) => {
        const at = vanishingPoint(lens.value!, SET_DIRECTIONS[along])
        if (at === null || Math.abs(at.x) > reach.value.u || Math.abs(at.y) > reach.value.v) return []
        return [{ along, name: NAMES[along], ...props.toPane(at.x, at.y) }]
      }),
)
</script>

<template>
  <svg class="ground" :width="width" :height="height" role="img" aria-label="Ground, horizon and vanishing points" data-test="ground">
    <path class="squares" :d="squares" />
    <path class="horizon" :d="horizon" />
    <g v-for="point in points" :key="point.along" class="point">
      <path :d="`M${point.x - 6} ${point.y}h12M${point.x} ${point.y - 6}v12`" />
      <text :x="point.x + 7" :y="point.y - 5">{{ point.name }}</text>
    </g>
  </svg>
</template>

<style scoped>
.ground {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
path {
  fill: none;
  stroke: #2a6a99;
}
.squares {
  opacity: 0.38;
}
.horizon {
  stroke-width: 1.75;
  opacity: 0.85;
}
.point path {
  stroke-width: 2;
}
text {
  fill: #2a6a99;
  stroke: #fcfaf5;
  stroke-width: 3px;
  paint-order: stroke;
  font-size: 11px;
}
</style>
