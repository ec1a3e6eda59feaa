<script setup lang="ts" generic="T extends string">
/** One of a few, side by side. */
export interface Choice<Id extends string> {
  readonly id: Id
  readonly name: string
  readonly title: string
  /** Read aloud, where the name alone would not say it. */
  readonly label?: string
}
/** With `fill` the choices share the width there is. */
const { fill = false, disabled = false } = defineProps<{ choices: readonly Choice<T>[]; modelValue: T | null; label: string; fill?: boolean; disabled?: boolean }>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
</script>

<template>
  <div class="choice-row" :class="{ fill }" role="group" :aria-label="label">
    <button v-for="each in choices" :key="each.id" type="button" :aria-pressed="each.id === modelValue" :title="each.title" :aria-label="each.label" :disabled="disabled" @click="emit('update:modelValue', each.id)">{{ each.name }}</button>
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
.fill button {
  flex: 1;
  padding: 1px 4px;
  font-size: inherit;
}
button:last-child {
  border-right: 0;
}
button[aria-pressed='true'] {
  background: var(--paper-3);
  color: var(--ink);
  font-weight: 600;
}
button:disabled {
  opacity: 0.45;
  cursor: default;
}
</style>
