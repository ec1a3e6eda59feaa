<script setup lang="ts">
import { hazeAt, hazeReaches, softnessAt } from '@rubato/core/depth'
import { FOCUS_RANGE, HAZE_MOST } from '@rubato/core/document'
import type { AirName } from '@rubato/core/moves'
import { placedLevel } from '@rubato/core/stage'
import { useEventListener } from '@vueuse/core'
import { computed } from 'vue'
import KeyButton from '~/components/desk/inspector/KeyButton.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useAir } from '~/composables/levels/useAir'
import { ClipboardPaste, Copy, X } from '~/icons'
import { useAirStore } from '~/stores/air'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** What lies between the lens and the levels: haze, soft focus, and distances as a picture. */
const film = useFilmStore()
const desk = useDeskStore()
const store = useAirStore()
const air = useAir()
useEventListener(window, 'keydown', (event) => event.key === 'Escape' && !event.defaultPrevented && (store.open = false))

const haze = computed(() => air.values.value.haze)
const focus = computed(() => air.values.value.focus)
const fw = (value: number) => (value < 10 ? value.toFixed(2) : value < 1000 ? value.toFixed(0) : '1000+')
const half = computed(() => (haze.value === null ? Infinity : hazeReaches(haze.value, 0.5)))
const name = computed(() => desk.selectedLevel?.name ?? 'the picture plane')
/** What it does to the selected level. */
const told = computed(() => {
  const placed = placedLevel(desk.stageFrame, desk.selectedLevelId)
  if (placed === null || placed.z <= 0 || (haze.value === null && focus.value === null)) return null
  const soft = focus.value === null ? 0 : softnessAt(focus.value, placed.z) * (film.project?.widthPx ?? 0)
  const parts = [...(haze.value === null ? [] : [`${Math.round(hazeAt(haze.value, placed.z) * 100)} % haze`]), ...(focus.value === null ? [] : [soft < 0.5 ? 'sharp' : `${soft < 10 ? soft.toFixed(1) : soft.toFixed(0)} px soft`])]
  return `${placed.level.name}, ${fw(placed.z)} fw off: ${parts.join(', ')}`
})
const range = computed(() => store.range)
const keyed = (which: AirName) => air.tracks.value[which].length > 0
const where = (which: AirName) => (!keyed(which) ? 'the whole shot' : air.stateOf(which) === 'here' ? 'key here' : air.isBetween(which) ? 'between keys' : 'keyed')
</script>

