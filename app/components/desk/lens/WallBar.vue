<script setup lang="ts">
import { computed } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useDeskStore } from '~/stores/desk'
import { useWallsStore } from '~/stores/walls'

/** What the wall tool makes, how far off and how high. */
const { farOff } = defineProps<{ farOff: number }>()
const desk = useDeskStore()
const walls = useWallsStore()
const MODES = [
  { id: 'room', name: 'Room', title: 'Draw the far wall as it is to be seen: six walls come towards you from there; the near one is there too, hidden' },
  { id: 'corner', name: 'Corner', title: 'Draw two edges along the ground from one corner: a floor and two walls' },
  { id: 'wall', name: 'Wall', title: 'Draw its foot along the ground. Begun or ended at another’s corner, it is hinged there (Shift: in no set direction)' },
  { id: 'far', name: 'Far', title: 'Draw a wall that faces you, as it is to be seen' },
  { id: 'floor', name: 'Floor', title: 'Draw it on the ground from corner to corner' },
  { id: 'ceiling', name: 'Ceiling', title: 'Draw it over the ground from corner to corner' },
] as const
const facesYou = computed(() => walls.mode === 'room' || walls.mode === 'far')
const hint = computed(() => (walls.firstEdge === null ? null : 'now the other edge'))
</script>

<template>
  <div class="wall-bar">
    <ChoiceRow label="What is drawn" :choices="MODES" :model-value="walls.mode" @update:model-value="(id) => (walls.mode = id)" />
    <NumberField v-if="facesYou" class="number" label="far" unit="fw" :model-value="farOff" :min="0.05" :max="1000" :step="0.05" title="How far off the far wall stands, along the lens axis" @scrub="(value) => (walls.farFw = value)" @set="(value) => (walls.farFw = value)" />
    <template v-else>
      <NumberField class="number" label="ground" unit="fw" :model-value="desk.lens.groundY" :step="0.01" title="How high the ground lies in the set" @scrub="(value) => (desk.lens.groundY = value)" @set="(value) => (desk.lens.groundY = value)" />
      <NumberField v-if="walls.mode !== 'floor'" class="number" label="height" unit="fw" :model-value="walls.height" :min="0.01" :max="100" :step="0.01" :title="walls.mode === 'ceiling' ? 'How high over the ground it hangs' : 'How high walls are'" @scrub="(value) => (walls.height = value)" @set="(value) => (walls.height = value)" />
    </template>
    <span v-if="hint" class="chip blue" title="Esc gives the first one up">{{ hint }}</span>
  </div>
</template>

<style scoped>
.wall-bar {
  display: flex;
  flex: 1;
  align-items: center;
  gap: 8px;
  min-width: 0;
  overflow: hidden;
}
.number {
  flex: none;
  width: 118px;
}
</style>
