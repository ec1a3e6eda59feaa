<script setup lang="ts">
import { putTransition } from '@rubato/core/edits'
import { framesOfEntry } from '@rubato/core/time'
import { computed } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useScrub } from '~/composables/view/useScrub'
import { useTransitions } from '~/composables/strip/useTransitions'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'

/** The chosen transition: its kind, length and place. */
const film = useFilmStore()
const sound = useSoundStore()
const { selected, placed, most, change, remove } = useTransitions()
const scrub = useScrub()
const KINDS = [
  { id: 'dissolve', name: 'Dissolve', title: 'One picture becomes the other' },
  { id: 'wipe', name: 'Wipe', title: 'An edge goes over the picture' },
  { id: 'colour', name: 'Colour', title: 'Through a colour: into it and out of it' },
] as const
const PLACES = [
  { id: 'before', name: 'Ends at cut', title: 'All of it before the cut' },
  { id: 'centre', name: 'Over cut', title: 'Half before the cut, half after' },
  { id: 'after', name: 'Starts at cut', title: 'All of it after the cut' },
] as const
const title = computed(() => {
  const now = selected.value
  if (now === null) return ''
  if (now.at !== 'cut') return now.at === 'start' ? 'Fade in' : 'Fade out'
  const at = film.filmStage.placeOf(now.id)
  const before = at === null ? undefined : film.filmStage.shots[at.index - 1]
  return `${before?.shot.label ?? '–'} → ${at?.shot.label ?? '–'}`
})
const cut = computed(() => {
  const now = placed.value
  return now === null || selected.value === null ? null : now.to - now.from < selected.value.lengthFrames ? now.to - now.from : null
})
const lengthEdit = (lengthFrames: number) => (f: typeof film.film) => putTransition(f.outline, film.project!.id, { ...selected.value!, lengthFrames: Math.max(1, Math.round(lengthFrames)) }, most(selected.value!))
/** Dragged it stops where there is no more room; typed, it is refused with how much there is. */
const lengthField = computed(() => ({ ...scrub.field('length of the transition', (v) => lengthEdit(Math.min(v, Math.max(1, most(selected.value!))))), set: (v: number) => void change(selected.value!.id, { lengthFrames: Math.round(v) }) }))
</script>

<template>
  <div v-if="selected && film.project" class="group" data-test="transition-panel" @keydown.esc.stop="sound.chooseTransition(null)">
    <h3>{{ title }} <span class="quiet">transition</span></h3>
    <ChoiceRow v-if="selected.at === 'cut'" class="whole" fill label="Kind of transition" :choices="KINDS" :model-value="selected.kind" @update:model-value="(kind) => change(selected!.id, { kind })" />
    <div class="pair">
      <NumberField label="Length" unit="f" :model-value="selected.lengthFrames" :step="1" :min="1" :max="10000" :decimals="0" :reset-to="Math.min(12, Math.max(1, most(selected)))" :parse="(text, now) => framesOfEntry(text, film.project!.rate, now)" data-test="transition-length" v-on="lengthField" />
      <span class="quiet room">room for {{ most(selected) }}</span>
    </div>
    <p v-if="cut !== null" class="quiet small">The shots have become too short: {{ cut }} f of it are shown.</p>
    <ChoiceRow v-if="selected.at === 'cut'" class="whole" fill label="Where it lies" :choices="PLACES" :model-value="selected.place" @update:model-value="(place) => change(selected!.id, { place })" />
    <div v-if="selected.kind === 'wipe'" class="pair">
      <NumberField label="Angle" unit="°" :model-value="selected.angleDegrees" :step="5" :min="-360" :max="360" :decimals="0" :reset-to="0" title="Where the edge goes: 0 to the right, 90 up" @set="(v) => change(selected!.id, { angleDegrees: v }, 'wipe-angle')" @scrub="() => undefined" />
      <NumberField label="Soft" unit="%" :model-value="selected.softness * 100" :step="5" :min="0" :max="100" :decimals="0" :reset-to="15" @set="(v) => change(selected!.id, { softness: v / 100 }, 'wipe-soft')" @scrub="() => undefined" />
    </div>
    <label v-if="selected.kind === 'colour'" class="row"><span class="quiet">Colour</span><input type="color" :value="selected.colour" aria-label="Colour" @change="(e) => change(selected!.id, { colour: (e.target as HTMLInputElement).value })" /></label>
    <label class="check"><input type="checkbox" :checked="selected.soundToo" @change="(e) => change(selected!.id, { soundToo: (e.target as HTMLInputElement).checked })" /> {{ selected.at === 'cut' ? 'sound crosses over along with it' : 'sound fades along with it' }}</label>
    <div class="buttons"><button class="push-button" title="A plain cut again (Delete)" @click="remove(selected.id)">Delete</button></div>
  </div>
</template>

<style scoped src="../desk/inspector/panel.css" />
<style scoped>
.room {
  align-self: center;
}
.check {
  display: flex;
  align-items: center;
  gap: 7px;
  margin: 4px 0;
}
input[type='color'] {
  width: 46px;
  height: 26px;
  padding: 1px;
}
</style>
