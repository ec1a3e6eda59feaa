<script setup lang="ts">
import type { Level, LevelFields } from '@rubato/core/document'
import { computed } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { useLevels } from '~/composables/levels/useLevels'
import { useScrub } from '~/composables/view/useScrub'
import { editLevel } from '@rubato/core/edits'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { together } from '~/stores/levelHand'

/** What is added to a level's keys: a swing, a bob, a drift; on all that are chosen at once. */
const props = defineProps<{ level: Level }>()
const film = useFilmStore()
const desk = useDeskStore()
const levels = useLevels()
const scrub = useScrub()
const pivots = useLevelFields()

type Kind = 'swing' | 'bob' | 'drift'
const KINDS: readonly { readonly id: Kind; readonly name: string; readonly unit: string; readonly step: number; readonly amount: number; readonly title: string }[] = [
  { id: 'swing', name: 'Swing', unit: '°', step: 0.5, amount: 4, title: 'It turns to and fro about its pivot' },
  { id: 'bob', name: 'Bob', unit: 'fw', step: 0.005, amount: 0.03, title: 'It goes up and down' },
  { id: 'drift', name: 'Drift', unit: 'fw', step: 0.005, amount: 0.05, title: 'It wanders about, never the same way twice' },
]
const shown = computed(() => KINDS.filter(({ id }) => props.level[id] !== undefined))
const chosen = computed(() => desk.levels.filter((level) => desk.chosenLevelIds.includes(level.id)))
/** A second at first; a quarter of it on, so that it begins at its farthest. */
function begun(kind: Kind, amount: number): LevelFields {
  const sway = { amount, periodFrames: Math.round(desk.fps * 2), phase: kind === 'swing' ? 0.25 : 0 }
  return { [kind]: kind === 'drift' ? { ...sway, seed: crypto.getRandomValues(new Uint32Array(1))[0]! } : sway }
}
const takeId = () => desk.takeId!
function editEach(label: string, fieldsOf: (level: Level) => LevelFields, joins: string | null = null) {
  const [id, each] = [takeId(), chosen.value]
  film.perform(label, (f) => together(each.map((level) => level.id), (_, i) => editLevel(f.takes[id]!, id, each[i]!.id, fieldsOf(each[i]!))), joins)
}
function toggle(kind: Kind, name: string, amount: number) {
  const on = props.level[kind] !== undefined
  const label = `${name.toLowerCase()} ${on ? 'off' : 'on'}`
  // About the middle of what is drawn, not of the set.
  const joins = on || kind !== 'swing' ? null : pivots.giveMiddles(label)
  editEach(label, () => (on ? { [kind]: undefined } : begun(kind, amount)), joins)
}
const field = (kind: Kind, of: 'amount' | 'periodFrames' | 'phase', label: string) =>
  scrub.field(
    `${label} of ${props.level.name}`,
    (value) => {
      const [id, each] = [takeId(), chosen.value]
      return (f) => together(each.map((level) => level.id), (_, i) => {
        const sway = each[i]![kind]
        return sway === undefined ? { ok: true, edits: [] } : editLevel(f.takes[id]!, id, each[i]!.id, { [kind]: { ...sway, [of]: value } })
      })
    },
    `sway:${kind}:${of}`,
  )
/** One after the other, so that reeds do not sway as one. */
function stagger(kind: Kind) {
  const count = chosen.value.length
  const order = chosen.value.map((level) => level.id)
  const first = props.level[kind]!.phase
  editEach(`stagger ${count} levels`, (level) => {
    const sway = level[kind]
    if (sway === undefined) return {}
    const phase = first + order.indexOf(level.id) / count
    return { [kind]: { ...sway, phase: phase - Math.floor(phase) } }
  })
}
function reseed() {
  const { drift } = props.level
  if (drift !== undefined) levels.edit(props.level, 'another drift of', { drift: { ...drift, seed: crypto.getRandomValues(new Uint32Array(1))[0]! } })
}
</script>

<template>
  <div class="line">
    <span class="quiet">Adds</span>
    <button v-for="kind in KINDS" :key="kind.id" class="chip" :class="{ blue: level[kind.id] !== undefined }" :aria-pressed="level[kind.id] !== undefined" :title="`${kind.title}, over its keys`" :disabled="level.locked" @click="toggle(kind.id, kind.name, kind.amount)">{{ kind.name }}</button>
  </div>
  <div v-for="kind in shown" :key="kind.id" class="sway">
    <div class="pair three">
      <NumberField :label="kind.name.toLowerCase()" :unit="kind.unit" :model-value="level[kind.id]!.amount" :step="kind.step" :min="-1000" :max="1000" :reset-to="kind.amount" :disabled="level.locked" v-on="field(kind.id, 'amount', kind.name.toLowerCase())" />
      <NumberField label="in" unit="f" :model-value="level[kind.id]!.periodFrames" :step="1" :min="1" :max="1000000" :decimals="1" :reset-to="48" :disabled="level.locked" title="Frames to and fro once" v-on="field(kind.id, 'periodFrames', 'pace')" />
      <NumberField label="from" :model-value="level[kind.id]!.phase" :step="0.05" :min="-1000" :max="1000" :decimals="2" :reset-to="0" :disabled="level.locked" title="Where in it the shot begins, as a part of its time" v-on="field(kind.id, 'phase', 'phase')" />
    </div>
    <button v-if="kind.id === 'drift'" class="chip" title="Wander another way" :disabled="level.locked" @click="reseed">Another way</button>
    <button v-if="chosen.length > 1" class="chip" :title="`The ${chosen.length} chosen levels begin one after the other`" @click="stagger(kind.id)">Stagger</button>
  </div>
</template>

<style scoped src="./panel.css"></style>
<style scoped>
.sway {
  margin-top: 5px;
}
</style>
