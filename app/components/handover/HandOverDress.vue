<script setup lang="ts">
import { computed } from 'vue'
import { MOST_CARD_FRAMES } from '#shared/renders'
import type { MovieChoice } from '~/composables/handover/useMovieOut'
import { useFilmStore } from '~/stores/film'

/** What is done to the finished picture, and what stands before it. */
defineProps<{ busy: boolean }>()
const choice = defineModel<MovieChoice>({ required: true })
const film = useFilmStore()

const TONES = [
  { label: 'As drawn', value: 'drawn' },
  { label: 'In grey', value: 'grey' },
  { label: 'Lines only', value: 'line' },
] as const
const ASPECTS = [
  { label: 'The film’s own', value: 0 },
  { label: '16 : 9', value: 16 / 9 },
  { label: '1.85 : 1', value: 1.85 },
  { label: '2.39 : 1', value: 2.39 },
  { label: '4 : 3', value: 4 / 3 },
  { label: '1 : 1', value: 1 },
  { label: '9 : 16', value: 9 / 16 },
] as const
const BORDERS = [
  { label: 'none', value: 0 },
  { label: 'thin', value: 0.002 },
  { label: 'broad', value: 0.008 },
] as const
const today = new Date().toISOString().slice(0, 10)
const usualMark = computed(() => `${film.artist || 'for review'}, ${today}`)
const whole = (text: string) => Math.min(MOST_CARD_FRAMES, Math.max(0, Math.round(Number(text) || 0)))
</script>

<template>
  <label>Tone <Select v-model="choice.dress.tone" size="small" :options="[...TONES]" option-label="label" option-value="value" :disabled="busy" aria-label="Tone" /></label>
  <label title="The picture whole, in the middle of another shape">Inside <Select size="small" :model-value="choice.dress.aspect ?? 0" :options="[...ASPECTS]" option-label="label" option-value="value" :disabled="busy" aria-label="Inside a frame of" @update:model-value="(to: number) => (choice.dress.aspect = to === 0 ? null : to)" /></label>
  <div class="row">
    <span>Border</span>
    <span class="check">
      <Select v-model="choice.dress.border" size="small" :options="[...BORDERS]" option-label="label" option-value="value" :disabled="busy" aria-label="Border" />
      <label class="check" title="What any screen shows (93 %), and where words may stand (90 %, dashed)"><input v-model="choice.dress.safe" type="checkbox" :disabled="busy" /> safe areas</label>
    </span>
  </div>
  <div class="row">
    <span title="Written all over, faintly: for whom, and when">Watermark</span>
    <span class="check"><input v-model="choice.dress.mark" type="text" class="plain-field wide" maxlength="120" placeholder="none" :disabled="busy" aria-label="Watermark" /><button v-if="choice.dress.mark === ''" type="button" class="push-button" :disabled="busy" :title="`“${usualMark}”`" @click="choice.dress.mark = usualMark">Who, when</button></span>
  </div>
  <div class="row">
    <span title="What the file is of, before its first frame">Slate</span>
    <span class="check"><input type="number" class="plain-field mono" min="0" :max="MOST_CARD_FRAMES" :value="choice.dress.slate" :disabled="busy" aria-label="Slate, frames" @change="(event) => (choice.dress.slate = whole((event.target as HTMLInputElement).value))" /> frames</span>
  </div>
  <div class="row">
    <span title="Words of your own before the first frame">Card</span>
    <span class="check">
      <textarea v-model="choice.dress.card.text" class="plain-field wide" rows="2" maxlength="500" placeholder="none" :disabled="busy" aria-label="Title card" />
      <span v-if="choice.dress.card.text.trim() !== ''" class="check"><input type="number" class="plain-field mono" min="0" :max="MOST_CARD_FRAMES" :value="choice.dress.card.frames" :disabled="busy" aria-label="Title card, frames" @change="(event) => (choice.dress.card.frames = whole((event.target as HTMLInputElement).value))" /> frames</span>
    </span>
  </div>
</template>

<style scoped src="~/styles/handoverRows.css"></style>
<style scoped>
.wide {
  flex: 1;
  min-width: 0;
}
input[type='number'] {
  width: 64px;
}
textarea {
  height: auto;
  padding: 4px 6px;
  resize: vertical;
}
</style>
