<script setup lang="ts">
import { onMounted, ref, useTemplateRef } from 'vue'

/** Why something that a check has found is meant so. */
const emit = defineEmits<{ keep: [note: string]; cancel: [] }>()
const note = ref('')
const input = useTemplateRef<HTMLInputElement>('input')
onMounted(() => input.value?.focus())
</script>

<template>
  <form class="note" @submit.prevent="emit('keep', note.trim())">
    <input ref="input" v-model="note" maxlength="300" placeholder="Why it is meant so" aria-label="Why it is meant so" @keydown.stop @keydown.escape="emit('cancel')" />
    <button class="push-button" type="submit">Keep</button>
  </form>
</template>

<style scoped>
.note {
  display: flex;
  gap: 5px;
}
.note input {
  flex: 1;
  min-width: 0;
  padding: 2px 6px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--paper-0);
  color: var(--ink);
  font: inherit;
}
</style>
