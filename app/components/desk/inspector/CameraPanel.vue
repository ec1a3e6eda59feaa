<script setup lang="ts">
import { FOCAL_LENGTH_RANGE_MM, fieldAngleDegrees, TRADE_FOCAL_LENGTHS_MM, untouchedPose, type CameraPose } from '@rubato/core/camera'
import { computed, ref } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import { Lock, LockOpen, SlidersHorizontal, Video } from '~/icons'
import { cameraDialog, PRESET_KEYS } from '~/composables/camera/useCameraCommands'
import { useCameraMoves } from '~/composables/camera/useCameraMoves'
import { useSpans } from '~/composables/camera/useSpans'
import { useFrameThis } from '~/composables/camera/useFrameThis'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** Where the camera is at the playhead, its lens, its locks, and what frames it quickly. */
const film = useFilmStore()
const desk = useDeskStore()
const moves = useCameraMoves()
const frame = useFrameThis()
const spans = useSpans()
const composing = ref<{ toggle: (event: Event) => void } | null>(null)
const kept = ref<{ toggle: (event: Event) => void } | null>(null)

const pose = computed(() => desk.read.pose)
const rest = computed(() => (film.optics === null ? null : untouchedPose(film.optics)))

type PoseField = keyof CameraPose
const FIELDS: readonly { key: PoseField; label: string; unit: string; step: number; decimals: number; group: string; min?: number; max?: number }[] = [
  { key: 'x', label: 'x', unit: 'fw', step: 0.01, decimals: 3, group: 'Place' },
  { key: 'y', label: 'y', unit: 'fw', step: 0.01, decimals: 3, group: 'Place' },
  { key: 'depth', label: 'depth', unit: 'fw', step: 0.01, decimals: 3, group: 'Distance' },
  { key: 'focalLengthMm', label: 'lens', unit: 'mm', step: 1, decimals: 1, group: 'Distance', ...FOCAL_LENGTH_RANGE_MM },
  { key: 'panDegrees', label: 'pan', unit: '°', step: 0.5, decimals: 2, group: 'Turn' },
  { key: 'tiltDegrees', label: 'tilt', unit: '°', step: 0.5, decimals: 2, group: 'Turn', min: -89, max: 89 },
  { key: 'rollDegrees', label: 'roll', unit: '°', step: 0.5, decimals: 2, group: 'Turn' },
]
const BY = [
  { id: 'truck', name: 'by truck', title: 'The camera comes nearer' },
  { id: 'lens', name: 'by lens', title: 'The lens gets longer; no parallax' },
] as const
const GROUPS = ['Place', 'Distance', 'Turn'] as const

let scrubbing: ReturnType<typeof desk.beginCamera> | null = null
let scrubPose: CameraPose | null = null
function beginCamera(field: string) {
  scrubPose = desk.pose
  scrubbing = desk.beginCamera(`camera ${field}`)
}
const scrubCamera = (key: PoseField, value: number) => scrubPose !== null && scrubbing?.update({ ...scrubPose, [key]: value })
const endCamera = () => scrubbing?.end()
const abandonCamera = () => scrubbing?.abandon()
function setCamera(key: PoseField, label: string, value: number) {
  if (desk.pose !== null) frame.look({ ...desk.pose, [key]: value }, `camera ${label}`, true)
}
function untouched() {
  if (rest.value !== null) frame.look(rest.value, 'return to the untouched camera')
}

const keyState = computed(() => {
  if (desk.framings.length === 0) return 'untouched'
  if (desk.trialHere !== null) return 'not kept yet'
  if (desk.framings.length === 1) return 'one framing, locked off'
  const index = desk.framings.findIndex((entry) => entry.frame === desk.read.frame)
  return index >= 0 ? `framing ${index + 1}` : 'between framings'
})
const lockable = computed(() => desk.framingHere ?? (desk.framings.length === 1 ? desk.framings[0]! : null))
const presets = computed(() => PRESET_KEYS.flatMap((id) => desk.take?.presets[id] ?? []))
const nextKey = computed(() => PRESET_KEYS.find((id) => desk.take?.presets[id] === undefined) ?? null)
const planeName = computed(() => desk.selectedLevel?.name ?? 'the picture plane')
</script>

