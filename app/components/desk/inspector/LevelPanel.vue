<script setup lang="ts">
import { settleRoom } from '@rubato/core/edits'
import { LEVEL_KEYS, pieceOf, type Level } from '@rubato/core/document'
import type { LevelAspect, LevelValues } from '@rubato/core/moves'
import { computed, ref, watch } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import KeyButton from '~/components/desk/inspector/KeyButton.vue'
import MoveFields, { type ShownMove } from '~/components/desk/inspector/MoveFields.vue'
import CarriedFields from '~/components/desk/inspector/CarriedFields.vue'
import RepeatFields from '~/components/desk/inspector/RepeatFields.vue'
import OwesFields from '~/components/desk/inspector/OwesFields.vue'
import ShadowFields from '~/components/desk/inspector/ShadowFields.vue'
import SwayFields from '~/components/desk/inspector/SwayFields.vue'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { useLevelMoves } from '~/composables/levels/useLevelMoves'
import { useLevels } from '~/composables/levels/useLevels'
import { useDeskStore } from '~/stores/desk'
import { useLevelToolStore } from '~/stores/levelTool'

/** The selected level: where it is at this frame, its keys here, the move it is in, and how it moves besides. */
const desk = useDeskStore()
const fields = useLevelFields()
const moves = useLevelMoves()
const levels = useLevels()
const tool = useLevelToolStore()

const level = computed<Level>(() => desk.selectedLevel!)
/** While it plays, at a frame that can be read. */
const values = computed<LevelValues | null>(() => (desk.playing ? (desk.stage?.motionOf(level.value.id).keyedAt(desk.read.frame) ?? null) : desk.levelValues(level.value.id)))

/** What is shown of a value's keys at this frame: it stands on one, has some elsewhere, or none. */
const stateOf = (aspect: LevelAspect) => (moves.keyHere(aspect) !== null ? 'here' : (moves.tracks.value?.[aspect].length ?? 0) > 0 ? 'elsewhere' : 'none')
function toggleKey(aspect: LevelAspect) {
  const key = moves.keyHere(aspect)
  if (key !== null) moves.remove([key.id])
  else desk.keyLevels([level.value.id], [aspect])
}

const placeOf = LEVEL_KEYS.place.valueOf
/** Of which value the move's fields are; null for all that leave together. */
const chosen = ref<LevelAspect | null>(null)
watch(() => desk.selectedLevelId, () => (chosen.value = null))
const move = computed<ShownMove | null>(() => {
  const first = chosen.value !== null && moves.moving.value.includes(chosen.value) ? chosen.value : (moves.moving.value[0] ?? null)
  const way = first === null ? null : moves.wayOf(first)
  if (first === null || way === null) return null
  const alongside = chosen.value === null ? moves.moving.value.filter((aspect) => aspect !== first && moves.wayOf(aspect)!.from.frame === way.from.frame) : []
  const { from, to } = way
  return {
    keys: [from.record, ...alongside.map((aspect) => moves.wayOf(aspect)!.from.record)],
    title: `${level.value.name}, ${way.index + 1} → ${way.index + 2}`,
    name: moves.nameOf(level.value.id, from.frame, to.frame),
    frames: to.frame - from.frame,
    room: desk.take === null ? 0 : settleRoom(desk.take, from.record.id),
    inner: way.index > 0,
    places: first === 'place' ? [placeOf(from.record), placeOf(to.record)] : null,
    onScreen: false,
    what: 'key',
  }
})

const STEPS = [
  { id: '1', name: '1s', title: 'Its motion shows every frame' },
  { id: '2', name: '2s', title: 'Its motion shows every second frame, counted from each key' },
  { id: '3', name: '3s', title: 'Its motion shows every third frame, counted from each key' },
  { id: '4', name: '4s', title: 'Its motion shows every fourth frame, counted from each key' },
  { id: 'held', name: 'held', title: 'It shows each key until the next' },
] as const
const stepId = computed(() => String(level.value.stepped ?? 1) as (typeof STEPS)[number]['id'])
function setStep(id: (typeof STEPS)[number]['id']) {
  const stepped = id === '1' ? undefined : id === 'held' ? ('held' as const) : (Number(id) as 2 | 3 | 4)
  const joins = `step:${crypto.randomUUID()}`
  for (const each of desk.levels.filter((other) => desk.chosenLevelIds.includes(other.id))) levels.edit(each, id === 'held' ? 'hold from key to key:' : `on ${id}s:`, { stepped }, joins)
}
const isPiece = computed(() => pieceOf(level.value.id) !== null)
const pivot = computed(() => level.value.pivot ?? { x: 0, y: 0 })
</script>

