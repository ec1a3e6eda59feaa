<script setup lang="ts">
import { computed } from 'vue'
import type { AirName, LevelAspect } from '@rubato/core/moves'

/** Whether a value has a key at this frame, elsewhere or nowhere; pressed, it gets one here, or loses it. */
const { of, state } = defineProps<{ of: LevelAspect | AirName; state: 'here' | 'elsewhere' | 'none'; disabled: boolean }>()
const emit = defineEmits<{ press: [] }>()
const TITLES = {
  here: 'has a key here; press to take it out',
  elsewhere: 'has keys elsewhere; press to key it here',
  none: 'has no key: what is changed is changed for the whole shot. Press to key it here',
} as const
const title = computed(() => `Its ${of} ${TITLES[state]}`)
</script>

<template>
  <button class="key" :class="state" :disabled="disabled" :aria-label="`Key of ${of}`" :aria-pressed="state === 'here'" :title="title" @click="emit('press')" />
</template>

<style scoped>
.key {
  width: 14px;
  height: 16px;
  padding: 0;
  border: 1.5px solid var(--ink);
  border-radius: 2px 2px 7px 7px;
  margin-top: 5px;
  background: none;
  cursor: pointer;
}
.key.none {
  border-color: var(--rule);
}
.key.here {
  background: var(--ink);
}
.pair.three > .key {
  justify-self: end;
}
</style>
