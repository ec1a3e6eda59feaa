<script setup lang="ts">
import type { Level } from '@rubato/core/document'
import { computed } from 'vue'
import { factsText } from '~/components/desk/rack/ladder'
import { useRackStore } from '~/stores/rack'

/** How wide the field is at a level and what its art has to spare: they change while anything moves, and nothing else of its row does. */
const { level } = defineProps<{ level: Level }>()
const rack = useRackStore()
const facts = computed(() => rack.readFacts.get(level.id) ?? null)
/** In texts, which are the same while they read the same. */
const short = computed(() => (facts.value === null ? null : factsText(facts.value).short))
const long = computed(() => (facts.value === null ? '' : factsText(facts.value).long))

/** A little frame: a side that the art does not reach is left open. */
const SIDES = ['left', 'right', 'bottom', 'top'] as const
const SIDE_PATHS = Object.freeze({ left: 'M1 1v8', right: 'M14 1v8', bottom: 'M1 9h13', top: 'M1 1h13' })
const open = computed(() => {
  const over = facts.value?.over ?? null
  return over === null ? null : SIDES.filter((side) => over[side] < -0.0005).join(' ')
})
</script>

<template>
  <span v-if="short !== null" class="facts" :title="`${level.name}. ${long}`" :aria-label="long" data-test="rack-facts"><svg width="15" height="10" aria-hidden="true"><template v-if="open !== null"><path v-for="side in SIDES" :key="side" :class="{ short: open.includes(side) }" :d="SIDE_PATHS[side]" /></template></svg>{{ short }}</span>
</template>

<style scoped>
.facts {
  font-size: 10px;
  letter-spacing: -0.05em;
}
.facts svg {
  margin-right: 3px;
  vertical-align: -1px;
}
.facts path {
  stroke: currentcolor;
  stroke-width: 1.5;
}
.facts path.short {
  opacity: 0.55;
  stroke-dasharray: 1 3;
}
</style>
