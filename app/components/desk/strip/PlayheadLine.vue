<script setup lang="ts">
import { computed } from 'vue'
import { vFigures } from '~/directives/figures'

/** The playhead over a drawn pane. By itself, so that what lies around it is not gone through for every frame that plays. */
const { at, figures = () => '', width = 0 } = defineProps<{
  /** Where it stands in the pane, px. */
  at: () => number
  /** What is written on it. */
  figures?: () => string
  /** Of the pane, px: at its ends the figures stay whole. */
  width?: number
}>()
const FIGURES_HALF_PX = 36
const x = computed(() => at())
const text = computed(() => figures())
const shift = computed(() => (width === 0 ? 0 : Math.max(0, FIGURES_HALF_PX - x.value) - Math.max(0, x.value + FIGURES_HALF_PX - width)))
</script>

<template>
  <span class="playhead" :style="{ transform: `translateX(${x}px)` }"><b v-if="text !== ''" v-figures="text" class="mono" :style="{ transform: `translateX(calc(-50% + ${shift}px))` }" /></span>
</template>

<style scoped>
.playhead {
  position: absolute;
  top: 0;
  left: -1px;
  width: 2px;
  height: 100%;
  background: var(--vermilion);
  pointer-events: none;
  will-change: transform;
}
b {
  position: absolute;
  top: 0;
  left: 50%;
  padding: 1px 7px;
  border-radius: 4px;
  background: var(--vermilion);
  color: #ffffff;
  font-size: 11px;
  white-space: nowrap;
}
</style>
