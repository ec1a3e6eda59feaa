<script setup lang="ts">
import { onMounted, ref } from 'vue'

/** A value typed where it stands on the strip. */
const props = defineProps<{ label: string; text: string; left: number; top: number; width: number; hint: string; take: (text: string) => boolean }>()
const emit = defineEmits<{ done: [] }>()
const input = ref<HTMLInputElement | null>(null)
const text = ref(props.text)
const wrong = ref(false)
let over = false

onMounted(() => {
  input.value?.focus()
  input.value?.select()
})
function accept() {
  if (over) return
  if (text.value.trim() !== props.text && !props.take(text.value)) {
    wrong.value = true
    return
  }
  over = true
  emit('done')
}
function leave() {
  if (over) return
  over = true
  emit('done')
}
function onBlur() {
  accept()
  leave()
}
</script>

<template>
  <div class="entry" :style="{ left: `${left}px`, top: `${top}px` }" @pointerdown.stop @dblclick.stop>
    <input ref="input" v-model="text" :aria-label="label" :aria-invalid="wrong" :style="{ width: `${width}px` }" @keydown.enter.prevent="accept" @keydown.esc.prevent.stop="leave" @keydown.stop @blur="onBlur" />
    <span v-if="wrong" class="hint" role="alert">{{ hint }}</span>
  </div>
</template>

<style scoped>
.entry {
  position: absolute;
  z-index: 5;
}
input {
  height: 24px;
  padding: 0 6px;
  border: 2px solid var(--blue);
  border-radius: 5px;
  background: var(--paper-0);
  color: var(--ink);
  font: 500 12px var(--mono);
  outline: none;
}
input[aria-invalid='true'] {
  border-color: var(--vermilion);
}
.hint {
  position: absolute;
  top: 27px;
  left: 0;
  padding: 2px 7px;
  border-radius: 4px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
  white-space: nowrap;
}
</style>
