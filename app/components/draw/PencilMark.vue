<script setup lang="ts">
import { computed } from 'vue'
import type { Brush } from '~/stores/pen'

/** A pencil as it lies in the tray: the tip is as thick and as dark as its line. */
const props = defineProps<{ brush: Brush }>()
const half = computed(() => 4 + Math.min(6, props.brush.widthFw * 220))
const tip = computed(() => Math.max(1.2, Math.min(half.value - 1.5, props.brush.widthFw * 180)))
</script>

<template>
  <svg class="pencil" width="62" height="24" viewBox="16 0 62 24" aria-hidden="true">
    <path class="body" :d="`M0 ${12 - half}H50L66 ${12 - tip}V${12 + tip}L50 ${12 + half}H0Z`" />
    <path class="lead" :d="`M64 ${12 - tip - 0.9}L${76 - tip} ${12 - tip * 0.6}Q78 12 ${76 - tip} ${12 + tip * 0.6}L64 ${12 + tip + 0.9}Z`" :style="{ fill: brush.colour, fillOpacity: Math.max(0.35, brush.opacity) }" />
  </svg>
</template>

<style scoped>
.body {
  fill: #e6d3b1;
  stroke: #c5ac83;
}
.lead {
  stroke: #c5ac83;
  stroke-width: 0.6;
}
</style>
