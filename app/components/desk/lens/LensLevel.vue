<script setup lang="ts">
import { computed } from 'vue'
import type { Px } from '~/plan/elevation'
import { FLAG_PX, type LevelHandles, type SeenWay } from '~/plan/levelHandles'
import { useDeskStore } from '~/stores/desk'

/** Of the level in hand: its handles, its way through the set with a dot for each frame, and a way that is being drawn. */
const { handles, way, drawn } = defineProps<{ handles: LevelHandles | null; way: SeenWay; drawn: readonly Px[]; width: number; height: number }>()
const desk = useDeskStore()
const line = (points: readonly Px[]) => points.map(({ x, y }, i) => `${i === 0 ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`).join('')
const way1 = computed(() => way.line.filter((piece) => piece.length > 1).map(line).join(''))
/** As on the strip: a flag with its point on the place. */
const flag = ({ x, y }: Px) => `M${(x - 5).toFixed(1)} ${(y - 2 * FLAG_PX).toFixed(1)}h10v9l-5 5l-5 -5Z`
</script>

<template>
  <svg class="level-hand" :width="width" :height="height" aria-hidden="true">
    <path v-if="way1" class="under" :d="way1" />
    <path v-if="way1" class="way" :d="way1" data-test="level-way" />
    <circle v-for="(at, i) in way.frames" :key="i" class="dot" :cx="at.x" :cy="at.y" r="1.6" />
    <template v-for="mark in way.marks" :key="`${mark.keyId}:${mark.kind}:${mark.kind === 'handle' ? mark.end : ''}`">
      <line v-if="mark.kind === 'handle'" class="arm" :x1="mark.from.x" :y1="mark.from.y" :x2="mark.at.x" :y2="mark.at.y" />
      <circle v-if="mark.kind === 'handle'" class="grip" :cx="mark.at.x" :cy="mark.at.y" r="4" :data-handle="mark.end" />
      <path v-else class="grip" :d="`M${mark.at.x} ${mark.at.y - 5.5}l5.5 5.5l-5.5 5.5l-5.5 -5.5Z`" data-handle="middle" />
    </template>
    <g v-for="key in way.keys" :key="key.id" :data-key="key.number">
      <path class="flag" :class="{ selected: key.selected, here: key.frame === desk.shotFrame }" :d="flag(key.at)" />
      <text class="number" :x="key.at.x + 7" :y="key.at.y - 4">{{ key.number }}{{ key.locked ? ' locked' : '' }}</text>
    </g>
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
  </svg>
</template>

<style scoped>
.level-hand {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.under,
.way,
.drawn,
.arm,
.pivot {
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
.dot {
  fill: #27241e;
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
.pivot {
  stroke: #2a6a99;
  stroke-width: 1.5;
}
.drawn {
  stroke: #c0402c;
  stroke-width: 2;
}
</style>
