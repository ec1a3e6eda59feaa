<script setup lang="ts">
import LevelWay from '~/components/levels/LevelWay.vue'
import type { Px } from '~/plan/elevation'
import type { LevelHandles, SeenWay } from '~/plan/levelHandles'

/** Of the level in hand: its way, its handles, and a way that is being drawn. */
const { handles, way, drawn } = defineProps<{ handles: LevelHandles | null; way: SeenWay; drawn: readonly Px[]; width: number; height: number }>()
const line = (points: readonly Px[]) => points.map(({ x, y }, i) => `${i === 0 ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`).join('')
</script>

<template>
  <LevelWay :way="way" :width="width" :height="height">
    <template v-if="handles">
      <line class="arm" :x1="handles.top.x" :y1="handles.top.y" :x2="handles.knob.x" :y2="handles.knob.y" />
      <circle class="grip" :cx="handles.knob.x" :cy="handles.knob.y" r="4.5" data-handle="turn" />
      <rect v-for="(corner, i) in handles.corners" :key="i" class="grip" :x="corner.x - 3.5" :y="corner.y - 3.5" width="7" height="7" data-handle="size" />
      <g class="pivot" data-handle="pivot">
        <circle :cx="handles.pivot.x" :cy="handles.pivot.y" r="5" />
        <path :d="`M${handles.pivot.x - 8} ${handles.pivot.y}h16M${handles.pivot.x} ${handles.pivot.y - 8}v16`" />
      </g>
    </template>
    <path v-if="drawn.length > 1" class="drawn" :d="line(drawn)" />
  </LevelWay>
</template>

<style scoped>
.arm,
.pivot,
.drawn {
  fill: none;
}
.arm {
  stroke: #2a6a99;
}
.grip {
  fill: #ffffff;
  stroke: #2a6a99;
  stroke-width: 1.5;
}
.pivot {
  stroke: #2a6a99;
  stroke-width: 1.5;
}
.drawn {
  stroke: #c0402c;
  stroke-width: 2;
}
</style>
