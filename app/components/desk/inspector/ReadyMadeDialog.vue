<script setup lang="ts">
import { READY_MADE, READY_MADE_AMOUNTS, type ReadyMadeKind } from '@rubato/core/moves'
import { computed, ref, watch } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { cameraDialog } from '~/composables/camera/useCameraCommands'
import { useCameraMoves } from '~/composables/camera/useCameraMoves'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** Ready-made moves, put in as ordinary framings; the lens view shows them before they are taken. */
const film = useFilmStore()
const desk = useDeskStore()
const moves = useCameraMoves()
const visible = computed({ get: () => cameraDialog.value === 'ready-made', set: (now) => !now && (cameraDialog.value = null) })
const NAMES: Readonly<Record<ReadyMadeKind, { readonly name: string; readonly told: string; readonly amount: string; readonly unit: string; readonly step: number; readonly decimals: number }>> = {
  'push-in': { name: 'Push-in', told: 'comes nearer to the subject, with a long soft arrival', amount: 'nearer by', unit: '%', step: 1, decimals: 0 },
  'pull-out': { name: 'Pull-out', told: 'goes away from the subject', amount: 'farther by', unit: '%', step: 5, decimals: 0 },
  drift: { name: 'Drift', told: 'slides a little, evenly, all the time', amount: 'sideways by', unit: 'fw', step: 0.01, decimals: 2 },
  'whip-pan': { name: 'Whip pan', told: 'stays, then turns away in a few frames', amount: 'turns by', unit: '°', step: 5, decimals: 0 },
  reveal: { name: 'Reveal', told: 'begins to the side and nearer, and ends on what is framed now', amount: 'from aside', unit: 'fw', step: 0.05, decimals: 2 },
  arc: { name: 'Arc', told: 'goes round the subject, turned to it', amount: 'round by', unit: '°', step: 5, decimals: 0 },
}
const kind = ref<ReadyMadeKind>('push-in')
const amounts = ref(Object.fromEntries(READY_MADE.map((each) => [each, READY_MADE_AMOUNTS[each].usual])) as Record<ReadyMadeKind, number>)
const length = ref(48)
const problem = ref<string | null>(null)
let gesture: Gesture | null = null
/** As the camera stood when the dialog opened: the trial itself must not move what it starts from. */
let makes: ((kind: ReadyMadeKind, amount: number, length: number) => ReturnType<typeof moves.readyMade>) | null = null

const toPanelEnd = computed(() => (desk.placedPanel === null ? 0 : desk.placedPanel.startFrame + desk.placedPanel.panel.lengthFrames - 1 - desk.shotFrame))
const toShotEnd = computed(() => (desk.placedShot?.lengthFrames ?? 1) - 1 - desk.shotFrame)
const subject = computed(() => desk.selectedLevel?.name ?? 'what lies at the picture plane')

watch(visible, (now) => {
  problem.value = null
  if (!now) {
    gesture?.abandon()
    gesture = null
    return
  }
  if (toShotEnd.value < 1) {
    film.refuse('From the shot’s last frame there is no time for a move. Put the playhead earlier.')
    visible.value = false
    return
  }
  length.value = Math.max(1, Math.min(toShotEnd.value, toPanelEnd.value > 3 ? toPanelEnd.value : toShotEnd.value))
  makes = moves.readyMade
  gesture = film.beginGesture('ready-made move')
  tryIt()
})
watch([kind, amounts, length], tryIt, { deep: true })
function tryIt() {
  if (gesture === null || makes === null) return
  // From the film without the trial.
  gesture.update(() => ({ ok: true, edits: [] }))
  const make = makes(kind.value, amounts.value[kind.value], length.value)
  if (make === null) return
  problem.value = gesture.update(make) ? null : (film.lastRefusal?.text ?? null)
}
function take() {
  gesture?.commit()
  desk.trial = null
  gesture = null
  visible.value = false
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Ready-made move" position="left" :style="{ width: '310px' }" :pt="{ mask: { style: 'background: transparent; animation: none' } }">
    <div class="kinds" role="group" aria-label="Move">
      <button v-for="each in READY_MADE" :key="each" class="push-button" :aria-pressed="kind === each" :title="NAMES[each].told" @click="kind = each">{{ NAMES[each].name }}</button>
    </div>
    <p class="quiet">{{ NAMES[kind].name }}: {{ NAMES[kind].told }}. The subject is {{ subject }}.</p>
    <div class="fields">
      <NumberField :label="NAMES[kind].amount" :unit="NAMES[kind].unit" :model-value="amounts[kind]" :step="NAMES[kind].step" :min="READY_MADE_AMOUNTS[kind].min" :max="READY_MADE_AMOUNTS[kind].max" :decimals="NAMES[kind].decimals" :reset-to="READY_MADE_AMOUNTS[kind].usual" data-test="ready-amount" @set="(v) => (amounts[kind] = v)" @scrub="(v) => (amounts[kind] = v)" />
      <NumberField label="over" unit="f" :model-value="length" :step="1" :min="1" :max="toShotEnd" :decimals="0" data-test="ready-length" @set="(v) => (length = v)" @scrub="(v) => (length = v)" />
    </div>
    <div class="ends">
      <button class="chip" :disabled="toPanelEnd < 1" @click="length = toPanelEnd">to the panel’s end</button>
      <button class="chip" @click="length = toShotEnd">to the shot’s end</button>
    </div>
    <p v-if="problem" class="wrong" role="alert">{{ problem }}</p>
    <div class="actions">
      <button class="push-button" @click="visible = false">Cancel</button>
      <button class="push-button strong" :disabled="problem !== null" @click="take">Put in</button>
    </div>
  </Dialog>
</template>

<style scoped src="../dialog.css"></style>
<style scoped>
.kinds {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 5px;
  margin-bottom: 8px;
}
</style>
