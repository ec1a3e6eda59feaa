<script setup lang="ts">
import { ROWS, type Finding } from '@rubato/core/checks'
import { computed } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useEdgesStore } from '~/stores/edges'
import { useFilmStore } from '~/stores/film'
import { findingTitle } from '~/text/findings'

/** What was found at this frame, on the side of the frame where it happens. */
const props = defineProps<{ frame: { readonly left: number; readonly top: number; readonly width: number; readonly height: number }; width: number; height: number; toPane: (u: number, v: number) => { readonly x: number; readonly y: number } }>()
const film = useFilmStore()
const desk = useDeskStore()
const edges = useEdgesStore()

const BAR_PX = 5
const nameOf = (id: string) => desk.take?.levels[id]?.name ?? 'A level'
function barOf({ side }: Finding) {
  const { left, top, width, height } = props.frame
  if (side === 'left') return { x: left - BAR_PX, y: top, width: BAR_PX, height }
  if (side === 'right') return { x: left + width, y: top, width: BAR_PX, height }
  if (side === 'bottom') return { x: left, y: top + height, width, height: BAR_PX }
  if (side === 'top') return { x: left, y: top - BAR_PX, width, height: BAR_PX }
  return null
}
const half = computed(() => 0.5 / (film.optics?.aspect ?? 16 / 9))
/** What is bare, where the worst frame is seen. */
function bareOf({ bare, worstFrame }: Finding): string {
  if (bare === null || worstFrame !== desk.shotFrame) return ''
  const step = (2 * half.value) / ROWS
  let path = ''
  for (let i = 0; i < bare.length; i += 3) {
    const v = bare[i]! * step - half.value
    const [a, b] = [props.toPane(bare[i + 1]!, v + step), props.toPane(bare[i + 2]!, v)]
    path += `M${a.x.toFixed(1)} ${a.y.toFixed(1)}H${b.x.toFixed(1)}V${b.y.toFixed(1)}H${a.x.toFixed(1)}Z`
  }
  return path
}
const shown = computed(() => edges.atFrame.map((finding) => ({ finding, bar: barOf(finding), bare: bareOf(finding), title: findingTitle(finding, nameOf) })))
</script>

<template>
  <svg class="found" :width="width" :height="height" aria-hidden="true">
    <template v-for="{ finding, bar, bare } in shown" :key="finding.id">
      <path v-if="bare !== ''" class="bare" :d="bare" />
      <rect v-if="bar" :class="finding.kind" v-bind="bar" :data-finding="finding.id" />
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
.runs-out {
  fill: var(--vermilion);
}
.gap {
  fill: var(--ochre);
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
