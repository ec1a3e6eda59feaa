<script setup lang="ts">
import { editLevel, editPanel, retime, setLevelDepth } from '@rubato/core/edits'
import { framesOfEntry } from '@rubato/core/time'
import { computed, ref, watch } from 'vue'
import { useDeskStore } from '~/stores/desk'
import FermataMark from '~/components/desk/strip/FermataMark.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useScrub } from '~/composables/view/useScrub'
import type { Make } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'
import { useTiming } from '~/composables/strip/useTiming'
import CameraPanel from '~/components/desk/inspector/CameraPanel.vue'
import MovePanel from '~/components/desk/inspector/MovePanel.vue'
import ClipPanel from '~/components/sound/ClipPanel.vue'
import TransitionPanel from '~/components/sound/TransitionPanel.vue'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import type { LevelFields, Panel } from '@rubato/core/document'

const film = useFilmStore()
const desk = useDeskStore()
const timing = useTimingStore()
const { giverAfter, reachAfter } = useTiming()
const scrub = useScrub()
const sound = useSoundStore()

const takeId = () => desk.takeId!
const LEVEL_FIELDS: readonly { key: 'x' | 'y' | 'scale' | 'panDegrees' | 'tiltDegrees' | 'rollDegrees'; label: string; unit: string; step: number; resetTo: number; min?: number }[] = [
  { key: 'x', label: 'x', unit: 'fw', step: 0.01, resetTo: 0 },
  { key: 'y', label: 'y', unit: 'fw', step: 0.01, resetTo: 0 },
  { key: 'scale', label: 'scale', unit: '×', step: 0.01, resetTo: 1, min: 0.001 },
  { key: 'panDegrees', label: 'pan', unit: '°', step: 1, resetTo: 0 },
  { key: 'tiltDegrees', label: 'tilt', unit: '°', step: 1, resetTo: 0 },
  { key: 'rollDegrees', label: 'roll', unit: '°', step: 1, resetTo: 0 },
]
const levelOf = () => desk.selectedLevel!
function levelField(label: string, fieldsOf: (value: number) => LevelFields) {
  const { id, name } = levelOf()
  return scrub.field(`${label} of ${name}`, (value) => (f) => editLevel(f.takes[takeId()]!, takeId(), id, fieldsOf(value)), `level:${id}:${label}`)
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
    <MovePanel />
    <CameraPanel />

    <div v-if="desk.selectedLevel" class="group">
      <h3>{{ desk.selectedLevel.name }} <span class="quiet">level{{ desk.selectedLevel.locked ? ', locked' : '' }}</span></h3>
      <div class="pair three">
        <NumberField label="depth" :model-value="desk.selectedLevel.depth" :step="0.05" :reset-to="0" :disabled="desk.selectedLevel.locked" data-test="level-depth" v-on="scrub.field(`depth of ${levelOf().name}`, depthEdit, `depth:${levelOf().id}`)" />
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
          v-on="levelField(field.label, (v) => ({ [field.key]: v }))"
        />
        <NumberField label="opacity" unit="%" :model-value="desk.selectedLevel.opacity * 100" :step="5" :min="0" :max="100" :decimals="0" :reset-to="100" v-on="levelField('opacity', (v) => ({ opacity: v / 100 }))" />
      </div>
    </div>

    <div v-if="panel && film.project" class="group">
      <h3>Panel {{ (desk.placedPanel?.index ?? 0) + 1 }} <span class="quiet">{{ timing.length(panel.lengthFrames) }}<template v-if="panel.targetFrames !== undefined"> of {{ timing.length(panel.targetFrames) }}</template></span></h3>
      <div class="pair">
        <NumberField label="Length" unit="f" :model-value="panel.lengthFrames" :step="1" :min="1" :max="1000000" :decimals="0" :reset-to="film.project.defaultPanelFrames" :disabled="panel.lengthLocked" :parse="(text, now) => framesOfEntry(text, film.project!.rate, now)" data-test="panel-length" v-on="{ ...scrub.field(`length of panel ${(desk.placedPanel?.index ?? 0) + 1}`, (v) => lengthEdit(v, panel!), `length:${panel!.id}`), pointerdown: () => void reachAfter(takeId()) }" />
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
