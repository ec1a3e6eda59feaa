<script setup lang="ts">
import { owedBy, SIDES, type Side } from '@rubato/core/checks'
import type { Level } from '@rubato/core/document'
import { computed } from 'vue'
import { useLevels } from '~/composables/levels/useLevels'

/** Past which sides of the frame a level must go, wherever a camera looks: guessed, or said. */
const props = defineProps<{ level: Level }>()
const levels = useLevels()
const owed = computed(() => owedBy(props.level))
const SIGNS: Readonly<Record<Side, string>> = { left: '◂', right: '▸', bottom: '▾', top: '▴' }

function toggle(side: Side) {
  const now = owed.value ?? []
  const next = SIDES.filter((each) => (each === side ? !now.includes(side) : now.includes(each)))
  levels.edit(props.level, 'sides owed by', { owes: next.length === 0 ? 'none' : next.length === SIDES.length ? 'all' : next })
}
</script>

<template>
  <div class="line">
    <span class="quiet">Owes</span>
    <button class="chip" :class="{ blue: owed === undefined }" :aria-pressed="owed === undefined" title="Guessed: a level that stands still and goes from side to side of the frame at some time must always do so, and one that fills the frame must always fill it; figures and what moves owe nothing" @click="levels.edit(level, 'sides owed by', { owes: undefined })">guessed</button>
    <button v-for="side in SIDES" :key="side" class="chip" :class="{ blue: owed?.includes(side) }" :aria-pressed="owed?.includes(side) === true" :aria-label="`Owes the ${side}`" :title="`Must go past the frame at ${side} wherever a camera looks`" @click="toggle(side)">{{ SIGNS[side] }}</button>
  </div>
</template>

<style scoped src="./panel.css"></style>
