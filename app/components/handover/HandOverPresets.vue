<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { Trash2 } from '~/icons'
import type { HandOverPreset } from '~/composables/handover/useHandOverChoice'

/** Choices under names, for all films in this browser. */
const props = defineProps<{ presets: readonly HandOverPreset[]; same: string | null; disabled: boolean }>()
const emit = defineEmits<{ take: [name: string]; keep: [name: string]; drop: [name: string] }>()
const naming = ref<string | null>(null)
const field = useTemplateRef('field')
const options = computed(() => props.presets.map(({ name }) => name))
async function begin() {
  naming.value = props.same ?? ''
  await nextTick()
  field.value?.focus()
}
function keep() {
  const name = naming.value?.trim() ?? ''
  if (name !== '') emit('keep', name.slice(0, 60))
  naming.value = null
}
</script>

<template>
  <span class="presets">
    <template v-if="naming !== null">
      <input ref="field" v-model="naming" class="plain-field" maxlength="60" placeholder="what to call it" aria-label="Name of the choice" @keydown.enter.prevent="keep" @keydown.escape.stop="naming = null" />
      <button type="button" class="push-button" :disabled="naming.trim() === ''" @click="keep">Keep</button>
    </template>
    <template v-else>
      <Select v-if="options.length > 0" size="small" :model-value="same" :options="options" placeholder="Kept choices" :disabled="disabled" aria-label="Kept choices" @update:model-value="(name: string) => emit('take', name)" />
      <button v-if="same !== null" type="button" class="icon-button small" :disabled="disabled" :aria-label="`Forget ${same}`" :title="`Forget the choice ${same}`" @click="emit('drop', same)"><Trash2 :size="14" /></button>
      <button v-if="same === null" type="button" class="push-button" :disabled="disabled" title="Keeps what is chosen here under a name, for any film" @click="begin">Keep this choice…</button>
    </template>
  </span>
</template>

<style scoped>
.presets {
  display: flex;
  align-items: center;
  gap: 6px;
}
input {
  width: 170px;
}
</style>
