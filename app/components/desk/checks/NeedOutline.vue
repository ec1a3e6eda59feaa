<script setup lang="ts">
import { rectangleOutline, seenRings, sizePx } from '@rubato/core/checks'
import type { Lens } from '@rubato/core/camera'
import { placedLevel, type StageFrame } from '@rubato/core/stage'
import { computed } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useNeededStore } from '~/stores/needed'
import { pxWords } from '~/text/sizes'
import { ringsPath } from '~/viewport/printNotes'

/** What the moves of all shots need of the chosen level's art, dashed around it, and its paper; with the size in px beside it. */
const props = defineProps<{ frame: StageFrame | null; lens: Lens | null; width: number; height: number; toPane: (u: number, v: number) => { readonly x: number; readonly y: number } }>()
const film = useFilmStore()
const desk = useDeskStore()
const needed = useNeededStore()
needed.look(() => needed.shown && !desk.playing)

const placed = computed(() => placedLevel(props.frame, desk.selectedLevelId))
const path = (rings: readonly Float64Array[]) => ringsPath(rings, props.toPane)
const shown = computed(() => {
  const level = placed.value
  if (!needed.shown || desk.playing || level === null || props.lens === null) return null
  // What stands in the picture needs what is drawn of it: that is there to be seen.
  const found = needed.needs.get(level.level.id) ?? null
  const need = found === null || found.owed.length === 0 ? null : found
  const { paper } = level.level
  const rings = need === null ? [] : seenRings(props.lens, level.plane, need)
  const sheet = paper === undefined ? [] : seenRings(props.lens, level.plane, rectangleOutline(paper.left, paper.bottom, paper.right, paper.top))
  if (need === null && paper === undefined) return null
  return { need: path(rings), paper: path(sheet), label: need === null ? null : { at: labelAt(rings), text: pxWords(sizePx(need.box, need.magnification, film.project?.widthPx ?? 1920)) } }
})
const LABEL = { width: 128, height: 17 }
/** At its upper left corner, and always in view. */
function labelAt(rings: readonly Float64Array[]) {
  let [left, top] = [Infinity, Infinity]
  for (const ring of rings) {
    for (let i = 0; i < ring.length; i += 2) {
      const { x, y } = props.toPane(ring[i]!, ring[i + 1]!)
      left = Math.min(left, x)
      top = Math.min(top, y)
    }
  }
  const held = (value: number, most: number) => Math.max(2, Math.min(most, value))
  return { x: held(left, props.width - LABEL.width - 2), y: held(top - LABEL.height - 2, props.height - LABEL.height - 2) }
}
</script>

<template>
  <svg v-if="shown" class="outline" :width="width" :height="height" aria-hidden="true" data-test="need-outline">
    <path v-if="shown.paper" class="paper" :d="shown.paper" data-test="level-paper" />
    <path v-if="shown.need" class="need" :d="shown.need" data-test="need" />
    <g v-if="shown.label" :transform="`translate(${shown.label.at.x} ${shown.label.at.y})`">
      <rect class="tag" :width="LABEL.width" :height="LABEL.height" rx="3" />
      <text class="tag-text" :x="LABEL.width / 2" y="12.5" data-test="need-px">{{ shown.label.text }}</text>
    </g>
  </svg>
</template>

<style scoped>
.outline {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
.need,
.paper {
  fill: none;
  stroke: var(--sea);
  stroke-width: 1.6;
}
.need {
  stroke-dasharray: 7 4;
}
.paper {
  stroke: #ffffff;
  stroke-width: 1.2;
}
.tag {
  fill: var(--sea);
}
.tag-text {
  fill: #ffffff;
  font-size: 11px;
  font-weight: 600;
  text-anchor: middle;
}
</style>
