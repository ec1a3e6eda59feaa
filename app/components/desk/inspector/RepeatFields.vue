<script setup lang="ts">
import type { Repeat } from '@rubato/core/depth'
import { REPEATS_MOST, type Level } from '@rubato/core/document'
import { computed, onBeforeUnmount, watch } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useRepeats } from '~/composables/levels/useRepeats'
import { useEventListener } from '@vueuse/core'
import { useDeskStore } from '~/stores/desk'
import { useLevelToolStore } from '~/stores/levelTool'

/** One level many times: how many, how they stand, and what chance does to each. */
const props = defineProps<{ level: Level }>()
const desk = useDeskStore()
const tool = useLevelToolStore()
const repeats = useRepeats()

const repeat = computed(() => props.level.repeat ?? null)
const LAYS = [
  { id: 'step', name: 'Steps', title: 'One after the other, each a step from the one before' },
  { id: 'line', name: 'Along a line', title: 'Evenly along a line: draw it in the lens view' },
  { id: 'region', name: 'In a region', title: 'Spread over what an outline encloses: draw it in the lens view' },
] as const
type Lay = (typeof LAYS)[number]['id']
function layBy(kind: Lay) {
  if (kind !== 'step') {
    desk.tool = 'level'
    tool.laying = tool.laying === kind ? null : kind
  } else if (repeat.value?.lay.kind !== 'step') repeats.put(props.level, { ...repeat.value!, lay: repeats.begun(props.level).lay }, `${props.level.name} by steps`)
}
const field = (label: string, withValue: (repeat: Repeat, value: number) => Repeat) => repeats.field(props.level, label, withValue)
const step = (axis: 'x' | 'y') => field(`step ${axis}`, (each, value) => (each.lay.kind === 'step' ? { ...each, lay: { ...each.lay, [axis]: value } } : each))
const scatter = (of: keyof Repeat['scatter'], label: string) => field(`scatter in ${label}`, (each, value) => ({ ...each, scatter: { ...each.scatter, [of]: value } }))
const sways = computed(() => props.level.swing !== undefined || props.level.bob !== undefined || props.level.drift !== undefined)
const reseed = () => repeats.put(props.level, { ...repeat.value!, seed: repeats.newSeed() }, `another scatter of ${props.level.name}`)
watch(() => props.level.id, () => (tool.laying = null))
watch(() => desk.tool, (now) => now !== 'level' && (tool.laying = null))
useEventListener(window, 'keydown', (event) => event.key === 'Escape' && (tool.laying = null))
onBeforeUnmount(() => (tool.laying = null))
</script>

<template>
  <div class="line">
    <span class="quiet">Repeats</span>
    <button class="chip" :class="{ blue: repeat }" :aria-pressed="repeat !== null" title="This level many times: one drawing, moved and keyed as one" :disabled="level.locked" data-test="repeat" @click="repeats.toggle(level)">{{ repeat ? `${repeat.count} times` : 'Many times' }}</button>
    <button v-if="repeat" class="chip" title="Another scatter of the same kind" :disabled="level.locked" @click="reseed">Another way</button>
  </div>
  <div v-if="repeat" class="repeat" data-test="repeat-fields">
    <ChoiceRow :choices="LAYS" :model-value="tool.laying ?? repeat.lay.kind" label="How they stand" fill :disabled="level.locked" @update:model-value="layBy" />
    <p v-if="tool.laying" class="hint" role="status">{{ tool.laying === 'line' ? 'Draw in the lens view the line that they stand along.' : 'Draw in the lens view the outline that they fill.' }} <button class="link" title="As it was (Esc)" @click="tool.laying = null">Cancel</button></p>
    <div class="pair three">
      <NumberField label="times" :model-value="repeat.count" :step="1" :min="2" :max="REPEATS_MOST" :decimals="0" :reset-to="5" :disabled="level.locked" v-on="field('count', (each, value) => ({ ...each, count: Math.round(value) }))" />
      <template v-if="repeat.lay.kind === 'step'">
        <NumberField label="x" unit="fw" :model-value="repeat.lay.x" :step="0.01" :reset-to="0" :disabled="level.locked" title="To the right of the one before, in the level’s own size" v-on="step('x')" />
        <NumberField label="y" unit="fw" :model-value="repeat.lay.y" :step="0.01" :reset-to="0" :disabled="level.locked" title="Above the one before" v-on="step('y')" />
      </template>
    </div>
    <div class="pair three">
      <NumberField label="depth" unit="fw" :model-value="repeat.depth" :step="0.01" :reset-to="0" :disabled="level.locked" title="Behind the one before" v-on="field('step in depth', (each, value) => ({ ...each, depth: value }))" />
      <NumberField label="turn" unit="°" :model-value="repeat.rollDegrees" :step="1" :reset-to="0" :disabled="level.locked" title="Turned further than the one before" v-on="field('step in turn', (each, value) => ({ ...each, rollDegrees: value }))" />
      <NumberField label="size" unit="×" :model-value="repeat.size" :step="0.01" :min="0.5" :max="2" :reset-to="1" :disabled="level.locked" title="So many times as large as the one before" v-on="field('step in size', (each, value) => ({ ...each, size: value }))" />
    </div>
    <p class="quiet">Scattered by up to</p>
    <div class="pair three">
      <NumberField label="x" unit="fw" :model-value="repeat.scatter.x" :step="0.01" :min="0" :max="1000" :reset-to="0" :disabled="level.locked" v-on="scatter('x', 'x')" />
      <NumberField label="y" unit="fw" :model-value="repeat.scatter.y" :step="0.01" :min="0" :max="1000" :reset-to="0" :disabled="level.locked" v-on="scatter('y', 'y')" />
      <NumberField label="depth" unit="fw" :model-value="repeat.scatter.depth" :step="0.01" :min="0" :max="1000" :reset-to="0" :disabled="level.locked" v-on="scatter('depth', 'depth')" />
    </div>
    <div class="pair three">
      <NumberField label="turn" unit="°" :model-value="repeat.scatter.rollDegrees" :step="1" :min="0" :max="180" :reset-to="0" :disabled="level.locked" v-on="scatter('rollDegrees', 'turn')" />
      <NumberField label="size" unit="%" :model-value="repeat.scatter.size * 100" :step="1" :min="0" :max="95" :decimals="1" :reset-to="0" :disabled="level.locked" v-on="field('scatter in size', (each, value) => ({ ...each, scatter: { ...each.scatter, size: value / 100 } }))" />
      <NumberField label="mirrored" unit="%" :model-value="repeat.scatter.mirrored * 100" :step="5" :min="0" :max="100" :decimals="0" :reset-to="0" :disabled="level.locked" title="So many of a hundred are seen as in a mirror" v-on="field('mirrored', (each, value) => ({ ...each, scatter: { ...each.scatter, mirrored: value / 100 } }))" />
    </div>
    <NumberField v-if="sways" label="each sways later by" :model-value="repeat.stagger" :step="0.02" :min="-1" :max="1" :decimals="2" :reset-to="0" :disabled="level.locked" title="Swing, bob and drift begin so much of a period after the one before" v-on="field('stagger', (each, value) => ({ ...each, stagger: value }))" />
  </div>
</template>

<style scoped src="./panel.css"></style>
<style scoped>
.repeat {
  display: flex;
  flex-direction: column;
  gap: 5px;
  margin-top: 5px;
}
p {
  margin: 0;
}
.hint {
  padding: 4px 7px;
  border-radius: 5px;
  background: var(--blue-wash);
  font-size: 12px;
}
</style>
