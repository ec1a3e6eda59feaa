<script setup lang="ts">
import { useTemplateRef } from 'vue'
import DrawingThumb from '~/components/desk/rack/DrawingThumb.vue'
import { depthText, type ShownRow } from '~/components/desk/rack/ladder'
import RenamedText from '~/components/levels/RenamedText.vue'
import ShowAndLock from '~/components/levels/ShowAndLock.vue'
import { useLevels } from '~/composables/levels/useLevels'
import { Ellipsis } from '~/icons'
import { useDeskStore } from '~/stores/desk'
import { useTimingStore } from '~/stores/timing'

/** A level in the rack: what it shows here and how deep it lies. `told`: while it is dragged, what to say of its depth. */
const props = defineProps<{ row: ShownRow; told: string | null }>()
const emit = defineEmits<{ menu: [event: Event] }>()
const desk = useDeskStore()
const timing = useTimingStore()
const levels = useLevels()
const name = useTemplateRef('name')
defineExpose({ rename: () => name.value?.start(), id: () => props.row.level.id })
</script>

<template>
  <div
    class="row"
    :class="{ selected: row.level.id === desk.selectedLevelId, hidden: !row.level.visible }"
    :style="{ top: `${row.top}px` }"
    :data-level="row.level.id"
    @click="desk.chooseLevel(row.level.id, $event)"
    @contextmenu.prevent="emit('menu', $event)"
  >
    <DrawingThumb class="thumb" :drawing-id="row.holding.drawingId" :width="40" :height="26" />
    <div class="words">
      <RenamedText ref="name" :text="row.level.name" title="" @rename="(text) => levels.rename(row.level, text)" />
      <span class="told mono depth" :title="`${row.level.name}: ${row.holding.words}`"><i class="mark" :class="{ own: row.holding.own, none: row.holding.drawingId === null }" role="img" :aria-label="row.holding.words" />{{ row.behind ? 'behind the lens' : (told ?? depthText(row)) }}<em v-if="row.motion && told === null" :title="`${row.level.name} ${row.motion}`"><svg width="13" height="8" aria-hidden="true"><path d="M1 6C3 6 3 2 5.5 2S8 6 12 6" /></svg><span>{{ row.motion }}</span></em></span>
    </div>
    <div class="toggles">
      <ShowAndLock :name="row.level.name" :visible="row.level.visible" :locked="row.level.locked" @show="levels.toggle(row.level, 'visible')" @lock="levels.toggle(row.level, 'locked')" />
    </div>
    <i v-if="timing.isMuted(desk.takeId, row.level.id)" class="muted" :title="`${row.level.name} is left out while playing`" role="img" aria-label="Left out of playback">not played</i>
    <button class="mini more" :aria-label="`More for ${row.level.name}`" title="More" @click.stop="emit('menu', $event)"><Ellipsis :size="14" /></button>
  </div>
</template>

<style scoped src="../../levels/levelRow.css"></style>
<style scoped src="../../levels/mini.css"></style>
<style scoped>
.row {
  --mini-height: 20px;

  position: absolute;
  right: 5px;
  left: 70px;
  gap: 5px;
  height: 42px;
  padding: 0 1px 0 5px;
}
.depth {
  font-size: 10.5px;
  letter-spacing: -0.02em;
}
.depth em {
  margin-left: 5px;
  color: var(--blue);
  font-style: normal;
  letter-spacing: 0;
}
.depth em span {
  position: absolute;
  opacity: 0;
}
.depth em path {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.5;
}
.toggles {
  display: flex;
  flex-direction: column;
}
.muted {
  position: absolute;
  right: 26px;
  bottom: 2px;
  padding: 0 4px;
  border-radius: 3px;
  background: var(--paper-3);
  color: var(--ink);
  font-size: 10.5px;
  font-style: normal;
}
.more {
  display: none;
  position: absolute;
  top: 2px;
  right: 28px;
  background: var(--paper-0);
}
.row:hover .more,
.more:focus-visible {
  display: grid;
}
.words:focus-within ~ .more {
  display: none;
}
</style>
