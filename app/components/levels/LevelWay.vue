<script setup lang="ts">
import { computed } from 'vue'
import type { Px } from '~/plan/elevation'
import { FLAG_PX, type SeenWay } from '~/plan/levelHandles'

/** The way of the level in hand in any view: its line, a dot for each frame, its keys as flags, what bends it. */
const { way } = defineProps<{ way: SeenWay; width: number; height: number }>()
const line = (points: readonly Px[]) => points.map(({ x, y }, i) => `${i === 0 ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`).join('')
const whole = computed(() => way.line.filter((piece) => piece.length > 1).map(line).join(''))
/** All in one: hundreds of elements of their own would be too many to keep up with a drag. */
const dots = computed(() => way.frames.map(({ x, y }) => `M${x.toFixed(1)} ${y.toFixed(1)}h0`).join(''))
/** As on the strip: a flag with its point on the place. */
const flag = ({ x, y }: Px) => `M${(x - 5).toFixed(1)} ${(y - 2 * FLAG_PX).toFixed(1)}h10v9l-5 5l-5 -5Z`
</script>

<template>
  <svg class="level-way" :width="width" :height="height" aria-hidden="true">
    <path v-if="whole" class="under" :d="whole" />
    <path v-if="whole" class="way" :d="whole" data-test="level-way" />
    <path class="dots" :d="dots" />
    <template v-for="mark in way.marks" :key="`${mark.keyId}:${mark.kind}:${mark.kind === 'handle' ? mark.end : ''}`">
      <line v-if="mark.kind === 'handle'" class="arm" :x1="mark.from.x" :y1="mark.from.y" :x2="mark.at.x" :y2="mark.at.y" />
      <circle v-if="mark.kind === 'handle'" class="grip" :cx="mark.at.x" :cy="mark.at.y" r="4" :data-handle="mark.end" />
      <path v-else class="grip" :d="`M${mark.at.x} ${mark.at.y - 5.5}l5.5 5.5l-5.5 5.5l-5.5 -5.5Z`" data-handle="middle" />
    </template>
    <g v-for="key in way.keys" :key="key.id" :data-key="key.number">
      <path class="flag" :class="{ selected: key.selected, here: key.here }" :d="flag(key.at)" />
      <text class="number" :x="key.at.x + 8" :y="key.at.y - 5">{{ key.number }}{{ key.locked ? ' locked' : '' }}</text>
    </g>
    <slot />
  </svg>
</template>

<style scoped>
.level-way {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.under,
.way,
.arm {
  fill: none;
}
.under {
  stroke: #ffffff;
  stroke-opacity: 0.65;
  stroke-width: 4;
}
.way {
  stroke: #27241e;
  stroke-width: 1.4;
}
.dots {
  fill: none;
  stroke: #27241e;
  stroke-linecap: round;
  stroke-width: 3.2;
}
.arm {
  stroke: #2a6a99;
}
.grip {
  fill: #ffffff;
  stroke: #2a6a99;
  stroke-width: 1.5;
}
.flag {
  fill: #27241e;
  stroke: #ffffff;
}
.flag.here {
  fill: #c0402c;
}
.flag.selected {
  fill: #2a6a99;
}
.number {
  fill: #27241e;
  font-size: 11px;
  font-weight: 700;
  paint-order: stroke;
  stroke: #ffffff;
  stroke-width: 3px;
}
</style>
