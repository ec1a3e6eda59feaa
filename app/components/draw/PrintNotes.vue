<script setup lang="ts">
import type { StageFrame } from '@rubato/core/stage'
import { computed } from 'vue'
import { useFilmStore } from '~/stores/film'
import { printNotes, ringsPath } from '~/viewport/printNotes'

/** Words and arrows for print alone, over the picture that they are not in. */
const props = defineProps<{ frame: StageFrame | null; width: number; height: number; toPane: (u: number, v: number) => { readonly x: number; readonly y: number } }>()
const film = useFilmStore()
const notes = computed(() => (props.frame === null ? [] : printNotes(props.frame, film.drawingOf)))
</script>

<template>
  <svg v-if="notes.length > 0" class="view-layer" :width="width" :height="height" data-test="print-notes">
    <path v-for="note in notes" :key="`${note.levelId} ${note.markId}`" :d="ringsPath(note.rings, toPane)" :fill="note.colour" :fill-opacity="note.opacity" fill-rule="evenodd" />
  </svg>
</template>

<style scoped>
/* Seen to be no ink of the picture. */
.view-layer path {
  stroke: var(--sea);
  stroke-dasharray: 2 2;
  stroke-width: 1;
}
</style>