<template>
  <section class="panel" aria-label="Air: haze and soft focus" data-test="air">
    <header><b>Air</b><span class="quiet">this shot’s</span><button class="icon-button small" title="Copy haze and soft focus as they are at this frame, for another shot" aria-label="Copy the air" @click="air.copy()"><Copy :size="13" /></button><button class="icon-button small" title="Paste them: this shot has them too" aria-label="Paste the air" :disabled="store.copied === null" @click="air.paste()"><ClipboardPaste :size="13" /></button><button class="icon-button small" title="Close (Esc)" aria-label="Close" @click="store.open = false"><X :size="14" /></button></header>
    <div class="part" :class="{ inhand: store.inHand === 'haze' }">
      <div class="head">
        <label title="What is farther off goes towards a colour"><input type="checkbox" :checked="haze !== null" @change="air.toggle('haze')" /> Haze</label>
        <template v-if="haze">
          <span class="quiet where">{{ where('haze') }}</span>
          <button v-if="keyed('haze')" class="chip" title="Take its keys out: as it is here, for the whole shot" @click="air.settle('haze')">alike</button>
          <KeyButton of="haze" :state="air.stateOf('haze')" :disabled="false" @press="air.toggleKey('haze')" />
        </template>
      </div>
      <template v-if="haze">
        <div class="fields">
          <input type="color" :value="haze.colour" title="The colour that it goes towards" aria-label="Colour of the haze" :disabled="air.isBetween('haze')" @change="(event) => air.set('haze', 'colour of haze', (now) => ({ ...now, colour: (event.target as HTMLInputElement).value }))" />
          <NumberField label="thick" :model-value="haze.density" :step="0.01" :min="0" :max="HAZE_MOST.density" :reset-to="0.15" title="How much of what is left of a colour goes with each frame width" v-on="air.field('haze', 'thickness', (v, now) => ({ ...now, density: v }))" />
          <NumberField label="from" unit="fw" :model-value="haze.start" :step="0.05" :min="0" :max="HAZE_MOST.startFw" :decimals="2" :reset-to="Number(air.reach.value.toFixed(3))" title="Nearer than this, as drawn; a double-click: from the selected level on" v-on="air.field('haze', 'start', (v, now) => ({ ...now, start: v }))" />
        </div>
        <p class="quiet">{{ half === Infinity ? 'as clear as without' : `half of a colour is gone at ${fw(half)} fw` }}</p>
      </template>
    </div>
    <div class="part" :class="{ inhand: store.inHand === 'focus' }">
      <div class="head">
        <label title="What is nearer or farther than one distance is softened"><input type="checkbox" :checked="focus !== null" @change="air.toggle('focus')" /> Soft focus</label>
        <template v-if="focus">
          <span class="quiet where">{{ where('focus') }}</span>
          <button v-if="keyed('focus')" class="chip" title="Take its keys out: as it is here, for the whole shot" @click="air.settle('focus')">alike</button>
          <KeyButton of="focus" :state="air.stateOf('focus')" :disabled="false" @press="air.toggleKey('focus')" />
        </template>
      </div>
      <template v-if="focus">
        <div class="fields two">
          <NumberField label="sharp" unit="fw" :model-value="focus.sharp" :step="0.02" :min="FOCUS_RANGE.leastSharpFw" :max="FOCUS_RANGE.mostSharpFw" :decimals="2" title="The distance from the lens that is sharp" v-on="air.field('focus', 'sharp distance', (v, now) => ({ ...now, sharp: v }))" />
          <NumberField label="soft" :model-value="focus.strength * 100" :step="0.2" :min="0" :max="FOCUS_RANGE.strength * 100" :decimals="1" :reset-to="2" title="How soft all else is: of the frame’s width in a hundred, between what is 1 fw off and what is endlessly far" v-on="air.field('focus', 'softness', (v, now) => ({ ...now, strength: v / 100 }))" />
        </div>
        <button class="push-button sharp" :title="`${name} is ${fw(air.reach.value)} fw from the lens`" :disabled="air.isBetween('focus')" @click="air.set('focus', 'sharp distance', (now) => ({ ...now, sharp: Number(air.reach.value.toFixed(4)) }))">Sharp on {{ name }}</button>
      </template>
    </div>
    <p v-if="told" class="quiet told" role="status">{{ told }}</p>
    <div class="part">
      <label title="In the place of colours, how far off everything is: equal steps of grey are equal steps of parallax (Alt Shift J)"><input v-model="store.distances" type="checkbox" /> Distances in grey</label>
      <div v-if="store.distances && range" class="fields two">
        <NumberField label="white" unit="fw" :model-value="range.nearest" :step="0.05" :min="0.01" :max="range.farthest" :decimals="2" title="At this distance and nearer: white" @set="(v) => store.setEnds({ ...range!, nearest: v })" @scrub="(v) => store.setEnds({ ...range!, nearest: v })" />
        <NumberField label="black" unit="fw" :model-value="range.farthest" :step="0.05" :min="range.nearest" :max="1000000" :decimals="2" title="At this distance and farther: black" @set="(v) => store.setEnds({ ...range!, farthest: v })" @scrub="(v) => store.setEnds({ ...range!, farthest: v })" />
      </div>
      <button v-if="store.distances && store.hasOwnEnds" class="chip" title="From the nearest to the farthest that this shot has" @click="store.setEnds(null)">as the shot has them</button>
    </div>
  </section>
</template>

<style scoped>
.panel {
  display: flex;
  flex-direction: column;
  gap: 5px;
  max-height: 62%;
  padding: 6px 8px 8px;
  border-top: 1px solid var(--rule);
  background: var(--paper-0);
  overflow: hidden auto;
}
header,
.head {
  display: flex;
  align-items: center;
  gap: 6px;
}
header .quiet,
.where {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 12px;
}
label {
  display: flex;
  align-items: center;
  gap: 5px;
  white-space: nowrap;
}
input[type='checkbox'] {
  accent-color: var(--blue);
}
.part {
  padding-left: 6px;
  border-left: 3px solid transparent;
}
.part.inhand {
  border-left-color: var(--blue);
}
.head {
  min-height: 24px;
}
.head :deep(.key) {
  margin-top: 0;
}
.fields {
  display: grid;
  grid-template-columns: 26px 1fr 1fr;
  gap: 5px;
  margin: 3px 0;
}
.fields.two {
  grid-template-columns: 1fr 1fr;
}
.fields :deep(.number-field) {
  gap: 3px;
  padding: 0 5px;
}
input[type='color'] {
  width: 26px;
  height: 26px;
  padding: 2px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--sheet);
  cursor: pointer;
}
p {
  margin: 0;
  font-size: 12px;
  line-height: 15px;
}
.sharp {
  width: 100%;
  min-height: 24px;
  padding: 1px 6px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
