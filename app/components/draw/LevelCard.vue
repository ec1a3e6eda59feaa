<script setup lang="ts">
import { pieceOf, showsNothing, type Level, type ReferenceLevel } from '@rubato/core/document'
import { editLevel } from '@rubato/core/edits'
import { computed } from 'vue'
import { useLevels } from '~/composables/levels/useLevels'
import { useScrub } from '~/composables/view/useScrub'
import { usePlacePicture } from '~/composables/levels/usePlacePicture'
import { Trash2 } from '~/icons'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useDeskStore } from '~/stores/desk'

/** What the selected level is, and how it is seen. */
const props = defineProps<{ level: Level }>()
const desk = useDeskStore()
const levels = useLevels()
const scrub = useScrub()
const { choosePicture } = usePlacePicture()
const holding = computed(() => levels.holdingOf(props.level))
const reference = computed(() => (props.level.kind === 'reference' ? props.level : null))
const isReference = computed(() => reference.value !== null)
const TINTS = ['#2a6a99', '#c2452d', '#b27b1b', '#2e7a68', '#77476f'] as const
const LIES = [
  { id: 'under', name: 'under', title: 'Under all levels' },
  { id: 'over', name: 'over', title: 'Over all levels' },
] as const
const tint = computed(() => props.level.tint ?? null)
const tone = computed(() => props.level.tone ?? { light: 0, colour: 1 })
function setTone(fields: Partial<{ light: number; colour: number }>) {
  const now = { ...tone.value, ...fields }
  levels.edit(props.level, 'tone of', { tone: now.light === 0 && now.colour === 1 ? undefined : now }, `tone:${props.level.id}`)
}
const signed = (value: number) => `${value > 0 ? '+' : value < 0 ? '−' : ''}${Math.round(Math.abs(value) * 100)}`
const isPiece = computed(() => pieceOf(props.level.id) !== null)
const sequence = computed(() => reference.value?.sequence ?? null)
const number = (event: Event) => Number((event.target as HTMLInputElement).value)

const setTint = (colour: string | null) => levels.edit(props.level, colour === null ? 'untint' : 'tint', { tint: colour === null ? null : { colour, strength: tint.value?.strength ?? 0.6 } })
const setStrength = (event: Event) => tint.value !== null && levels.edit(props.level, 'tint', { tint: { ...tint.value, strength: number(event) / 100 } }, `tint:${props.level.id}`)
/** As it is at this frame: it may be keyed. */
const opacity = computed(() => desk.levelValues(props.level.id)?.opacity ?? props.level.opacity)
function setOpacity(event: Event) {
  const change = desk.beginLevels([props.level.id], ['opacity'], `opacity of ${props.level.name}`, `opacity:${props.level.id}`)
  change.update(() => ({ opacity: number(event) / 100 }))
  change.end()
}
const setSequence = (fields: Partial<NonNullable<ReferenceLevel['sequence']>>) => sequence.value !== null && levels.edit(props.level, 'timing of', { sequence: { ...sequence.value, ...fields } })

const timingField = (what: string, field: 'startFrame' | 'framesEach') =>
  scrub.field(`${what} of ${props.level.name}`, (value) => {
    const [id, levelId, now] = [desk.takeId, props.level.id, sequence.value]
    // Another hand may have made it art meanwhile.
    return (f) => (id === null || now === null ? { ok: true, edits: [] } : editLevel(f.takes[id]!, id, levelId, { sequence: { ...now, [field]: Math.round(value) } }))
  })

function setReference(on: boolean) {
  if (on) levels.edit(props.level, 'make a reference of', { kind: 'reference', over: false })
  else levels.edit(props.level, 'make art of', { kind: 'drawn' })
}
</script>

