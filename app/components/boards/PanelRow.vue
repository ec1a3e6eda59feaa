<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { CARD_GAP_PX, type CardSize } from '~/boards/boardRows'
import EndTile from '~/components/boards/EndTile.vue'
import PanelCard from '~/components/boards/PanelCard.vue'
import { inTurns } from '~/composables/boards/inTurns'
import { useBoardDrag } from '~/composables/boards/useBoardDrag'
import { useBoardsStore } from '~/stores/boards'
import { useFilmStore } from '~/stores/film'

/** Some panels of a shot side by side; drawn again only when these panels change. */
const props = defineProps<{ takeId: string; from: number; to: number; last: boolean; perRow: number; size: CardSize }>()
const film = useFilmStore()
const boards = useBoardsStore()
const drag = useBoardDrag()
const take = computed(() => film.film.takes[props.takeId] ?? null)
/** How many cards there are by now: those that come in together are made one after the other. */
const CARDS_A_TURN = 1
const made = ref(0)
let giveUp = () => {}
function more() {
  made.value += CARDS_A_TURN
  if (made.value < props.to - props.from) giveUp = inTurns(more)
}
watch(
  () => take.value !== null && made.value < props.to - props.from,
  (wanted) => {
    giveUp()
    if (wanted) giveUp = inTurns(more)
  },
  { immediate: true },
)
onBeforeUnmount(() => giveUp())
const panels = computed(() => (take.value === null ? [] : boards.panelsOf(props.takeId).slice(props.from, Math.min(props.to, props.from + made.value))))
const missing = computed(() => Math.max(take.value === null ? 1 : 0, props.to - props.from - panels.value.length))
const heightPx = computed(() => props.size.picturePx + props.size.captionPx + 2)
const tile = computed(() => props.last && props.to - props.from < props.perRow && film.lookingAt === null)
/** Which panel of this row something is held over, and how. */
const place = computed(() => {
  const at = drag.place.value
  return (at?.kind === 'beside' || at?.kind === 'into') && at.ref.takeId === props.takeId ? { panelId: at.ref.panelId, how: at.kind === 'into' ? 'into' : at.side } : null
})
</script>

<template>
  <div class="bracketed" :class="{ bottom: last }" :style="{ height: `${heightPx + (last ? 2 : 8)}px` }">
    <div class="cards" :style="{ gap: `${CARD_GAP_PX}px`, height: `${heightPx}px` }">
      <div v-for="(panel, i) in panels" :key="panel.id" class="place">
        <PanelCard :take-id="takeId" :panel="panel" :index="from + i" :size="size" />
        <span v-if="place?.panelId === panel.id" class="drop" :class="place.how" />
      </div>
      <div v-for="n in missing" :key="-n" class="waiting" :style="{ width: `${size.cardPx}px` }" />
      <EndTile v-if="tile && missing === 0" :take-id="takeId" />
    </div>
  </div>
</template>

<style scoped>
.bracketed {
  position: relative;
  padding-left: 14px;
}
.bracketed::before {
  content: '';
  position: absolute;
  top: 0;
  bottom: 0;
  left: 0;
  width: 7px;
  border-left: 3px solid var(--ink);
}
.bracketed.bottom::before {
  border-bottom: 2px solid var(--ink);
  border-bottom-left-radius: 5px;
}
.cards {
  display: flex;
}
.place {
  position: relative;
  display: flex;
}
.place > :deep(.card) {
  height: 100%;
}
.waiting {
  flex: none;
  border: 1px solid var(--rule);
  border-radius: 6px;
  background: var(--paper-2);
}
.drop {
  position: absolute;
  z-index: 3;
  top: 0;
  bottom: 0;
  width: 4px;
  border-radius: 2px;
  background: var(--blue);
  pointer-events: none;
}
.drop.before {
  left: -6px;
}
.drop.after {
  right: -6px;
}
.drop.into {
  inset: 0;
  width: auto;
  border: 3px solid var(--plum);
  border-radius: 6px;
  background: none;
}
</style>
