<script setup lang="ts">
import { useTemplateRef } from 'vue'
import { useChart } from '~/composables/view/useChart'
import { useTheme } from '~/composables/view/useTheme'
import type { WorkChart, WorkLook } from '~/text/workCharts'

/** One small chart, drawn anew when what it shows or where it stands changes. */
const props = defineProps<{ title: string; chart: (look: WorkLook) => WorkChart }>()
const host = useTemplateRef<HTMLElement>('host')
const { night } = useTheme()
const { trouble } = useChart(host, [() => props.chart, night], ({ width, height, colour }) => props.chart({ ink: colour('--ink-2'), rule: colour('--rule'), done: colour('--sea'), left: colour('--paper-3'), size: colour('--bead-1'), over: colour('--vermilion'), width, height }))
</script>

<template>
  <figure class="chart">
    <figcaption>{{ title }}</figcaption>
    <p v-if="trouble" class="quiet" role="alert">{{ trouble }}</p>
    <div ref="host" class="host" role="img" :aria-label="title" />
  </figure>
</template>

<style scoped>
.chart {
  display: flex;
  flex-direction: column;
  min-width: 0;
  margin: 0;
}
figcaption {
  font-weight: 600;
}
.host {
  flex: 1;
  min-height: 0;
  overflow: hidden;
}
</style>
