<script setup lang="ts">
import type { Sequence } from '@rubato/core/document'
import { computed, useTemplateRef } from 'vue'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import { useBoardDrag } from '~/composables/boards/useBoardDrag'
import { useFilmStore } from '~/stores/film'

/** Where a sequence begins on the page. */
const props = defineProps<{ sequence: Sequence; empty: boolean }>()
const film = useFilmStore()
const drag = useBoardDrag()
const actions = useBoardActions()
const root = useTemplateRef('root')
drag.sequence(root, () => props.sequence.id)
const over = computed(() => drag.place.value?.kind === 'sequence' && drag.place.value.sequenceId === props.sequence.id)
</script>

<template>
  <div ref="root" class="sequence" :class="{ over }">
    <h2><span class="mono">{{ sequence.label }}</span> {{ sequence.title }}</h2>
    <p v-if="empty" class="quiet">
      No shots yet. Drag passages of the script here,
      <button v-if="film.lookingAt === null" class="push-button" @click="actions.newShotIn(sequence.id)">+ Shot</button>
    </p>
  </div>
</template>

<style scoped>
.sequence {
  height: 100%;
  padding-top: 14px;
  border-radius: 6px;
}
.sequence.over {
  background: var(--blue-wash);
}
h2 {
  margin: 0;
  overflow: hidden;
  font-size: 15px;
  font-weight: 600;
  text-overflow: ellipsis;
  white-space: nowrap;
}
h2 .mono {
  color: var(--ink-2);
  font-weight: 500;
}
p {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 8px 0 0;
}
</style>
