<script setup lang="ts">
import { FOCAL_LENGTH_RANGE_MM, fieldAngleDegrees, TRADE_FOCAL_LENGTHS_MM, untouchedPose, type CameraPose } from '@rubato/core/camera'
import { editFraming, editLevel, editPanel, retime, setLevelDepth } from '@rubato/core/edits'
import { moveName, type MoveSpec, type Timing } from '@rubato/core/moves'
import { framesOfEntry } from '@rubato/core/time'
import { refThrottled } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { Lock, LockOpen } from '~/icons'
import { useDeskStore } from '~/stores/desk'
import { useScrub } from '~/composables/useScrub'
import { useFilmStore, type Make } from '~/stores/film'
import { useTiming } from '~/composables/useTiming'
import ClipPanel from '~/components/sound/ClipPanel.vue'
import TransitionPanel from '~/components/sound/TransitionPanel.vue'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import type { Level, Panel } from '@rubato/core/document'

const film = useFilmStore()
const desk = useDeskStore()
const timing = useTimingStore()
const { giverAfter, reachAfter } = useTiming()
const scrub = useScrub()
const sound = useSoundStore()

const livePose = computed(() => desk.pose)
// While playing, numbers that no eye can read are not laid out for every frame.
const slowPose = refThrottled(livePose, 160)
const pose = computed(() => (desk.playing ? slowPose.value : livePose.value))
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
  if (desk.pose === null) return
  const change = desk.beginCamera(`camera ${label}`)
  change.update({ ...desk.pose, [key]: value })
  change.end()
}
function untouched() {
  if (rest.value === null) return
  const change = desk.beginCamera('return to the untouched camera')
  change.update(rest.value)
  change.end()
}

const keyState = computed(() => {
  if (desk.framings.length === 0) return 'untouched'
  if (desk.trialHere !== null) return 'not kept yet'
  if (desk.framings.length === 1) return 'one framing, locked off'
  const index = desk.framings.findIndex((entry) => entry.frame === desk.shotFrame)
  return index >= 0 ? `framing ${index + 1}` : 'between framings'
})

const move = computed(() => {
  const here = desk.moveHere
  if (here === null) return null
  const frames = here.to.frame - here.from.frame
  const { framing } = here.from
  return {
    framing,
    title: `Move ${here.index + 1} → ${here.index + 2}`,
    frames,
    seconds: (frames / desk.fps).toFixed(1),
    name: moveName(framing.pose, here.to.framing.pose, framing.move, frames),
    spec: framing.move as MoveSpec,
  }
})
const TIMINGS = [
  { label: 'Hold', value: 'hold', title: 'Stays, then jumps at the next framing' },
  { label: 'Even', value: 'even', title: 'The same speed throughout' },
  { label: 'Cushioned', value: 'cushioned', title: 'Gets up to speed and comes to rest' },
] as const

