<script setup lang="ts">
import { inOrder, METRES_PER_FW_RANGE, takeLengthFrames } from '@rubato/core/document'
import { framesPerSecond } from '@rubato/core/time'
import { computed, toRef } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { NEW_CAMERA, NO_CAMERA, useSceneIn } from '~/composables/handover/useSceneIn'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** A 3D scene's camera and motion for the shot that is open: how it is read, and what comes of it. */
const visible = defineModel<boolean>('visible', { required: true })
const props = defineProps<{ file: File | null }>()
const emit = defineEmits<{ pick: [] }>()
const film = useFilmStore()
const desk = useDeskStore()
const { told, result, trouble, busy, wishes, take } = useSceneIn(toRef(props, 'file'))

const cameras = computed(() => [...(told.value?.cameras.map(({ name, moves }, value) => ({ label: moves ? name : `${name}, still`, value })) ?? []), { label: 'no camera', value: NO_CAMERA }])
const places = computed(() => [...(desk.take === null ? [] : inOrder(desk.take.cameras).map(({ id, letter }) => ({ label: `camera ${letter}, in the place of its framings`, value: id }))), { label: 'a new camera', value: NEW_CAMERA }])
const shotFrames = computed(() => (desk.take === null ? 0 : takeLengthFrames(desk.take)))
const fps = computed(() => (film.project === null ? 24 : framesPerSecond(film.project.rate)))
const hasOtherRate = computed(() => told.value !== null && told.value.keysPerSecond !== null && Math.abs(told.value.keysPerSecond - fps.value) > 0.01)
const rates = computed(() => [
  { label: `as long as it lasts, ${told.value?.frames.time ?? 0} frames`, value: 'time' as const },
  { label: `a key a frame, ${told.value?.frames.keys ?? 0} frames`, value: 'keys' as const },
])
const UPS = [
  { label: 'y, as the format has it', value: false },
  { label: 'z, as some write it', value: true },
]
const many = (count: number, one: string, several: string) => (count === 1 ? `one ${one}` : `${count} ${several}`)
const outcome = computed(() => {
  const brought = result.value?.brought
  if (brought === undefined || !brought.made.ok) return null
  const parts = [
    ...(brought.framings > 0 ? [`${many(brought.framings, 'framing', 'framings')}, off by ${brought.mostPx.toFixed(2)} px at the most`] : []),
    ...(wishes.levels && told.value!.levels > 0 ? [brought.levels === 0 ? 'no level has moved' : `${many(brought.levels, 'level moves', 'levels move')}`] : []),
    ...(brought.carriers > 0 ? [many(brought.carriers, 'carrier', 'carriers')] : []),
    ...(brought.boxes > 0 ? [many(brought.boxes, 'box', 'boxes')] : []),
  ]
  const lasts = told.value!.frames[wishes.rate]
  const length = lasts > shotFrames.value ? `It lasts ${lasts} frames; what is past the shot’s ${shotFrames.value} is left out.` : lasts > 1 && lasts < shotFrames.value ? `It lasts ${lasts} of the shot’s ${shotFrames.value} frames, and is held after.` : ''
  return `${parts.length === 0 ? 'Nothing would change.' : `${parts.join('; ')}.`} ${length}`.trim()
})
const canTake = computed(() => result.value?.brought.made.ok === true && result.value.brought.made.edits.length > 0)
function takeIt() {
  if (take()) visible.value = false
}
</script>

<template>
  <Dialog v-model:visible="visible" modal :header="`${file?.name ?? 'A 3D scene'} into shot ${desk.placedShot?.shot.label ?? ''}`" :style="{ width: '540px' }" data-test="scene-in">
    <p v-if="told === null && trouble === null" role="status">Reading {{ file?.name }}…</p>
    <form v-if="told" @submit.prevent="takeIt">
      <p v-for="note in told.notes" :key="note" class="quiet">{{ note }}</p>
      <label>Camera <Select v-model="wishes.camera" size="small" :options="cameras" option-label="label" option-value="value" aria-label="Camera" /></label>
      <label v-if="wishes.camera !== NO_CAMERA">becomes <Select v-model="wishes.into" size="small" :options="places" option-label="label" option-value="value" aria-label="becomes" /></label>
      <label v-if="hasOtherRate">Time <Select v-model="wishes.rate" size="small" :options="rates" option-label="label" option-value="value" aria-label="Time" /></label>
      <div class="pair">
        <NumberField label="1 fw is" unit="m" :model-value="wishes.metresPerFw" :step="0.1" :min="METRES_PER_FW_RANGE.min" :max="METRES_PER_FW_RANGE.max" :decimals="3" @set="(v) => (wishes.metresPerFw = v)" @scrub="(v) => (wishes.metresPerFw = v)" />
        <NumberField label="Within" unit="px" :model-value="wishes.tolerancePx" :step="0.1" :min="0.05" :max="20" :decimals="2" :reset-to="0.5" @set="(v) => (wishes.tolerancePx = v)" @scrub="(v) => (wishes.tolerancePx = v)" />
      </div>
      <label>Up is <Select v-model="wishes.zUp" size="small" :options="UPS" option-label="label" option-value="value" aria-label="Up is" /></label>
      <label v-if="told.levels > 0" class="check"><input v-model="wishes.levels" type="checkbox" /> {{ many(told.levels, 'level of this shot', 'levels of this shot') }}, where they have moved</label>
      <label v-if="told.carriers + told.shapes > 0" class="check"><input v-model="wishes.others" type="checkbox" /> {{ [told.carriers > 0 ? `${many(told.carriers, 'thing', 'things')} that ${told.carriers === 1 ? 'moves' : 'move'}, as carriers` : '', told.shapes > 0 ? `${many(told.shapes, 'shape', 'shapes')}, as boxes that stand in` : ''].filter(Boolean).join('; ') }}</label>
      <p class="outcome" role="status" data-test="scene-outcome">{{ outcome ?? (trouble === null ? 'Working out what comes of it…' : '') }}</p>
    </form>
    <div v-if="trouble" class="failed" role="alert">{{ trouble }}</div>
    <div class="actions">
      <button type="button" class="push-button" @click="emit('pick')">Another file…</button>
      <span class="grow" />
      <button type="button" class="push-button" @click="visible = false">Leave it</button>
      <button v-if="told" type="button" class="push-button strong" :disabled="!canTake || busy" @click="takeIt">Take it in</button>
    </div>
  </Dialog>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
label {
  display: grid;
  grid-template-columns: 72px 1fr;
  align-items: center;
}
.check {
  display: flex;
  gap: 8px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  padding-left: 72px;
}
p {
  margin: 0;
}
.outcome {
  min-height: 38px;
  padding: 8px 10px;
  border-left: 3px solid var(--rule);
  background: var(--paper-1);
}
.failed {
  padding: 8px 10px;
  border-left: 3px solid var(--vermilion);
  background: var(--vermilion-wash);
}
.actions {
  display: flex;
  gap: 8px;
  margin-top: 12px;
}
.grow {
  flex: 1;
}
</style>
