<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useSpreadStore } from '~/stores/spread'

/** Levels are given depths in one step, the picture kept. What it says is tried at once, in every view; the ends are on the ladder, the horizon in the lens view. */
const spread = useSpreadStore()
const { form } = spread
useEventListener(window, 'keydown', (event) => event.key === 'Escape' && !event.defaultPrevented && spread.close())

const RULES = [
  { id: 'ratio', name: 'Equal ratio', title: 'Each distance from the lens is the same factor of the one before' },
  { id: 'even', name: 'Even steps', title: 'Equal steps of depth' },
] as const
const ORDERS = [
  { id: 'lie', name: 'as they lie', title: 'In rack order: what is near stays near' },
  { id: 'chosen', name: 'as chosen', title: 'In the order in which they were chosen: the first is nearest' },
  { id: 'size', name: 'by size', title: 'What is largest in the picture comes nearest' },
  { id: 'centre', name: 'off centre', title: 'What stands farthest from the middle of the frame comes nearest' },
] as const
const told = computed(() => (spread.ids.length === 0 ? 'Tick the levels that are meant.' : form.by === 'ends' ? `${spread.ids.length} level${spread.ids.length === 1 ? '' : 's'}; the picture stays.` : 'The lowest foot stays; higher ones go as far as they stand under the horizon, which is dragged in the lens view.'))
</script>

<template>
  <section class="panel" :aria-label="form.by === 'ends' ? 'Spread levels' : 'Depth from the drawing'" data-test="spread">
    <header><b>{{ form.by === 'ends' ? 'Spread' : 'Depth from the drawing' }}</b></header>
    <p class="quiet" role="status">{{ told }}</p>
    <template v-if="form.by === 'ends'">
      <div class="pair">
        <NumberField label="near" unit="fw" :model-value="form.near" :step="0.05" :max="form.far" @set="(v) => (form.near = v)" @scrub="(v) => (form.near = v)" />
        <NumberField label="far" unit="fw" :model-value="form.far" :step="0.05" :min="form.near" @set="(v) => (form.far = v)" @scrub="(v) => (form.far = v)" />
      </div>
      <ChoiceRow v-model="form.rule" :choices="RULES" label="Steps" fill />
      <div class="pair orders">
        <Select v-model="form.order" :options="[...ORDERS]" option-label="name" option-value="id" size="small" aria-label="Order: which comes near" :title="ORDERS.find((each) => each.id === form.order)?.title" />
        <button class="push-button" :aria-pressed="form.turned" title="The other way round: the first is farthest" @click="form.turned = !form.turned">turned</button>
      </div>
    </template>
    <div v-else class="pair">
      <NumberField label="horizon" unit="fw" :model-value="form.horizon" :step="0.01" @set="(v) => (form.horizon = v)" @scrub="(v) => (form.horizon = v)" />
      <NumberField label="farthest" unit="fw" :model-value="form.farthest" :step="0.5" :min="0.1" :max="400" @set="(v) => (form.farthest = v)" @scrub="(v) => (form.farthest = v)" />
    </div>
    <div class="actions">
      <button class="push-button" title="As it was (Esc)" @click="spread.close()">Cancel</button>
      <button class="push-button strong" :disabled="spread.ids.length === 0" @click="spread.take()">{{ form.by === 'ends' ? 'Spread' : 'Take these depths' }}</button>
    </div>
  </section>
</template>

<style scoped>
.panel {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px;
  border-top: 1px solid var(--rule);
  background: var(--paper-0);
}
p {
  margin: 0;
  font-size: 12px;
  line-height: 15px;
}
.pair,
.actions {
  display: flex;
  gap: 6px;
}
.pair > * {
  flex: 1;
  min-width: 0;
}
.orders > .push-button {
  flex: none;
}
.actions {
  justify-content: flex-end;
}
</style>
