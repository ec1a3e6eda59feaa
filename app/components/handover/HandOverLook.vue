<script setup lang="ts">
import { computed } from 'vue'
import type { MovieChoice } from '~/composables/handover/useMovieOut'
import { useFilmStore } from '~/stores/film'
import { moviePixels } from '~/workers/moviePlan'

/** How movies and pictures look and sound. */
defineProps<{ busy: boolean; takesSound: boolean; takesPictures: boolean; takesLayers: boolean; hasSound: boolean; hasStandIns: boolean }>()
const choice = defineModel<MovieChoice>({ required: true })
const film = useFilmStore()

const BURNS = [
  { key: 'timecode', label: 'timecode' },
  { key: 'label', label: 'shot' },
  { key: 'panel', label: 'panel' },
  { key: 'take', label: 'take' },
  { key: 'version', label: 'version' },
  { key: 'date', label: 'date' },
  { key: 'captions', label: 'captions' },
] as const
const PICTURES = [
  { label: 'As drawn', value: 'drawn' },
  { label: 'Distances in grey', value: 'depth' },
] as const
const ENDS = [
  { key: 'nearest', label: 'White at', title: 'What is so far off, or nearer, is white; empty: the nearest of these shots' },
  { key: 'farthest', label: 'black at', title: 'What is so far off, or farther, is black; empty: the farthest of these shots' },
] as const
function setEnd(key: 'nearest' | 'farthest', text: string) {
  const value = Number(text)
  if (choice.value.depth !== null) choice.value.depth = { ...choice.value.depth, [key]: text.trim() === '' || !(value >= 0.01) ? null : value }
}
const sizes = computed(() =>
  ([1, 0.5, 0.25] as const).map((size) => {
    const { widthPx, heightPx } = film.project === null ? { widthPx: 0, heightPx: 0 } : moviePixels({ project: film.project, size, dress: choice.value.dress })
    return { label: `${widthPx} × ${heightPx}`, value: size }
  }),
)
</script>

<template>
  <label>Size <Select v-model="choice.size" size="small" :options="sizes" option-label="label" option-value="value" :disabled="busy" aria-label="Size" /></label>
  <label>Picture <Select size="small" :model-value="choice.depth === null ? 'drawn' : 'depth'" :options="[...PICTURES]" option-label="label" option-value="value" :disabled="busy" aria-label="Picture" @update:model-value="(to: string) => (choice.depth = to === 'depth' ? { nearest: null, farthest: null } : null)" /></label>
  <div v-if="choice.depth !== null" class="ends">
    <span v-for="end in ENDS" :key="end.key" :title="end.title">{{ end.label }} <input type="number" class="plain-field mono" min="0.01" max="1000000" step="0.05" placeholder="auto" :value="choice.depth[end.key] ?? ''" :disabled="busy" :aria-label="end.title" @change="(event) => setEnd(end.key, (event.target as HTMLInputElement).value)" /> fw</span>
  </div>
  <label v-if="takesPictures && choice.depth === null" title="Of numbered pictures: where nothing is drawn there is paper, or nothing at all (alpha)">Paper <span class="check"><input v-model="choice.clear" type="checkbox" :disabled="busy" /> see-through in pictures</span></label>
  <label v-if="takesLayers" title="Each level’s pictures: of the whole frame, or only as large as what is seen of it; the table says where each lies">Levels <span class="check"><input v-model="choice.trim" type="checkbox" :disabled="busy" /> cut down to what is seen</span></label>
  <div class="row" role="group" aria-label="Written into the picture">
    <span title="Written into the lower part of the picture">Burn in</span>
    <span class="burns"><label v-for="each in BURNS" :key="each.key" class="check"><input v-model="choice.burnIn[each.key]" type="checkbox" :disabled="busy" /> {{ each.label }}</label></span>
  </div>
  <label title="Words of your own, in every frame">Words <input v-model="choice.burnIn.text" type="text" class="plain-field" maxlength="120" :disabled="busy" aria-label="Words written into every frame" placeholder="none" /></label>
  <label v-if="takesSound">Sound <span class="check"><input v-model="choice.sound" type="checkbox" :disabled="busy || !hasSound" /> {{ hasSound ? 'the film’s, mixed' : 'the film has none yet' }}</span></label>
  <label v-if="hasStandIns" title="Figures, boxes and grids that stand in for what is not drawn yet">Stand-ins <span class="check"><input v-model="choice.standIns" type="checkbox" :disabled="busy" /> {{ choice.standIns ? 'are seen' : 'are left out' }}</span></label>
</template>

<style scoped src="~/styles/handoverRows.css"></style>
<style scoped>
.burns {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
  column-gap: 14px;
}
.ends {
  display: flex;
  gap: 14px;
  padding-left: 74px;
}
.ends input {
  width: 74px;
}
</style>
