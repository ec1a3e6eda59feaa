<script setup lang="ts">
import { seenRings } from '@rubato/core/checks'
import { computed } from 'vue'
import type { useArrows } from '~/composables/draw/useArrows'
import { usePenStore } from '~/stores/pen'
import { ringsPath } from '~/viewport/printNotes'

/** An arrow that is being drawn, and the points of the one that is chosen. */
const props = defineProps<{ arrows: ReturnType<typeof useArrows>; width: number; height: number; toPane: (u: number, v: number) => { readonly x: number; readonly y: number } }>()
const pen = usePenStore()
const { drawn, points } = props.arrows
const path = computed(() => {
  const now = drawn.value
  return now === null ? '' : ringsPath(seenRings(now.ground.lens, now.ground.plane, { rings: now.outlines.map((ring) => [...ring]) }), props.toPane)
})
</script>

<template>
  <svg v-if="drawn || points.length > 0" class="view-layer" :width="width" :height="height">
    <path v-if="drawn" :d="path" :fill="pen.brush.colour" :fill-opacity="pen.brush.opacity" fill-rule="evenodd" data-test="arrow-drawn" />
    <circle v-for="({ at, index, isNew }, i) in points" :key="i" class="point" :class="{ new: isNew }" :cx="at.x" :cy="at.y" r="6" data-test="arrow-point" @pointerdown.stop="arrows.dragPoint($event, index, isNew)"><title>{{ isNew ? 'Drag to bend the arrow' : 'Drag this point of the arrow' }}</title></circle>
  </svg>
</template>

<style scoped>
.point {
  fill: var(--sea);
  stroke: #fcfaf5;
  stroke-width: 1.5;
  pointer-events: all;
  cursor: move;
}
.point.new {
  fill: #fcfaf5;
  stroke: var(--sea);
}
</style>
