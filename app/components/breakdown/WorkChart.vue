<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { onBeforeUnmount, ref, useTemplateRef, watch } from 'vue'
import { loadPlotly, type Plotly } from '~/clients/plotly'
import { useTheme } from '~/composables/view/useTheme'
import type { WorkChart, WorkLook } from '~/text/workCharts'

/** One small chart, drawn anew when what it shows or where it stands changes. */
const props = defineProps<{ title: string; chart: (look: WorkLook) => WorkChart }>()
const host = useTemplateRef<HTMLElement>('host')
const { width, height } = useElementSize(host)
const { night } = useTheme()
const trouble = ref<string | null>(null)
let plotly: Plotly | null = null

async function draw() {
  if (host.value === null || width.value < 40) return
  try {
    plotly ??= await loadPlotly()
  } catch (error) {
    trouble.value = (error as Error).message
    return
  }
  if (host.value === null) return
  trouble.value = null
  const style = getComputedStyle(document.documentElement)
  const colour = (name: string) => style.getPropertyValue(name).trim()
  const { traces, layout } = props.chart({ ink: colour('--ink-2'), rule: colour('--rule'), done: colour('--sea'), left: colour('--paper-3'), size: colour('--bead-1'), over: colour('--vermilion'), width: width.value, height: height.value })
  await plotly.react(host.value, traces, layout, { displayModeBar: false, responsive: false })
}
watch([() => props.chart, width, height, night], () => void draw(), { flush: 'post' })
onBeforeUnmount(() => host.value !== null && plotly?.purge(host.value))
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
