<script setup lang="ts">
import { nextTick, ref, useTemplateRef } from 'vue'

/** A name that a double click opens to be changed: Enter or leaving it keeps, Esc does not. */
const props = withDefaults(defineProps<{ text: string; title: string; label?: string }>(), { label: 'Name' })
const emit = defineEmits<{ rename: [name: string] }>()
const open = ref(false)
const field = useTemplateRef('field')

async function start() {
  open.value = true
  await nextTick()
  field.value?.focus()
  field.value?.select()
}
function finish(event: Event) {
  if (!open.value) return
  open.value = false
  const name = (event.target as HTMLInputElement).value.trim()
  if (name !== '' && name !== props.text) emit('rename', name)
}
defineExpose({ start, open })
</script>

<template>
  <input v-if="open" ref="field" class="rename" :value="text" maxlength="120" :aria-label="label" @keydown.enter="finish" @keydown.esc.stop="open = false" @blur="finish" />
  <b v-else :title="`${text} — double-click to rename${title}`" @dblclick="start">{{ text }}</b>
</template>

<style scoped>
b {
  overflow: hidden;
  font-weight: 600;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.rename {
  width: 100%;
  min-width: 0;
  border: 1px solid var(--blue);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
</style>
