<script setup lang="ts">
/** What a set is told by: flats that stand one behind the other on one ground. */
withDefaults(defineProps<{ width?: number; height?: number }>(), { width: 18, height: 15 })
</script>

<template>
  <svg :width="width" :height="height" viewBox="0 0 18 15" aria-hidden="true"><path d="M2 11V6l4-1.5V10M7 9.5V3.5l4-1.5v6.5M12 8V2l4-1v6M1 12.5 17 8.5" /></svg>
</template>

<style scoped>
path {
  fill: none;
  stroke: currentcolor;
  stroke-linejoin: round;
  stroke-width: 1.3;
}
</style>
