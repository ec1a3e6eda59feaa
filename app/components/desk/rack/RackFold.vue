<script setup lang="ts">
import { showsNothing } from '@rubato/core/document'
import { computed } from 'vue'
import DrawingThumb from '~/components/desk/rack/DrawingThumb.vue'
import { signedDepth, type FoldedRow } from '~/components/desk/rack/ladder'
import ShowAndLock from '~/components/levels/ShowAndLock.vue'
import { useLevels } from '~/composables/levels/useLevels'
import { useDeskStore } from '~/stores/desk'
import { useRackStore } from '~/stores/rack'
import { useSpreadStore } from '~/stores/spread'

/** A group in one row, tied to the rungs of all its levels. */
const props = defineProps<{ fold: FoldedRow }>()
const desk = useDeskStore()
const rack = useRackStore()
const spread = useSpreadStore()
const levels = useLevels()

const visible = computed(() => props.fold.levels.some((level) => level.visible))
const locked = computed(() => props.fold.levels.every((level) => level.locked))
const isChosen = computed(() => props.fold.levels.every(({ id }) => desk.chosenLevelIds.includes(id)))
const thumbs = computed(() => props.fold.levels.filter((level) => !showsNothing(level)).slice(0, 2).map((level) => ({ id: level.id, drawingId: levels.holdingOf(level).drawingId })))
const range = computed(() => {
  const [near, far] = [props.fold.depths[0]!, props.fold.depths.at(-1)!]
  return far - near < 0.0005 ? signedDepth(near, 2) : `${signedDepth(near, 2).replace(' fw', '')} … ${signedDepth(far, 2)}`
})
function choose() {
  const [first, ...rest] = props.fold.levels.map(({ id }) => id)
  desk.selectedLevelId = first!
  desk.alsoLevelIds = rest
}
const all = (fields: { visible: boolean } | { locked: boolean }) => {
  const word = 'visible' in fields ? (fields.visible ? 'show' : 'hide') : fields.locked ? 'lock' : 'unlock'
  levels.editAll(props.fold.levels, `${word} ${props.fold.group}`, fields)
}
const joins = computed(() => props.fold.levels.filter(({ id }) => spread.canJoin(id)))
const joined = computed(() => joins.value.filter(({ id }) => spread.ids.includes(id)))
function toggleAll() {
  const off = joined.value.length === joins.value.length
  for (const { id } of joins.value) if (spread.ids.includes(id) === off) spread.toggle(id)
}
</script>

<template>
  <div class="row" :class="{ selected: isChosen, hidden: !visible }" :style="{ top: `${fold.top}px` }" :data-fold="fold.group" @click="choose">
    <button class="tab" :title="`Unfold ${fold.group}`" :aria-label="`Unfold ${fold.group}`" aria-expanded="false" @click.stop="rack.fold(fold.group)" />
    <span class="pile"><DrawingThumb v-for="each in thumbs" :key="each.id" class="thumb" :drawing-id="each.drawingId" :width="34" :height="22" /></span>
    <div class="words">
      <b :title="`${fold.group}: ${fold.levels.map(({ name }) => name).join(', ')}`">{{ fold.group }}</b>
      <span class="told mono">{{ range }}</span>
      <span class="told">{{ fold.levels.length }} levels</span>
    </div>
    <input v-if="spread.open" class="joins" type="checkbox" :checked="joined.length > 0 && joined.length === joins.length" :indeterminate.prop="joined.length > 0 && joined.length < joins.length" :disabled="joins.length === 0" :aria-label="`Spread ${fold.group}`" title="Part of the spread" @click.stop @change="toggleAll" />
    <div v-else class="toggles"><ShowAndLock :name="fold.group" :visible="visible" :locked="locked" :what="` all of ${fold.group}`" @show="all({ visible: !visible })" @lock="all({ locked: !locked })" /></div>
  </div>
</template>

<style scoped src="../../levels/levelRow.css"></style>
<style scoped src="./rackRow.css"></style>
<style scoped>
.tab {
  border-width: 3px 0 3px 3px;
}
.pile {
  position: relative;
  flex: none;
  width: 40px;
  height: 27px;
}
.pile > * {
  position: absolute;
  top: 0;
  left: 0;
}
.pile > :nth-child(2) {
  top: 4px;
  left: 5px;
}
.words b {
  overflow: hidden;
  font-weight: 600;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.told {
  font-size: 10.5px;
  letter-spacing: -0.03em;
}
</style>