const takeId = () => desk.takeId!
function setMove(label: string, spec: MoveSpec, gesture: string | null = null) {
  const id = move.value!.framing.id
  film.perform(label, (f) => editFraming(f.takes[takeId()]!, takeId(), id, { move: spec }), gesture)
}
function setTiming(kind: Timing['kind']) {
  const { spec } = move.value!
  if (kind === spec.timing.kind || kind === 'custom') return
  const timing: Timing = kind === 'cushioned' ? { kind, leaveFrames: 6, arriveFrames: 6 } : { kind }
  setMove(`${kind} move`, { ...spec, timing })
}
function scrubCushion(side: 'leaveFrames' | 'arriveFrames', value: number) {
  const { framing, spec } = move.value!
  if (spec.timing.kind !== 'cushioned') return
  const timing = { ...spec.timing, [side]: Math.max(0, Math.round(value)) }
  scrub.update((f) => editFraming(f.takes[takeId()]!, takeId(), framing.id, { move: { ...framing.move, timing } as MoveSpec }))
}
function setCushion(side: 'leaveFrames' | 'arriveFrames', value: number) {
  const { spec } = move.value!
  if (spec.timing.kind === 'cushioned') setMove('cushion', { ...spec, timing: { ...spec.timing, [side]: Math.max(0, Math.round(value)) } }, `cushion:${side}`)
}
function setEvenness(kind: 'set' | 'screen') {
  const { spec } = move.value!
  if (kind === spec.evenness.kind) return
  setMove(kind === 'screen' ? 'even on screen' : 'even in the set', { ...spec, evenness: kind === 'screen' ? { kind, subjectDepth: desk.selectedLevel?.depth ?? 0 } : { kind } })
}
function setSubject(value: number) {
  const { spec } = move.value!
  setMove('subject depth', { ...spec, evenness: { kind: 'screen', subjectDepth: value } }, 'subject-depth')
}
function toggleFramingLock(locked: boolean, id: string) {
  film.perform(locked ? 'lock framing' : 'unlock framing', (f) => editFraming(f.takes[takeId()]!, takeId(), id, { locked }))
}
const lockable = computed(() => desk.framingHere ?? (desk.framings.length === 1 ? desk.framings[0]! : null))

const LEVEL_FIELDS: readonly { key: 'x' | 'y' | 'scale' | 'panDegrees' | 'tiltDegrees' | 'rollDegrees'; label: string; unit: string; step: number; resetTo: number; min?: number }[] = [
  { key: 'x', label: 'x', unit: 'fw', step: 0.01, resetTo: 0 },
  { key: 'y', label: 'y', unit: 'fw', step: 0.01, resetTo: 0 },
  { key: 'scale', label: 'scale', unit: '×', step: 0.01, resetTo: 1, min: 0.001 },
  { key: 'panDegrees', label: 'pan', unit: '°', step: 1, resetTo: 0 },
  { key: 'tiltDegrees', label: 'tilt', unit: '°', step: 1, resetTo: 0 },
  { key: 'rollDegrees', label: 'roll', unit: '°', step: 1, resetTo: 0 },
]
const levelOf = () => desk.selectedLevel!
function scrubLevel(fields: Partial<Level>) {
  const id = levelOf().id
  scrub.update((f) => editLevel(f.takes[takeId()]!, takeId(), id, fields))
}
function setLevel(label: string, fields: Partial<Level>) {
  const level = levelOf()
  film.perform(`${label} of ${level.name}`, (f) => editLevel(f.takes[takeId()]!, takeId(), level.id, fields), `level:${level.id}:${label}`)
}
function depthEdit(value: number) {
  const [level, camera] = [levelOf(), desk.keepPicture ? desk.pose : null]
  return (f: typeof film.film) => setLevelDepth(f.takes[takeId()]!, takeId(), level.id, value, camera)
}

const panel = computed(() => desk.placedPanel?.panel ?? null)
/** As on the strip: Push or Steal. */
function lengthEdit(value: number, target: Panel): Make {
  const place = { takeId: takeId(), panelId: target.id }
  const mode = timing.modeNow
  const giver = mode === 'steal' ? giverAfter(place) : null
  return (f) => retime(f, film.project!.id, [{ lengths: [{ ...place, lengthFrames: Math.round(value) }], giver }], mode)
}
const words = ref({ action: '', dialogue: '', notes: '' })
watch(panel, (now) => (words.value = { action: now?.action ?? '', dialogue: now?.dialogue ?? '', notes: now?.notes ?? '' }), { immediate: true })
function keepWords(field: 'action' | 'dialogue' | 'notes', target: Panel | null) {
  const value = words.value[field]
  if (target === null || target[field] === value) return
  film.perform(`${field} of panel`, (f) => editPanel(f.takes[takeId()]!, takeId(), target.id, { [field]: value }))
}
</script>

