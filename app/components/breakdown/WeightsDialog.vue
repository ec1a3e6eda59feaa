<script setup lang="ts">
import { WEIGHTS } from '@rubato/core/checks'
import type { WorkWeight } from '@rubato/core/document'
import { ref, watch } from 'vue'
import { useBreakdownStore } from '~/stores/breakdown'
import { TERM_NAMES } from '~/text/breakdown'

/** What makes a shot hard, and how much each of it counts. */
const visible = defineModel<boolean>('visible', { required: true })
const store = useBreakdownStore()
const NAMES = Object.entries(TERM_NAMES) as [WorkWeight, string][]
const texts = ref<Record<WorkWeight, string>>({} as Record<WorkWeight, string>)
const trouble = ref<string | null>(null)
const fill = (from: Readonly<Record<WorkWeight, number>>) => (texts.value = Object.fromEntries(NAMES.map(([name]) => [name, String(from[name])])) as Record<WorkWeight, string>)
watch(visible, (now) => now && (fill(store.weights), (trouble.value = null)), { immediate: true })

function keep() {
  const numbers = NAMES.map(([name]) => [name, Number(texts.value[name].replace(',', '.'))] as const)
  const bad = numbers.find(([name, value]) => texts.value[name].trim() === '' || !(value >= 0 && value <= 1000))
  if (bad !== undefined) {
    trouble.value = `“${texts.value[bad[0]].slice(0, 20)}” can’t count: type a number from 0 to 1,000 for ${TERM_NAMES[bad[0]].split(':')[0]}.`
    return
  }
  const weights = Object.fromEntries(numbers) as Record<WorkWeight, number>
  if (store.setWeights(NAMES.every(([name]) => weights[name] === WEIGHTS[name]) ? null : weights)) visible.value = false
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="What counts how much" :style="{ width: '520px' }">
    <p>How hard something is, is a sum of points: so many of each, times what each counts. Everyone on this film has the same.</p>
    <label v-for="[name, words] in NAMES" :key="name" class="weight"><input v-model="texts[name]" class="plain-field mono" inputmode="decimal" :aria-label="words" @keydown.enter="keep" /> {{ words }}</label>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <footer class="actions">
      <button class="push-button" @click="fill(WEIGHTS)">As they usually are</button>
      <button class="push-button" @click="visible = false">Cancel</button>
      <button class="push-button strong" @click="keep">Keep</button>
    </footer>
  </Dialog>
</template>

<style scoped src="../desk/dialog.css"></style>
<style scoped>
.weight {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 6px;
}
.weight input {
  flex: none;
  width: 72px;
  text-align: right;
}
</style>
