<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { cameraDialog } from '~/composables/camera/useCameraCommands'
import { useCameras } from '~/composables/camera/useCameras'
import { useSpeakers, type ProposedBeat, type SpeakerSettings } from '~/composables/camera/useSpeakers'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** Framings on who speaks, or cuts to the camera that sees them: proposed, seen on the ribbon and played before they are taken. */
const film = useFilmStore()
const desk = useDeskStore()
const cameras = useCameras()
const { speakers, propose, makeOf } = useSpeakers()
const { toggle } = usePlayback()
const visible = computed({ get: () => cameraDialog.value === 'speakers', set: (now) => !now && (cameraDialog.value = null) })
const settings = useLocalStorage<SpeakerSettings>('rubato.speakers', { shortestSeconds: 1.2, margin: 0.14, how: 'cut', travelFrames: 12 }, { mergeDefaults: true })
const beats = shallowRef<readonly ProposedBeat[]>([])
/** By the frame they begin at. */
const left = ref<ReadonlySet<number>>(new Set())
const problem = ref<string | null>(null)
const who = shallowRef<ReturnType<typeof speakers>>({ known: [], unknown: [] })
let gesture: Gesture | null = null

const taken = computed(() => beats.value.filter((beat) => beat.trouble === null && !left.value.has(beat.fromFrame)))
watch(visible, async (now) => {
  problem.value = null
  left.value = new Set()
  if (!now) {
    gesture?.abandon()
    gesture = null
    return
  }
  beats.value = []
  who.value = speakers()
  // A figure whose drawing is still on its way would seem not to be drawn at all.
  const takeId = desk.takeId
  try {
    if (takeId !== null) await film.ensureTakeWithArt(takeId)
  } catch (error) {
    problem.value = `The figures’ drawings could not be loaded. ${(error as Error).message} Close this and try again.`
    return
  }
  if (!visible.value || gesture !== null || desk.takeId !== takeId) return
  gesture = film.beginGesture('frame the speaker')
  find()
})
/** From the film without the trial, so that it does not propose upon what it proposed. */
function find() {
  gesture?.update(() => ({ ok: true, edits: [] }))
  beats.value = propose(settings.value)
  tryIt()
}
watch(settings, () => visible.value && gesture !== null && find(), { deep: true })
watch(left, () => visible.value && (gesture?.update(() => ({ ok: true, edits: [] })), tryIt()))
function tryIt() {
  problem.value = null
  const make = makeOf(taken.value, settings.value)
  if (make !== null && gesture !== null && !gesture.update(make)) problem.value = film.lastRefusal?.text ?? null
}
function leave(frame: number, isTaken: boolean) {
  const next = new Set(left.value)
  if (isTaken) next.delete(frame)
  else next.add(frame)
  left.value = next
}
function take() {
  gesture?.commit()
  gesture = null
  desk.trial = null
  visible.value = false
}
const empty = computed(() => {
  if (who.value.known.length > 0) return null
  return who.value.unknown.length > 0 ? `${who.value.unknown.join(' and ')} speak here, but no level is called so. Give the figures’ levels the names of those who speak.` : 'Nobody speaks in this shot: its voice clips name no speaker. Give them one in the inspector, or record a line.'
})
const HOWS = [
  { id: 'cut', name: 'jump', title: 'The camera is there at once' },
  { id: 'travel', name: 'travel', title: 'It goes over to them as they begin' },
] as const
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Frame the speaker" position="left" :style="{ width: '330px' }" :pt="{ mask: { style: 'background: transparent; animation: none' } }">
    <p v-if="empty" role="status">{{ empty }}</p>
    <template v-else>
      <div class="fields">
        <NumberField label="nobody for less than" unit="s" :model-value="settings.shortestSeconds" :step="0.1" :min="0.1" :max="20" :decimals="1" :reset-to="1.2" title="Who would be seen for less is seen along with who comes next" data-test="speaker-hold" @set="(v) => (settings.shortestSeconds = v)" @scrub="(v) => (settings.shortestSeconds = v)" />
        <NumberField v-if="!cameras.many.value" label="free" unit="%" :model-value="settings.margin * 100" :step="1" :min="0" :max="45" :decimals="0" :reset-to="14" title="Of the frame, on each side" @set="(v) => (settings.margin = v / 100)" @scrub="(v) => (settings.margin = v / 100)" />
      </div>
      <div v-if="!cameras.many.value" class="fields">
        <ChoiceRow v-model="settings.how" fill label="How it gets there" :choices="HOWS" />
        <NumberField v-if="settings.how === 'travel'" label="in" unit="f" :model-value="settings.travelFrames" :step="1" :min="1" :max="1000" :decimals="0" :reset-to="12" @set="(v) => (settings.travelFrames = v)" @scrub="(v) => (settings.travelFrames = v)" />
      </div>
      <ul data-test="beats">
        <li v-for="beat in beats" :key="beat.fromFrame">
          <label><input type="checkbox" :checked="beat.trouble === null && !left.has(beat.fromFrame)" :disabled="beat.trouble !== null" @change="(event) => leave(beat.fromFrame, (event.target as HTMLInputElement).checked)" /> <span class="mono">{{ beat.fromFrame }}–{{ beat.toFrame - 1 }}</span> {{ beat.speakers.join(' and ') }}<b v-if="beat.cameraId">, camera {{ cameras.letterOf(beat.cameraId) }}</b></label>
          <small v-if="beat.trouble" class="wrong"> {{ beat.trouble }}</small>
        </li>
      </ul>
      <p v-if="who.unknown.length > 0" class="quiet">No level is called {{ who.unknown.join(' or ') }}.</p>
    </template>
    <p v-if="problem" class="wrong" role="alert">{{ problem }}</p>
    <div class="actions">
      <button v-if="!empty" class="push-button" title="As it will be (Space)" @click="toggle()">{{ desk.playing ? 'Stop' : 'Play' }}</button>
      <button class="push-button" @click="visible = false">{{ empty ? 'Close' : 'Throw away' }}</button>
      <button v-if="!empty" class="push-button strong" :disabled="taken.length === 0 || problem !== null" @click="take">Take {{ taken.length === beats.length ? 'all' : taken.length }}</button>
    </div>
  </Dialog>
</template>

<style scoped src="../dialog.css"></style>
<style scoped>
ul {
  max-height: 34vh;
  padding: 0;
  margin: 8px 0;
  overflow-y: auto;
  list-style: none;
}
li {
  padding: 2px 0;
}
</style>
