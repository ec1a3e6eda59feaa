<script setup lang="ts">
import { computed } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { Trash2 } from '~/icons'
import { useCameras } from '~/composables/camera/useCameras'
import { useDeskStore } from '~/stores/desk'

/** The chosen camera cut: which camera, and whether it cuts or dissolves. */
const desk = useDeskStore()
const cameras = useCameras()
const index = computed(() => desk.stage?.live.spans.findIndex(({ from }) => from === desk.selectedCutFrame) ?? -1)
const span = computed(() => desk.stage?.live.spans[index.value] ?? null)
const end = computed(() => desk.stage?.live.spans[index.value + 1]?.from ?? desk.stage?.lengthFrames ?? 0)
const choices = computed(() => cameras.cameras.value.map(({ id, letter }) => ({ id, name: letter, title: `Camera ${letter}, up to the next cut` })))
/** What there is room for may be less than what was asked. */
const seen = computed(() => {
  const dissolve = desk.stage?.live.dissolves.find(({ from, to, after }) => span.value !== null && from <= span.value.from && to >= span.value.from && after === span.value.cameraId)
  return dissolve === undefined ? 0 : dissolve.to - dissolve.from
})
const usual = computed(() => Math.round(desk.fps))
</script>

<template>
  <div v-if="span && cameras.many.value" class="group" data-test="cut-panel">
    <h3>
      {{ index === 0 ? 'The shot begins on' : `Camera cut at ${span.from}` }} <span class="quiet">{{ end - span.from }} f</span>
      <button v-if="index > 0" class="icon-button small end" title="Take it out: the camera before goes on (Delete)" aria-label="Take out the camera cut" @click="cameras.removeCut(span.from)"><Trash2 :size="13" /></button>
    </h3>
    <div class="line">
      <span class="quiet">Camera</span>
      <ChoiceRow label="Which camera" :choices="choices" :model-value="span.cameraId" @update:model-value="(id) => cameras.setCut(span!.from, id)" />
    </div>
    <div v-if="index > 0" class="line">
      <span class="quiet">Comes</span>
      <ChoiceRow label="How it comes" :choices="[{ id: 'cut', name: 'cut', title: 'At once' }, { id: 'dissolve', name: 'dissolve', title: 'One camera’s picture becomes the other’s' }]" :model-value="span.dissolveFrames > 0 ? 'dissolve' : 'cut'" @update:model-value="(how) => cameras.dissolve(span!.from, how === 'cut' ? 0 : usual)" />
      <NumberField v-if="span.dissolveFrames > 0" label="over" unit="f" :model-value="span.dissolveFrames" :step="1" :min="1" :max="100000" :decimals="0" :reset-to="usual" data-test="dissolve-frames" @set="(v) => cameras.dissolve(span!.from, v)" @scrub="() => undefined" />
    </div>
    <p v-if="span.dissolveFrames > seen" class="quiet small">There is room for {{ seen }} f: cuts beside it, or the shot’s ends, leave no more.</p>
  </div>
</template>

<style scoped src="./panel.css"></style>
<style scoped>
.line :deep(.number-field) {
  flex: 1;
  min-width: 0;
}
</style>