<template>
  <section class="card" :aria-label="`Level ${level.name}`">
    <label class="line">Opacity <input type="range" min="0" max="100" :value="Math.round(opacity * 100)" aria-label="Opacity" @input="setOpacity" /><span class="mono">{{ Math.round(opacity * 100) }} %</span></label>
    <div class="line">
      <span>Tint</span>
      <span class="tints" role="group" aria-label="Tint">
        <button class="none" :aria-pressed="tint === null" title="As drawn" aria-label="No tint" @click="setTint(null)" />
        <button v-for="colour in TINTS" :key="colour" class="tone" :style="{ background: colour }" :aria-pressed="tint?.colour === colour" :aria-label="`Tint ${colour}`" :title="colour" @click="setTint(colour)" />
      </span>
    </div>
    <label v-if="tint" class="line">Strength <input type="range" min="5" max="100" :value="Math.round(tint.strength * 100)" aria-label="Strength of the tint" @input="setStrength" /><span class="mono">{{ Math.round(tint.strength * 100) }} %</span></label>
    <label class="line" title="Towards white, or towards black">Lighter <input type="range" min="-100" max="100" :value="Math.round(tone.light * 100)" aria-label="Lighter or darker" @input="(event) => setTone({ light: number(event) / 100 })" @dblclick="setTone({ light: 0 })" /><span class="mono">{{ signed(tone.light) }}</span></label>
    <label class="line" title="How much of its colour is left">Colour <input type="range" min="0" max="100" :value="Math.round(tone.colour * 100)" aria-label="How much colour is left" @input="(event) => setTone({ colour: number(event) / 100 })" @dblclick="setTone({ colour: 1 })" /><span class="mono">{{ Math.round(tone.colour * 100) }} %</span></label>
    <p v-if="level.kind === 'set'" class="quiet note">A set: open it in the depth rack of the Desk (Alt Shift P) to draw on its pieces.</p>
    <label v-else-if="!isReference && !isPiece" class="check" title="Figures are copied when a panel is duplicated, and are black in Silhouette; all else holds"><input type="checkbox" :checked="level.figure === true" @change="levels.edit(level, level.figure === true ? 'no figure:' : 'figure:', { figure: level.figure !== true })" /> figure: copied with its panel</label>
    <template v-else-if="isReference">
      <ChoiceRow label="Where the reference lies" :choices="LIES" :model-value="reference?.over === true ? 'over' : 'under'" @update:model-value="(id) => levels.edit(level, id === 'over' ? 'put over all:' : 'put under all:', { over: id === 'over' })" />
      <template v-if="sequence">
        <NumberField label="starts at" unit="f" :model-value="sequence.startFrame" :step="1" :decimals="0" :min="-1000000" :max="1000000" v-on="timingField('start', 'startFrame')" />
        <NumberField label="frames each" unit="f" :model-value="sequence.framesEach" :step="1" :decimals="0" :min="1" :max="1000" v-on="timingField('frames each', 'framesEach')" />
        <button class="push-button" title="The first picture shows at the playhead" @click="setSequence({ startFrame: desk.shotFrame })">Start here</button>
      </template>
      <p class="quiet note">Seen while working, never handed over.</p>
    </template>
    <div class="buttons">
      <button v-if="holding.own && !isPiece" class="push-button" title="Take the drawing in this panel away: the level holds what it showed before" @click="levels.holdAgain(level)">Hold again</button>
      <button v-if="holding.drawingId !== null && !isPiece" class="push-button" title="From this panel on the level shows nothing" @click="levels.blank(level)">Blank here</button>
      <button v-if="!showsNothing(level)" class="push-button" :title="isPiece ? 'Place a picture on this piece, in all its shots' : 'Place a picture on this level in this panel'" @click="choosePicture(level.id)">Picture…</button>
      <button class="push-button" title="A second level with the same drawings (Ctrl Shift D)" @click="levels.duplicate(level)">Duplicate</button>
      <button v-if="sequence === null && !isPiece && !showsNothing(level)" class="push-button" :title="isReference ? 'Part of the picture again' : 'Seen while working and never handed over'" @click="setReference(!isReference)">{{ isReference ? 'Make it art' : 'As reference' }}</button>
      <button class="icon-button small" title="Delete this level" :aria-label="`Delete ${level.name}`" @click="levels.remove(level)"><Trash2 :size="14" /></button>
    </div>
  </section>
</template>

<style scoped>
.card {
  display: grid;
  gap: 6px;
  padding: 8px 10px;
  border-top: 1px solid var(--rule);
  background: var(--paper-0);
}
.line {
  display: grid;
  grid-template-columns: 46px 1fr 38px;
  align-items: center;
  gap: 6px;
}
.line > .tints {
  grid-column: span 2;
}
.line input {
  width: 100%;
  min-width: 0;
  accent-color: var(--blue);
}
.line .mono {
  font-size: 11px;
  text-align: right;
}
.tints {
  display: flex;
}
.tone,
.none {
  flex: none;
  width: 24px;
  height: 24px;
  padding: 0;
  border: 4px solid var(--paper-0);
  border-radius: 50%;
  cursor: pointer;
}
.none {
  background: linear-gradient(135deg, var(--sheet) 46%, var(--ink-2) 47% 53%, var(--sheet) 54%);
  box-shadow: inset 0 0 0 1px var(--rule);
}
.tone[aria-pressed='true'],
.none[aria-pressed='true'] {
  box-shadow: 0 0 0 2px var(--blue);
}
.check {
  display: flex;
  align-items: center;
  gap: 6px;
}
.note {
  margin: 0;
  font-size: 11.5px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.buttons .push-button {
  min-height: 24px;
  padding: 1px 8px;
  font-size: 12px;
}
</style>
