<script setup lang="ts">
import { ROWS, type Finding } from '@rubato/core/checks'
import { computed } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useEdgesStore } from '~/stores/edges'
import { useFilmStore } from '~/stores/film'
import { findingTitle } from '~/text/findings'

/** What was found at this frame, on the side of the frame where it happens. */
const props = defineProps<{ width: number; height: number; toPane: (u: number, v: number) => { readonly x: number; readonly y: number } }>()
const film = useFilmStore()
const desk = useDeskStore()
const edges = useEdgesStore()

const nameOf = (id: string) => desk.take?.levels[id]?.name ?? 'A level'
const half = computed(() => 0.5 / (film.optics?.aspect ?? 16 / 9))
/** Along the side of the frame, just outside it. */
function barOf({ side }: Finding): string | null {
  if (side === 'inside') return null
  const [u, v] = [0.5 + OUT, half.value + OUT]
  const ends = ({ left: [[-u, -v], [-u, v]], right: [[u, -v], [u, v]], bottom: [[-u, -v], [u, -v]], top: [[-u, v], [u, v]] } as const)[side]
  return ends.map(([x, y], i) => ((at) => `${i === 0 ? 'M' : 'L'}${at.x.toFixed(1)} ${at.y.toFixed(1)}`)(props.toPane(x, y))).join('')
}
/** Fw of the picture. */
const OUT = 0.004
/** What is bare, where the worst frame is seen. */
function bareOf({ bare, worstFrame }: Finding): string {
  if (bare === null || worstFrame !== desk.shotFrame) return ''
  const step = (2 * half.value) / ROWS
  let path = ''
  for (let i = 0; i < bare.length; i += 3) {
    const v = bare[i]! * step - half.value
    const corners = ([[bare[i + 1]!, v], [bare[i + 2]!, v], [bare[i + 2]!, v + step], [bare[i + 1]!, v + step]] as const).map(([u, w]) => props.toPane(u, w))
    path += `M${corners.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`
  }
  return path
}
const shown = computed(() => edges.atFrame.map((finding) => ({ finding, bar: barOf(finding), bare: bareOf(finding), title: findingTitle(finding, nameOf) })))
</script>

<template>
  <svg class="found" :width="width" :height="height" aria-hidden="true">
    <template v-for="{ finding, bar, bare } in shown" :key="finding.id">
      <path v-if="bare !== ''" class="bare" :d="bare" />
      <path v-if="bar" class="bar" :class="finding.kind" :d="bar" :data-finding="finding.id" />
    </template>
  </svg>
  <ul v-if="shown.length > 0" class="words" data-test="lens-findings">
    <li v-for="{ finding, title } in shown.slice(0, 3)" :key="finding.id" :class="finding.kind">{{ title }}</li>
  </ul>
</template>

<style scoped>
.found {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.bar {
  fill: none;
  stroke: var(--vermilion);
  stroke-width: 5;
}
.bar.gap {
  stroke: var(--ochre);
  stroke-dasharray: 9 5;
}
.bare {
  fill: var(--ochre);
  opacity: 0.45;
}
.words {
  position: absolute;
  right: 8px;
  bottom: 6px;
  padding: 0;
  margin: 0;
  list-style: none;
  pointer-events: none;
}
.words li {
  padding: 1px 8px;
  margin-top: 3px;
  border: 1px solid var(--vermilion);
  border-radius: 5px;
  background: var(--sheet);
  color: var(--ink);
  font-size: 12px;
}
.words li.gap {
  border-color: var(--ochre);
}
</style>