<template>
  <section class="inspector" aria-label="Inspector">
    <ClipPanel v-if="sound.chosenClips.length > 0" />
    <TransitionPanel v-else-if="sound.transitionId !== null" />
    <div v-if="move" class="group">
      <h3>{{ move.title }} <span class="quiet">{{ move.frames }} f · {{ move.seconds }} s</span></h3>
      <p class="tempo name">{{ move.name }}</p>
      <div class="segments" role="group" aria-label="Timing">
        <button v-for="each in TIMINGS" :key="each.value" :aria-pressed="move.spec.timing.kind === each.value" :title="each.title" @click="setTiming(each.value)">{{ each.label }}</button>
      </div>
      <div v-if="move.spec.timing.kind === 'cushioned'" class="pair">
        <NumberField label="Leaves" unit="f" :model-value="move.spec.timing.leaveFrames" :step="1" :min="0" :decimals="0" :reset-to="6" @begin="scrub.begin('cushion')" @scrub="(v) => scrubCushion('leaveFrames', v)" @commit="scrub.commit()" @cancel="scrub.cancel()" @set="(v) => setCushion('leaveFrames', v)" />
        <NumberField label="Arrives" unit="f" :model-value="move.spec.timing.arriveFrames" :step="1" :min="0" :decimals="0" :reset-to="6" @begin="scrub.begin('cushion')" @scrub="(v) => scrubCushion('arriveFrames', v)" @commit="scrub.commit()" @cancel="scrub.cancel()" @set="(v) => setCushion('arriveFrames', v)" />
      </div>
      <div class="pair">
        <div class="segments" role="group" aria-label="Evenness">
          <button :aria-pressed="move.spec.evenness.kind === 'set'" title="Equal steps through the set" @click="setEvenness('set')">Even in set</button>
          <button :aria-pressed="move.spec.evenness.kind === 'screen'" title="The subject grows by the same factor every frame" @click="setEvenness('screen')">Even on screen</button>
        </div>
      </div>
      <div v-if="move.spec.evenness.kind === 'screen'" class="pair">
        <NumberField label="Subject at" unit="fw" :model-value="move.spec.evenness.subjectDepth" :step="0.05" :reset-to="0" @set="setSubject" @scrub="() => undefined" />
      </div>
    </div>

    <div v-if="pose && rest" class="group">
      <h3>
        Camera {{ desk.camera?.letter }} at {{ desk.shotFrame }} <span class="quiet">{{ keyState }}</span>
        <button v-if="lockable" class="icon-button small end" :aria-pressed="lockable.framing.locked" :title="lockable.framing.locked ? 'Unlock this framing' : 'Lock this framing against change'" :aria-label="lockable.framing.locked ? 'Unlock this framing' : 'Lock this framing'" @click="toggleFramingLock(!lockable.framing.locked, lockable.framing.id)"><Lock v-if="lockable.framing.locked" :size="13" /><LockOpen v-else :size="13" /></button>
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
        <button class="link" title="Place, turn and lens as they were before anyone touched them" @click="untouched">untouched camera</button>
      </p>
    </div>

    <div v-if="desk.selectedLevel" class="group">
      <h3>{{ desk.selectedLevel.name }} <span class="quiet">level{{ desk.selectedLevel.locked ? ', locked' : '' }}</span></h3>
      <div class="pair three">
        <NumberField label="depth" :model-value="desk.selectedLevel.depth" :step="0.05" :reset-to="0" :disabled="desk.selectedLevel.locked" data-test="level-depth" @begin="scrub.begin(`depth of ${levelOf().name}`)" @scrub="(v) => scrub.update(depthEdit(v))" @commit="scrub.commit()" @cancel="scrub.cancel()" @set="(v) => film.perform(`depth of ${levelOf().name}`, depthEdit(v), `depth:${levelOf().id}`)" />
        <NumberField
          v-for="field in LEVEL_FIELDS"
          :key="field.key"
          :label="field.label"
          :model-value="desk.selectedLevel[field.key]"
          :step="field.step"
          :min="field.min ?? -1e6"
          :max="1e6"
          :reset-to="field.resetTo"
          :disabled="desk.selectedLevel.locked"
          @begin="scrub.begin(`${field.label} of ${levelOf().name}`)"
          @scrub="(v) => scrubLevel({ [field.key]: v })"
          @commit="scrub.commit()"
          @cancel="scrub.cancel()"
          @set="(v) => setLevel(field.label, { [field.key]: v })"
        />
        <NumberField label="opacity" unit="%" :model-value="desk.selectedLevel.opacity * 100" :step="5" :min="0" :max="100" :decimals="0" :reset-to="100" @begin="scrub.begin(`opacity of ${levelOf().name}`)" @scrub="(v) => scrubLevel({ opacity: v / 100 })" @commit="scrub.commit()" @cancel="scrub.cancel()" @set="(v) => setLevel('opacity', { opacity: v / 100 })" />
      </div>
    </div>

    <div v-if="panel && film.project" class="group">
      <h3>Panel {{ (desk.placedPanel?.index ?? 0) + 1 }} <span class="quiet">{{ timing.length(panel.lengthFrames) }}<template v-if="panel.targetFrames !== undefined"> of {{ timing.length(panel.targetFrames) }}</template></span></h3>
      <div class="pair">
        <NumberField label="Length" unit="f" :model-value="panel.lengthFrames" :step="1" :min="1" :max="1000000" :decimals="0" :reset-to="film.project.defaultPanelFrames" :disabled="panel.lengthLocked" :parse="(text, now) => framesOfEntry(text, film.project!.rate, now)" data-test="panel-length" @begin="(void reachAfter(takeId()), scrub.begin(`length of panel ${(desk.placedPanel?.index ?? 0) + 1}`))" @scrub="(v) => scrub.update(lengthEdit(v, panel!))" @commit="scrub.commit()" @cancel="scrub.cancel()" @set="(v) => film.perform(`length of panel ${(desk.placedPanel?.index ?? 0) + 1}`, lengthEdit(v, panel!), `length:${panel!.id}`)" />
        <button class="push-button fermata" :aria-pressed="panel.lengthLocked" :title="panel.lengthLocked ? 'Fermata: the length is held. Press to let it go.' : 'Put a fermata on: the panel keeps its length'" aria-label="Fermata: hold this length" @click="film.perform(panel.lengthLocked ? 'take fermata off' : 'put fermata on', (f) => editPanel(f.takes[takeId()]!, takeId(), panel!.id, { lengthLocked: !panel!.lengthLocked }))"><FermataMark /></button>
      </div>
      <label class="words"><span class="quiet">Action</span><textarea v-model="words.action" rows="2" maxlength="10000" placeholder="What happens" @blur="keepWords('action', panel)" /></label>
      <label class="words dialogue"><span class="quiet">Dialogue</span><textarea v-model="words.dialogue" rows="2" maxlength="10000" placeholder="NAME: what is said" @blur="keepWords('dialogue', panel)" /></label>
    </div>
  </section>
</template>

<style scoped src="./panel.css" />
<style scoped>
.inspector {
  height: 100%;
  overflow: hidden auto;
  background: var(--paper-0);
}
h3 .end {
  margin-left: auto;
}
.name {
  margin: -2px 0 6px;
  font-size: 15px;
}
.labelled {
  display: grid;
  grid-template-columns: 58px 1fr;
  align-items: center;
  margin-bottom: 4px;
}
.pair > .segments {
  grid-column: 1 / -1;
}
.lenses {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
  margin: 2px 0 2px;
}
.lenses .chip {
  padding: 0 7px;
}
.words {
  display: block;
  margin-top: 5px;
}
.words textarea {
  display: block;
  margin-bottom: 0;
  color: var(--ink);
}
.dialogue textarea {
  color: var(--plum);
}
</style>