<template>
  <div v-if="values" class="group" data-test="level-panel">
    <h3>{{ level.name }} <span class="quiet">{{ level.kind === 'carrier' || level.kind === 'set' ? level.kind : isPiece ? 'piece of the set' : 'level' }}{{ level.locked ? ', locked' : '' }}<template v-if="moves.isKeyed.value">, {{ moves.beads.value.length }} {{ moves.beads.value.length === 1 ? 'key' : 'keys' }}</template></span></h3>
    <div class="keyed">
      <KeyButton of="place" :state="stateOf('place')" :disabled="level.locked" @press="toggleKey('place')" />
      <div class="pair three">
        <NumberField label="x" unit="fw" :model-value="values.place.x" :step="0.01" :min="-1e6" :max="1e6" :reset-to="0" :disabled="level.locked" v-on="fields.keyed(level, 'x', 'place', (x, { place }) => ({ place: { ...place, x } }))" />
        <NumberField label="y" unit="fw" :model-value="values.place.y" :step="0.01" :min="-1e6" :max="1e6" :reset-to="0" :disabled="level.locked" v-on="fields.keyed(level, 'y', 'place', (y, { place }) => ({ place: { ...place, y } }))" />
        <NumberField label="depth" :model-value="values.place.depth" :step="0.05" :reset-to="0" :disabled="level.locked" data-test="level-depth" v-on="fields.depth(level, true)" />
      </div>
      <KeyButton of="turn" :state="stateOf('turn')" :disabled="level.locked" @press="toggleKey('turn')" />
      <div class="pair three">
        <NumberField v-for="field in [['pan', 'panDegrees'], ['tilt', 'tiltDegrees'], ['roll', 'rollDegrees']] as const" :key="field[1]" :label="field[0]" unit="°" :model-value="values.turn[field[1]]" :step="1" :min="-36000" :max="36000" :reset-to="0" :disabled="level.locked" v-on="fields.keyed(level, field[0], 'turn', (v, { turn }) => ({ turn: { ...turn, [field[1]]: v } }))" />
      </div>
      <KeyButton of="size" :state="stateOf('size')" :disabled="level.locked" @press="toggleKey('size')" />
      <div class="pair three">
        <NumberField label="scale" unit="×" :model-value="values.size" :step="0.01" :min="0.001" :max="1e6" :reset-to="1" :disabled="level.locked" v-on="fields.keyed(level, 'scale', 'size', (size) => ({ size }))" />
        <KeyButton of="opacity" :state="stateOf('opacity')" :disabled="level.locked" @press="toggleKey('opacity')" />
        <NumberField label="opacity" unit="%" :model-value="values.opacity * 100" :step="5" :min="0" :max="100" :decimals="0" :reset-to="100" v-on="fields.keyed(level, 'opacity', 'opacity', (v) => ({ opacity: v / 100 }))" />
      </div>
    </div>
    <div class="line">
      <span class="quiet">Pivot</span>
      <NumberField label="x" unit="fw" :model-value="pivot.x" :step="0.01" :min="-1e6" :max="1e6" :reset-to="0" :disabled="level.locked" title="What it turns and grows about, in its art; the picture stays" v-on="fields.pivot(level, (x) => ({ ...pivot, x }))" />
      <NumberField label="y" unit="fw" :model-value="pivot.y" :step="0.01" :min="-1e6" :max="1e6" :reset-to="0" :disabled="level.locked" v-on="fields.pivot(level, (y) => ({ ...pivot, y }))" />
    </div>
    <div class="line">
      <span class="quiet">Shown</span>
      <ChoiceRow label="Its motion on" :choices="STEPS" :model-value="stepId" @update:model-value="setStep" />
      <button v-if="moves.isKeyed.value" class="push-button" title="Takes all its keys out: for the whole shot it stands as it does here" @click="moves.standStill()">Stand still</button>
    </div>
    <CarriedFields :level="level" />
    <SwayFields :level="level" />
    <ShadowFields v-if="level.kind === 'drawn' || level.kind === 'placed'" :level="level" />
    <RepeatFields v-if="level.kind === 'drawn' || level.kind === 'placed'" :level="level" />
    <OwesFields v-if="level.kind === 'drawn' || level.kind === 'placed'" :level="level" />
    <div v-if="moves.isKeyed.value" class="line">
      <span class="quiet">Ghosts</span>
      <NumberField label="every" unit="f" :model-value="tool.ghostsEvery" :step="1" :min="0" :max="1000" :decimals="0" :reset-to="0" title="With the level in hand it is seen as it was and will be, every so many frames; 0 for not" @set="(v) => (tool.ghostsEvery = Math.round(v))" @scrub="(v) => (tool.ghostsEvery = Math.round(v))" />
    </div>
  </div>
  <template v-if="move">
    <div v-if="moves.moving.value.length > 1" class="group of">
      <span class="quiet">Move of</span>
      <button class="chip" :class="{ blue: chosen === null }" title="All that leave together" @click="chosen = null">all</button>
      <button v-for="aspect in moves.moving.value" :key="aspect" class="chip" :class="{ blue: chosen === aspect }" @click="chosen = aspect">{{ aspect }}</button>
    </div>
    <MoveFields :move="move" />
  </template>
</template>

<style scoped src="./panel.css"></style>
<style scoped>
.keyed {
  display: grid;
  grid-template-columns: 14px 1fr;
  gap: 0 5px;
  align-items: start;
}
.of {
  display: flex;
  align-items: center;
  gap: 4px;
}
</style>
