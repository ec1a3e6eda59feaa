<script setup lang="ts">
/** The walls that are being drawn, over the picture, and the corner that waits for its second edge. */
const { lines, corner } = defineProps<{
  width: number
  height: number
  lines: string
  corner: { readonly x: number; readonly y: number } | null
}>()
</script>

<template>
  <svg class="walls" :width="width" :height="height" role="img" aria-label="The walls that are drawn" data-test="walls-drawn">
    <path :d="lines" />
    <circle v-if="corner" :cx="corner.x" :cy="corner.y" r="5" />
  </svg>
</template>

<style scoped>
.walls {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
path {
  fill: color-mix(in srgb, var(--blue) 9%, transparent);
  stroke: var(--blue);
  stroke-width: 1.4;
}
circle {
  fill: none;
  stroke: var(--blue);
  stroke-width: 1.6;
}
</style>
