<script setup lang="ts">
import { into, pointOnPlane, SET } from '@rubato/core/depth'
import { pieceOf, SHADOW_MOST, type Level, type LevelFields } from '@rubato/core/document'
import { editLevel } from '@rubato/core/edits'
import { placedLevel } from '@rubato/core/stage'
import { computed } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { useScrub } from '~/composables/view/useScrub'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { together } from '~/stores/levelHand'

/** The shadow of a level on the ground; of all that are chosen at once. */
const props = defineProps<{ level: Level }>()
const film = useFilmStore()
const desk = useDeskStore()
const scrub = useScrub()
const fields = useLevelFields()
type Shadow = NonNullable<Level['shadow']>

const shadow = computed(() => props.level.shadow ?? null)
const chosen = computed(() => desk.levels.filter((level) => desk.chosenLevelIds.includes(level.id)))

/** Where what is drawn on a level stands: the height of its foot, in the axes of what it stands in. */
function footOf(level: Level): number {
  const placed = placedLevel(desk.stageFrame, level.id)
  if (placed === null) return 0
  const { left, right, bottom } = fields.boundsOf(level.id)
  const set = pieceOf(level.id)?.setLevelId
  const base = set === undefined ? SET : desk.stage!.seen(desk.shotFrame, desk.pose ?? undefined).standOf(set)
  return Math.round(into(base, pointOnPlane(placed.plane, { x: (left + right) / 2, y: bottom })).y * 1000) / 1000
}
/** One sun for a shot: the light of one that throws a shadow already. */
function begun(level: Level): Shadow {
  const like = desk.levels.find((other) => other.shadow !== undefined)?.shadow
  return { strength: 0.35, soft: 0.02, towardsDegrees: 125, length: 0.9, ...like, ground: footOf(level) }
}
function edit(of: readonly Level[], fieldsOf: (level: Level) => LevelFields) {
  const takeId = desk.takeId!
  const ids = of.map(({ id }) => id)
  const changed = of.map(fieldsOf)
  return (f: typeof film.film) => together(ids, (id, i) => editLevel(f.takes[takeId]!, takeId, id, changed[i]!))
}
function toggle() {
  const on = shadow.value !== null
  film.perform(on ? 'shadow off' : 'shadow on', edit(chosen.value, (level) => ({ shadow: on ? undefined : begun(level) })))
}
const field = (label: string, fieldsOf: (value: number) => Partial<Shadow>) =>
  scrub.field(`${label} of the shadow`, (value) => edit(chosen.value.filter((level) => level.shadow !== undefined), (level) => ({ shadow: { ...level.shadow!, ...fieldsOf(value) } })), `shadow:${label}`)
function toFoot() {
  film.perform('ground of the shadow', edit(chosen.value.filter((level) => level.shadow !== undefined), (level) => ({ shadow: { ...level.shadow!, ground: footOf(level) } })))
}
</script>

<template>
  <div class="line">
    <span class="quiet">Throws</span>
    <button class="chip" :class="{ blue: shadow !== null }" :aria-pressed="shadow !== null" title="Its silhouette, laid flat on the ground" :disabled="level.locked" @click="toggle">Shadow</button>
    <button v-if="shadow" class="chip" title="The ground is where its drawing ends at this frame" :disabled="level.locked" @click="toFoot">from its foot</button>
  </div>
  <div v-if="shadow" class="shadow">
    <div class="pair three">
      <NumberField label="dark" unit="%" :model-value="shadow.strength * 100" :step="5" :min="0" :max="100" :decimals="0" :reset-to="35" :disabled="level.locked" v-on="field('darkness', (v) => ({ strength: v / 100 }))" />
      <NumberField label="soft" unit="fw" :model-value="shadow.soft" :step="0.005" :min="0" :max="SHADOW_MOST.softFw" :reset-to="0.02" :disabled="level.locked" title="How wide its edge is, in fw of the art" v-on="field('softness', (v) => ({ soft: v }))" />
      <NumberField label="long" unit="×" :model-value="shadow.length" :step="0.05" :min="0" :max="SHADOW_MOST.length" :decimals="2" :reset-to="0.9" :disabled="level.locked" title="How long it is, by the height of what throws it: the lower the sun, the longer" v-on="field('length', (v) => ({ length: v }))" />
    </div>
    <div class="pair">
      <NumberField label="falls to" unit="°" :model-value="shadow.towardsDegrees" :step="5" :min="-36000" :max="36000" :decimals="1" :reset-to="125" :disabled="level.locked" title="0: away along depth; 90: to the right; 180: towards the lens" v-on="field('direction', (v) => ({ towardsDegrees: v }))" />
      <NumberField label="ground" unit="fw" :model-value="shadow.ground" :step="0.01" :min="-1e6" :max="1e6" :disabled="level.locked" title="How high the ground lies in the set" v-on="field('ground', (v) => ({ ground: v }))" />
    </div>
  </div>
</template>

<style scoped src="./panel.css"></style>
<style scoped>
.shadow {
  margin-top: 5px;
}
</style>
