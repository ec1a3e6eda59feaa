<script setup lang="ts">
import { nextTick, onBeforeUnmount, ref, useTemplateRef } from 'vue'

/** What somebody says in a cell: a press opens it, Enter or leaving it (by scrolling too) keeps it, Escape gives it up. */
const props = defineProps<{ value: string; label: string; most: number; reckoned?: string; number?: boolean }>()
const emit = defineEmits<{ say: [text: string] }>()
const editing = ref(false)
const text = ref('')
const input = useTemplateRef<HTMLInputElement>('input')

async function begin() {
  text.value = props.value
  editing.value = true
  await nextTick()
  input.value?.focus()
  input.value?.select()
}
function end(keeps: boolean) {
  if (!editing.value) return
  editing.value = false
  if (keeps && text.value.trim() !== props.value) emit('say', text.value.trim())
}
// Scrolled out of view it goes; what was typed stays.
onBeforeUnmount(() => end(true))
</script>

<template>
  <input v-if="editing" ref="input" v-model="text" class="field" :class="{ number }" :aria-label="label" :maxlength="most" @click.stop @keydown.stop.enter="end(true)" @keydown.stop.esc="end(false)" @keydown.stop @blur="end(true)" />
  <button v-else class="cell" :class="{ empty: value === '', number }" :aria-label="`${label}: ${value || reckoned || 'nothing yet'}`" :title="value || label" @click.stop="begin">{{ value || reckoned || '–' }}</button>
</template>

<style scoped>
.cell,
.field {
  width: 100%;
  min-height: 26px;
  padding: 2px 6px;
  border: 1px solid transparent;
  border-radius: 5px;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
}
.cell {
  overflow: hidden;
  cursor: text;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.cell:hover {
  border-color: var(--rule);
}
.field {
  border-color: var(--blue);
  background: var(--sheet);
}
.empty {
  color: var(--ink-2);
}
.number {
  font-family: var(--mono);
  text-align: right;
}
</style>
