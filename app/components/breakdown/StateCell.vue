<script setup lang="ts">
import type { WorkState } from '@rubato/core/document'
import { STATE_WORDS, STATES } from '~/text/breakdown'

/** How far something is: an outlined word. */
const props = defineProps<{ state: WorkState | null; label: string }>()
const emit = defineEmits<{ say: [state: WorkState | null] }>()
function choose(event: Event) {
  const field = event.target as HTMLSelectElement
  const state = field.value as WorkState | 'todo'
  field.value = props.state ?? 'todo'
  emit('say', state === 'todo' ? null : state)
}
</script>

<template>
  <select class="state" :class="state ?? 'todo'" :value="state ?? 'todo'" :aria-label="label" @click.stop @keydown.stop @change="choose">
    <option v-for="each in STATES" :key="each" :value="each">{{ STATE_WORDS[each] }}</option>
  </select>
</template>

<style scoped>
.state {
  max-width: 100%;
  min-height: 24px;
  padding: 1px 9px;
  border: 1px solid currentcolor;
  border-radius: 12px;
  appearance: none;
  background: none;
  color: var(--ink-2);
  font: inherit;
  cursor: pointer;
}
.state option {
  background: var(--sheet);
  color: var(--ink);
}
.work {
  color: var(--ochre-text);
}
.look {
  color: var(--plum);
}
.done {
  color: var(--sea);
}
.out {
  text-decoration: line-through;
}
</style>
