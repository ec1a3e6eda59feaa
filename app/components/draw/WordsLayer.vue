<script setup lang="ts">
import { MOST_LETTERS, WORD_FONTS } from '@rubato/core/document'
import { seenRings } from '@rubato/core/checks'
import { computed, nextTick, useTemplateRef, watch } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { FONT_NAMES } from '~/composables/draw/letters'
import { EM_FW, type useWords } from '~/composables/draw/useWords'
import { AlignCenter, AlignLeft, AlignRight } from '~/icons'
import { useFilmStore } from '~/stores/film'
import { TONES } from '~/stores/pen'
import { ringsPath } from '~/viewport/printNotes'

/** Words that are being written, as they will lie on their level, and the field they are written in. */
const props = defineProps<{ words: ReturnType<typeof useWords>; width: number; height: number; toPane: (u: number, v: number) => { readonly x: number; readonly y: number } }>()
const film = useFilmStore()
const field = useTemplateRef('field')
const { writing } = props.words

const EDITOR = { width: 316, height: 214 }
const FONTS = WORD_FONTS.map((id) => ({ id, name: FONT_NAMES[id], title: `Letters: ${FONT_NAMES[id].toLowerCase()}` }))
const ALIGNS = [
  { id: 'start', name: 'To the left', icon: AlignLeft },
  { id: 'middle', name: 'Centred', icon: AlignCenter },
  { id: 'end', name: 'To the right', icon: AlignRight },
] as const
const seen = (rings: readonly (readonly number[])[]) => {
  const now = writing.value
  return now === null ? [] : seenRings(now.ground.lens, now.ground.plane, { rings: rings.map((ring) => [...ring]) })
}
const path = computed(() => (writing.value === null ? '' : ringsPath(seen(writing.value.outlines), props.toPane)))
/** The line that the first words stand on. */
const line = computed(() => {
  const now = writing.value
  if (now === null) return null
  const [a, b, c, d, e, f] = now.words.place as [number, number, number, number, number, number]
  const [ring] = seen([[e, f, e + c, f + d, e + a, f + b]])
  if (ring === undefined) return null
  const at = (i: number) => props.toPane(ring[i * 2]!, ring[i * 2 + 1]!)
  return { foot: at(0), top: at(1), end: at(2) }
})
/** Under what is written, and always whole in view. */
const place = computed(() => {
  const at = line.value?.foot ?? { x: props.width / 2, y: props.height / 2 }
  const ends = writing.value === null ? [] : seen(writing.value.outlines).flatMap((ring) => Array.from({ length: ring.length / 2 }, (_, i) => props.toPane(ring[i * 2]!, ring[i * 2 + 1]!).y))
  const [top, bottom] = [ends.reduce((least, y) => Math.min(least, y), at.y), ends.reduce((most, y) => Math.max(most, y), at.y)]
  const below = bottom + 16
  const held = (value: number, most: number) => Math.max(6, Math.min(most, value))
  return { left: `${held(at.x - 20, props.width - EDITOR.width - 6)}px`, top: `${held(below + EDITOR.height > props.height && top - EDITOR.height - 16 > 0 ? top - EDITOR.height - 16 : below, props.height - EDITOR.height - 6)}px`, width: `${EDITOR.width}px` }
})
const widthPx = computed(() => film.project?.widthPx ?? 1280)
const px = computed(() => (writing.value === null ? 0 : props.words.emOnScreen(writing.value) * widthPx.value))
const setPx = (value: number) => props.words.setEm(value / widthPx.value)
/** Where they lay before a number is scrubbed: given up, they lie there again. */
let before: readonly number[] = []
const scrubFrom = () => (before = writing.value?.words.place ?? [])
const scrubBack = () => props.words.set({ place: [...before] })
const left = computed(() => MOST_LETTERS - (writing.value?.words.text ?? '').length)

watch(
  () => [writing.value === null, writing.value?.id],
  () => writing.value !== null && void nextTick(() => field.value?.focus()),
)
function onKey(event: KeyboardEvent) {
  event.stopPropagation()
  if (event.key === 'Escape') {
    event.preventDefault()
    props.words.giveUp()
  } else if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
    event.preventDefault()
    props.words.keep()
  }
}
</script>

