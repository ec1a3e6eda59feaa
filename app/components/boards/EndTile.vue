<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { Plus } from '~/icons'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import { useBoardDrag } from '~/composables/boards/useBoardDrag'
import { useBoardsStore } from '~/stores/boards'

/** After a shot's last panel: another panel, or whatever is dropped there. */
const props = defineProps<{ takeId: string }>()
const boards = useBoardsStore()
const actions = useBoardActions()
const drag = useBoardDrag()
const root = useTemplateRef('root')
drag.shotEnd(root, () => props.takeId)
const over = computed(() => drag.place.value?.kind === 'end' && drag.place.value.takeId === props.takeId)

function add() {
  const last = boards.panelsOf(props.takeId).at(-1)
  if (last !== undefined) actions.newPanel({ takeId: props.takeId, panelId: last.id })
}
</script>

<template>
  <button ref="root" class="tile" :class="{ over }" title="New panel at the shot’s end" aria-label="New panel at the shot’s end" @click="add"><Plus :size="15" /></button>
</template>

<style scoped>
.tile {
  flex: none;
  display: grid;
  place-items: center;
  width: 38px;
  border: 1px dashed var(--rule);
  border-radius: 6px;
  background: none;
  color: var(--ink-2);
  cursor: pointer;
}
.tile:hover,
.tile.over {
  border-color: var(--blue);
  color: var(--blue);
}
.tile.over {
  background: var(--blue-wash);
}
</style>
