<script setup lang="ts">
import { computed } from 'vue'
import { frameCornersInView } from '~/components/desk/set/outlines'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTakesStore } from '~/stores/takes'

/** Another take’s, camera’s or version’s framing here, faint over the lens view, and those around it. */
const props = defineProps<{ width: number; height: number; toPane: (u: number, v: number) => { readonly x: number; readonly y: number } }>()
const film = useFilmStore()
const desk = useDeskStore()
const takes = useTakesStore()

type Pose = NonNullable<typeof takes.plan>['pose']
function outlineOf(pose: Pose): readonly { readonly x: number; readonly y: number }[] | null {
  const corners = desk.stageFrame === null || film.optics === null ? null : frameCornersInView(pose, desk.stageFrame.lens, film.optics)
  return corners?.map(({ u, v }) => props.toPane(u, v)) ?? null
}
const path = (points: readonly { x: number; y: number }[]) => `M${points.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`
const here = computed(() => (takes.plan === null ? null : outlineOf(takes.plan.pose)))
const around = computed(() =>
  desk.playing ? [] : (takes.plan?.framings ?? []).flatMap(({ number, pose }) => {
    const points = outlineOf(pose)
    return points === null ? [] : [{ number, points }]
  }),
)
</script>

<template>
  <svg v-if="takes.plan" class="plan" :width="width" :height="height" data-test="lens-plan" :aria-label="`Framing of ${takes.plan.name}`">
    <g v-for="each in around" :key="each.number" class="around">
      <path :d="path(each.points)" />
      <text :x="each.points[3]!.x + 4" :y="each.points[3]!.y + 14">{{ each.number }}</text>
    </g>
    <g v-if="here">
      <path class="under" :d="path(here)" />
      <path :d="path(here)" />
      <text :x="here[3]!.x + 5" :y="Math.max(12, here[3]!.y - 5)">{{ takes.plan.name }}</text>
    </g>
  </svg>
  <p v-if="takes.planTrouble" class="trouble" role="status">{{ takes.planTrouble }}</p>
</template>

<style scoped>
.plan {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
path {
  fill: none;
  stroke: var(--ink);
  stroke-opacity: 0.55;
  stroke-width: 1.2;
}
.under {
  stroke: #ffffff;
  stroke-opacity: 0.5;
  stroke-width: 3;
}
.around path {
  stroke-dasharray: 2 4;
}
text {
  fill: var(--ink);
  font-size: 11px;
  paint-order: stroke;
  stroke: #ffffff;
  stroke-width: 3px;
}
.trouble {
  position: absolute;
  bottom: 6px;
  left: 10px;
  margin: 0;
  padding: 2px 9px;
  border-radius: 5px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
  pointer-events: none;
}
</style>