<template>
  <div v-if="pose && rest" class="group">
    <h3>
      Camera {{ desk.cameraAtWork?.letter }} at {{ desk.read.frame }} <span class="quiet">{{ desk.cameraAtWork?.locked ? 'camera locked' : keyState }}</span>
      <button v-if="lockable && !desk.cameraAtWork?.locked" class="icon-button small end" :aria-pressed="lockable.framing.locked" :title="lockable.framing.locked ? 'Unlock this framing (Alt K)' : 'Lock this framing against change (Alt K)'" :aria-label="lockable.framing.locked ? 'Unlock this framing' : 'Lock this framing'" @click="moves.toggleFramingLock"><Lock v-if="lockable.framing.locked" :size="13" /><LockOpen v-else :size="13" /></button>
      <button class="icon-button small" :class="{ end: !lockable || desk.cameraAtWork?.locked }" :aria-pressed="desk.cameraAtWork?.locked === true" :title="desk.cameraAtWork?.locked ? 'Unlock the whole camera (Alt L)' : 'Lock the whole camera: nothing of it can be changed (Alt L)'" :aria-label="desk.cameraAtWork?.locked ? 'Unlock the camera' : 'Lock the camera'" @click="moves.lock(desk.cameraAtWork?.locked !== true)"><Video :size="13" /><i v-if="desk.cameraAtWork?.locked" class="barred" /></button>
    </h3>
    <div v-for="group in GROUPS" :key="group" class="labelled">
      <span class="quiet">{{ group }}</span>
      <div class="pair" :class="{ three: group === 'Turn' }">
        <NumberField
          v-for="field in FIELDS.filter((entry) => entry.group === group)"
          :key="field.key"
          :label="field.label"
          :unit="group === 'Turn' ? '' : field.unit"
          :model-value="pose[field.key]"
          :step="field.step"
          :decimals="field.decimals"
          :min="field.min ?? -1e6"
          :max="field.max ?? 1e6"
          :reset-to="rest[field.key]"
          :data-test="`camera-${field.key}`"
          @begin="beginCamera(field.label)"
          @scrub="(v) => scrubCamera(field.key, v)"
          @commit="endCamera()"
          @cancel="abandonCamera()"
          @set="(v) => setCamera(field.key, field.label, v)"
        />
      </div>
    </div>
    <div class="lenses">
      <button v-for="mm in TRADE_FOCAL_LENGTHS_MM.filter((f) => f >= 18 && f <= 135)" :key="mm" class="chip" :aria-pressed="Math.abs(pose.focalLengthMm - mm) < 0.05" :title="`${mm} mm, field of ${fieldAngleDegrees(mm, film.optics!.filmBackMm).toFixed(1)}°`" @click="setCamera('focalLengthMm', 'lens', mm)">{{ mm }}</button>
    </div>
    <p class="quiet small">
      field {{ fieldAngleDegrees(pose.focalLengthMm, film.optics!.filmBackMm).toFixed(1) }}°
      <button class="link" title="Place, turn and lens as they were before anyone touched them; one value alone: double-click its label" @click="untouched">untouched camera</button>
    </p>
    <div class="buttons">
      <button class="push-button" title="What is selected into view (O). Alt Shift O keys it; Alt T travels to it" @click="frame.frameChosen">Frame this</button>
      <button class="push-button" title="Keep what is framed here and arrive on what is selected at the panel’s end (Alt T)" @click="frame.travelToChosen">Travel to this</button>
      <button class="icon-button small" title="How Frame this goes about it" aria-label="How Frame this goes about it" aria-haspopup="dialog" @click="(e) => composing?.toggle(e)"><SlidersHorizontal :size="13" /></button>
      <Popover ref="composing">
        <div class="settings" @keydown.stop>
          <label>Margin <NumberField label="free" unit="%" :model-value="frame.settings.value.margin * 100" :step="1" :min="0" :max="45" :decimals="0" :reset-to="12" @set="(v) => (frame.settings.value.margin = v / 100)" @scrub="(v) => (frame.settings.value.margin = v / 100)" /></label>
          <ChoiceRow v-model="frame.settings.value.by" fill label="Frame by" :choices="BY" />
          <button class="push-button" title="Draw it in the lens view (Shift O)" @click="desk.tool = 'region'">Frame a region</button>
        </div>
      </Popover>
      <button class="push-button" :aria-pressed="desk.counterZooms" :title="`Truck and zoom answer each other: ${planeName} keeps its size (Alt Z)`" @click="desk.counterZooms = !desk.counterZooms">Counter-zoom</button>
      <button class="push-button" title="From here on it goes along with the selected level, or with what you point at (Alt G)" :disabled="desk.cameraAtWork?.locked" @click="spans.start('follow')">Follow</button>
      <button class="push-button" title="From here on it turns to the selected level, or to what you point at (Alt Shift G)" :disabled="desk.cameraAtWork?.locked" @click="spans.start('aim')">Aim</button>
      <button class="push-button" title="From here on it is held by hand: it drifts a little (Alt Shift H)" :disabled="desk.cameraAtWork?.locked" @click="spans.hold()">By hand</button>
      <button class="push-button" title="Push-in, pull-out, drift, whip pan, reveal, arc (Alt R)" @click="cameraDialog = 'ready-made'">Ready-made…</button>
      <button class="push-button" title="Framings on who speaks, or cuts to the camera that sees them (Alt Shift S)" @click="cameraDialog = 'speakers'">Speaker…</button>
    </div>
    <p v-if="desk.counterZooms" class="quiet small" role="status">{{ planeName }} keeps its size</p>
    <div class="presets" role="group" aria-label="Framings on number keys">
      <button v-for="preset in presets" :key="preset.id" class="chip" :title="`${preset.name}: press ${preset.id} to go there, Ctrl Alt ${preset.id} to keep the present framing in its place`" @click="moves.recall(preset.id)"><b>{{ preset.id }}</b> {{ preset.name }}</button>
      <button v-if="nextKey" class="chip" :title="`Keep this framing on the number key ${nextKey} (Ctrl Alt ${nextKey})`" @click="moves.store(nextKey)">keep on {{ nextKey }}</button>
      <button v-if="presets.length > 0" class="icon-button small" title="Name them, let them go" aria-label="Framings on number keys" aria-haspopup="dialog" @click="(e) => kept?.toggle(e)"><SlidersHorizontal :size="13" /></button>
      <Popover ref="kept">
        <div class="settings" @keydown.stop>
          <div v-for="preset in presets" :key="preset.id" class="preset">
            <b>{{ preset.id }}</b>
            <input :value="preset.name" maxlength="80" :aria-label="`Name of framing ${preset.id}`" @change="(e) => moves.rename(preset.id, (e.target as HTMLInputElement).value)" />
            <button class="push-button" @click="moves.forget(preset.id)">Let go</button>
          </div>
        </div>
      </Popover>
    </div>
  </div>
</template>

<style scoped src="./panel.css"></style>
<style scoped>
h3 .icon-button {
  position: relative;
}
.barred {
  position: absolute;
  inset: 11px 5px auto;
  height: 2px;
  background: var(--vermilion);
  transform: rotate(-38deg);
}
.labelled {
  display: grid;
  grid-template-columns: 58px 1fr;
  align-items: center;
  margin-bottom: 4px;
}
.lenses,
.presets {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 3px;
  margin: 2px 0;
}
.lenses .chip,
.presets .chip {
  padding: 0 5px;
}
.settings {
  display: grid;
  gap: 7px;
  width: 240px;
}
.settings label {
  display: grid;
  grid-template-columns: 60px 1fr;
  align-items: center;
}
.preset {
  display: grid;
  grid-template-columns: 16px 1fr auto;
  align-items: center;
  gap: 6px;
}
</style>
