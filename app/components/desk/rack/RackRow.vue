<script setup lang="ts">
import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine'
import { draggable, dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import DrawingThumb from '~/components/desk/rack/DrawingThumb.vue'
import { depthText, INDENT_PX, type ShownRow } from '~/components/desk/rack/ladder'
import RenamedText from '~/components/levels/RenamedText.vue'
import ShowAndLock from '~/components/levels/ShowAndLock.vue'
import { useFastening } from '~/composables/levels/useFastening'
import { useLevels } from '~/composables/levels/useLevels'
import { Ellipsis } from '~/icons'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTimingStore } from '~/stores/timing'

/** A level in the rack: what it shows here and how deep it lies. `told`: while it is dragged, what to say of its depth. */
const props = defineProps<{ row: ShownRow; told: string | null }>()
const emit = defineEmits<{ menu: [event: Event] }>()
const desk = useDeskStore()
const film = useFilmStore()
const timing = useTimingStore()
const levels = useLevels()
const name = useTemplateRef('name')
defineExpose({ rename: () => name.value?.start(), id: () => props.row.level.id })

/** Dragged onto another's row, or onto the lens over the ladder, it is fastened to that; onto empty paper, it is let go. */
const root = useTemplateRef('root')
const over = ref(false)
const fastening = useFastening()
const dragged = () => (desk.chosenLevelIds.includes(props.row.level.id) ? desk.chosenLevelIds : [props.row.level.id])
let detach = () => {}
onMounted(() => {
  const element = root.value!
  detach = combine(
    draggable({ element, canDrag: () => name.value?.open !== true && film.lookingAt === null, getInitialData: () => ({ levels: dragged() }) }),
    dropTargetForElements({
      element,
      canDrop: ({ source }) => Array.isArray(source.data.levels) && !source.data.levels.includes(props.row.level.id),
      onDragEnter: () => (over.value = true),
      onDragLeave: () => (over.value = false),
      onDrop: ({ source }) => {
        over.value = false
        fastening.fastenTo(source.data.levels as string[], props.row.level.id)
      },
    }),
  )
})
onBeforeUnmount(() => detach())
const FACES = { lens: 'to the lens', upright: 'upright' } as const
const more = computed(() => [props.row.level.facing === undefined ? '' : FACES[props.row.level.facing], props.row.motion].filter(Boolean).join(', '))
</script>

<template>
  <div
    ref="root"
    class="row"
    :class="{ selected: row.level.id === desk.selectedLevelId, also: desk.alsoLevelIds.includes(row.level.id), over, hidden: !row.level.visible }"
    :style="{ top: `${row.top}px`, left: `${70 + row.indent * INDENT_PX}px` }"
    :data-level="row.level.id"
    @click="desk.chooseLevel(row.level.id, $event)"
    @contextmenu.prevent="emit('menu', $event)"
  >
    <span v-if="row.level.kind === 'carrier'" class="thumb carrier" role="img" aria-label="A carrier: it shows nothing"><svg width="40" height="26" aria-hidden="true"><path d="M20 5v16M10 13h20" /><circle cx="20" cy="13" r="4" /></svg></span>
    <DrawingThumb v-else class="thumb" :drawing-id="row.holding.drawingId" :width="row.indent > 0 ? 30 : 40" :height="row.indent > 0 ? 22 : 26" />
    <div class="words">
      <RenamedText ref="name" :text="row.level.name" title="; drag it onto another row to fasten it to that level" @rename="(text) => levels.rename(row.level, text)" />
      <span class="told mono depth" :title="`${row.level.name}: ${row.level.kind === 'carrier' ? depthText(row) : row.holding.words}${row.hangs ? `, ${row.hangs}, ${depthText(row)}` : ''}`"><i v-if="row.level.kind !== 'carrier'" class="mark" :class="{ own: row.holding.own, none: row.holding.drawingId === null }" role="img" :aria-label="row.holding.words" />{{ row.behind ? 'behind the lens' : (told ?? (row.hangs || depthText(row))) }}<em v-if="more && told === null" :title="`${row.level.name}: ${more}`"><svg v-if="row.level.facing" width="9" height="9" aria-hidden="true"><path d="M1 1l3.5 7L8 1" /></svg><svg v-if="row.motion" width="13" height="8" aria-hidden="true"><path d="M1 6C3 6 3 2 5.5 2S8 6 12 6" /></svg><span>{{ more }}</span></em></span>
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
.row.also {
  border-color: var(--blue);
}
.row.over {
  outline: 2px dashed var(--blue);
  outline-offset: 1px;
}
.carrier path,
.carrier circle {
  fill: none;
  stroke: var(--ink-2);
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
