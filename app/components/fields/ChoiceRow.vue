<script setup lang="ts" generic="T extends string">
/** One of a few, side by side. */
defineProps<{ choices: readonly { readonly id: T; readonly name: string; readonly title: string }[]; modelValue: T; label: string }>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
</script>

<template>
  <div class="choice-row" role="group" :aria-label="label">
    <button v-for="each in choices" :key="each.id" :aria-pressed="each.id === modelValue" :title="each.title" @click="emit('update:modelValue', each.id)">{{ each.name }}</button>
  </div>
</template>

<style scoped>
.choice-row {
  display: flex;
  min-width: 0;
  border: 1px solid var(--rule);
  border-radius: 6px;
  overflow: hidden;
}
button {
  min-height: 24px;
  padding: 1px 7px;
  border: 0;
  border-right: 1px solid var(--rule);
  background: var(--sheet);
  color: var(--ink-2);
  font: inherit;
  font-size: 12px;
  cursor: pointer;
}
button:last-child {
  border-right: 0;
}
button[aria-pressed='true'] {
  background: var(--paper-3);
  color: var(--ink);
  font-weight: 600;
}
</style>
