<script setup lang="ts">
import { reactionMs } from '@rubato/core/edits'
import { computed, onBeforeUnmount, ref } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useTapTiming } from '~/composables/strip/useTapTiming'

/** Clicks and flashes in time; how late they are tapped is found and kept. */
const emit = defineEmits<{ close: [] }>()
const { offsetMs } = useTapTiming()
const BEATS = 12
const EVERY_MS = 750
const LEAD_MS = 900
const CLICK_SECONDS = 0.03
const running = ref(false)
const lit = ref(-1)
const taps = ref<number[]>([])
const beats = ref<number[]>([])
const found = computed(() => (running.value ? null : reactionMs(beats.value, taps.value)))
let audio: AudioContext | null = null
let request = 0

function begin() {
  audio ??= new AudioContext()
  const context = audio
  void context.resume()
  taps.value = []
  lit.value = -1
  const start = performance.now() + LEAD_MS
  // A click is heard as much later than it is due as the sound takes to come out.
  const lateMs = (context.outputLatency || context.baseLatency || 0) * 1000
  beats.value = Array.from({ length: BEATS }, (_, i) => start + i * EVERY_MS + lateMs)
  for (let i = 0; i < BEATS; i++) click(context, context.currentTime + (LEAD_MS + i * EVERY_MS) / 1000)
  running.value = true
  cancelAnimationFrame(request)
  const tick = () => {
    const now = performance.now()
    lit.value = beats.value.findLastIndex((beat) => beat <= now)
    if (now > beats.value.at(-1)! + EVERY_MS) running.value = false
    else request = requestAnimationFrame(tick)
  }
  request = requestAnimationFrame(tick)
}
function click(context: AudioContext, at: number) {
  const gain = new GainNode(context, { gain: 0 })
  gain.gain.setValueAtTime(0.35, at)
  gain.gain.exponentialRampToValueAtTime(0.001, at + CLICK_SECONDS)
  const tone = new OscillatorNode(context, { frequency: 1400 })
  tone.connect(gain).connect(context.destination)
  tone.start(at)
  tone.stop(at + CLICK_SECONDS)
}
function strike() {
  if (running.value) taps.value = [...taps.value, performance.now()]
  else begin()
}
function onKey(event: KeyboardEvent) {
  if ((event.key !== 't' && event.key !== 'T' && event.key !== ' ') || event.repeat || event.target instanceof HTMLInputElement) return
  event.preventDefault()
  event.stopPropagation()
  strike()
}
function keep() {
  if (found.value !== null) offsetMs.value = found.value
  emit('close')
}
onBeforeUnmount(() => {
  cancelAnimationFrame(request)
  void audio?.close()
})
</script>

<template>
  <Dialog visible modal header="How late you tap" :style="{ width: '420px' }" @update:visible="(on: boolean) => !on && emit('close')" @keydown="onKey">
    <div class="calibration">
      <p>A click comes {{ BEATS }} times. Tap each when you hear it, with T, Space or here. What you are late is then taken off every tap.</p>
      <button class="drum" :class="{ lit: running && lit % 2 === 0 }" autofocus @pointerdown.prevent="strike">
        <b v-if="!running">{{ beats.length === 0 ? 'Begin' : 'Once more' }}</b>
        <b v-else>{{ Math.max(0, lit + 1) }} / {{ BEATS }}</b>
      </button>
      <p v-if="!running && beats.length > 0" role="status">
        <template v-if="found !== null">You tap <b>{{ Math.abs(found) }} ms</b> {{ found >= 0 ? 'late' : 'early' }}.</template>
        <template v-else>The taps lie too far apart, or are too few, to tell. Try once more.</template>
      </p>
      <NumberField label="Reaction" unit="ms" :model-value="offsetMs" :step="1" :min="-500" :max="500" :decimals="0" :reset-to="0" @set="(v) => (offsetMs = Math.round(v))" @scrub="(v) => (offsetMs = Math.round(v))" />
    </div>
    <template #footer>
      <button class="push-button" @click="emit('close')">Close</button>
      <button class="push-button strong" :disabled="found === null" @click="keep">Use {{ found === null ? '' : `${found} ms` }}</button>
    </template>
  </Dialog>
</template>

<style scoped>
.calibration {
  display: grid;
  gap: 12px;
  justify-items: center;
}
p {
  margin: 0;
}
.drum {
  display: grid;
  place-items: center;
  width: 120px;
  height: 120px;
  border: 2px solid var(--rule);
  border-radius: 50%;
  background: var(--paper-1);
  color: var(--ink);
  font-size: 16px;
  cursor: pointer;
}
.drum.lit {
  border-color: var(--blue);
  background: var(--blue);
  color: #ffffff;
}
</style>