<template>
  <template v-if="writing">
    <svg class="view-layer" :width="width" :height="height" data-test="words-shown">
      <path v-if="line" class="line" :d="`M${line.foot.x} ${line.foot.y}L${line.end.x} ${line.end.y}M${line.foot.x} ${line.foot.y}L${line.top.x} ${line.top.y}`" />
      <path class="letters" :d="path" :fill="writing.colour" :fill-opacity="writing.id === null ? writing.opacity : 0" fill-rule="evenodd" @pointerdown.stop="words.drag" />
    </svg>
    <div class="editor" :style="place" role="dialog" data-asks aria-label="Words" data-test="words" @pointerdown.stop @keydown="onKey" @wheel.stop>
      <textarea ref="field" :value="writing.words.text" rows="2" :maxlength="MOST_LETTERS" placeholder="Write here" aria-label="Words" spellcheck="true" @input="words.set({ text: ($event.target as HTMLTextAreaElement).value })" />
      <div class="row">
        <ChoiceRow label="Font" :choices="FONTS" :model-value="writing.words.font" @update:model-value="(font) => words.set({ font })" />
      </div>
      <div class="row">
        <NumberField label="Size" unit="px" :model-value="px" :step="1" :min="EM_FW.min * widthPx" :max="EM_FW.max * widthPx" :decimals="1" @begin="scrubFrom" @cancel="scrubBack" @scrub="setPx" @set="setPx" />
        <NumberField label="Turn" unit="°" :model-value="words.turn(writing)" :step="1" :min="-180" :max="180" :decimals="1" :reset-to="0" @begin="scrubFrom" @cancel="scrubBack" @scrub="words.setTurn" @set="words.setTurn" />
        <span class="aligns" role="group" aria-label="Lines lie">
          <button v-for="each in ALIGNS" :key="each.id" class="icon-button small" :aria-pressed="writing.words.align === each.id" :aria-label="each.name" :title="each.name" @click="words.set({ align: each.id })"><component :is="each.icon" :size="14" /></button>
        </span>
      </div>
      <div class="row">
        <span class="tones" role="group" aria-label="Tone of the words">
          <button v-for="tone in TONES" :key="tone" class="tone" :style="{ background: tone }" :aria-pressed="writing.colour === tone" :aria-label="`Tone ${tone}`" :title="tone" @click="words.set({ colour: tone })" />
        </span>
      </div>
      <p v-if="writing.missing !== ''" class="wrong">No font here has {{ writing.missing }}: shown as boxes.</p>
      <p v-else-if="left < 40" class="quiet">{{ left }} letters left</p>
      <footer>
        <label title="In no picture: seen on the paper while you draw, and over the panel on printed boards"><input type="checkbox" :checked="writing.forPrint" @change="words.set({ forPrint: ($event.target as HTMLInputElement).checked })" /> for print alone</label>
        <span class="grow" />
        <button class="push-button" title="As it was before (Esc)" @click="words.giveUp">Cancel</button>
        <button class="push-button strong" title="Ctrl Enter, or press beside it" @click="words.keep">Keep</button>
      </footer>
    </div>
  </template>
</template>

<style scoped>
.letters {
  pointer-events: all;
  cursor: move;
}
.line {
  fill: none;
  stroke: var(--blue);
  stroke-dasharray: 3 3;
}
.editor {
  position: absolute;
  z-index: 3;
  display: grid;
  gap: 7px;
  padding: 9px;
  border: 1px solid var(--rule);
  border-radius: 8px;
  background: var(--paper-0);
  box-shadow: 0 4px 18px rgb(39 36 30 / 0.22);
  cursor: default;
  user-select: text;
}
textarea {
  width: 100%;
  padding: 5px 7px;
  resize: vertical;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
.row,
footer {
  display: flex;
  align-items: center;
  gap: 8px;
}
.aligns,
.tones {
  display: inline-flex;
  gap: 2px;
}
.tones {
  gap: 5px;
}
.tone {
  width: 20px;
  height: 20px;
  padding: 0;
  border: 1px solid var(--rule);
  border-radius: 50%;
  cursor: pointer;
}
.tone[aria-pressed='true'] {
  box-shadow: 0 0 0 2px var(--paper-0), 0 0 0 4px var(--blue);
}
.wrong,
.quiet {
  margin: 0;
}
.wrong {
  color: var(--vermilion-text);
}
.grow {
  flex: 1;
}
</style>
