<script setup lang="ts">
import { draggable, dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine'
import type { Level } from '@rubato/core/document'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import { Eye, EyeOff, Lock, LockOpen, Target } from '~/icons'
import DrawingThumb from '~/components/desk/rack/DrawingThumb.vue'
import { useLevels } from '~/composables/levels/useLevels'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { usePenStore } from '~/stores/pen'

/** A level in Draw: what it shows here, and whether that is its own. Dropped on another, the two are a group. */
const props = defineProps<{ level: Level }>()
const film = useFilmStore()
const desk = useDeskStore()
const pen = usePenStore()
const levels = useLevels()
const root = useTemplateRef('root')
const field = useTemplateRef('field')
const over = ref(false)
const renaming = ref(false)
const holding = computed(() => levels.holdingOf(props.level))
const selected = computed(() => desk.selectedLevelId === props.level.id)
const alone = computed(() => pen.solo.includes(props.level.id))

let detach = () => {}
onMounted(() => {
  const element = root.value!
  detach = combine(
    draggable({ element, canDrag: () => !renaming.value && film.lookingAt === null, getInitialData: () => ({ level: props.level.id }) }),
    dropTargetForElements({
      element,
      canDrop: ({ source }) => typeof source.data.level === 'string' && source.data.level !== props.level.id,
      onDragEnter: () => (over.value = true),
      onDragLeave: () => (over.value = false),
      onDrop: ({ source }) => {
        over.value = false
        const other = desk.take?.levels[source.data.level as string]
        if (other !== undefined) levels.groupWith(other, props.level)
      },
    }),
  )
})
onBeforeUnmount(() => detach())

async function startRename() {
  renaming.value = true
  await nextTick()
  field.value?.focus()
  field.value?.select()
}
function finish(event: Event) {
  if (!renaming.value) return
  renaming.value = false
  levels.rename(props.level, (event.target as HTMLInputElement).value)
}
</script>

<template>
  <div
    ref="root"
    class="row"
    :class="{ selected, over, hidden: !level.visible || (pen.solo.length > 0 && !alone) }"
    role="option"
    :aria-selected="selected"
    :aria-label="`${level.name}, ${holding.words}`"
    tabindex="0"
    :data-draw-level="level.id"
    @click="desk.selectedLevelId = level.id"
    @keydown.enter.self.prevent="desk.selectedLevelId = level.id"
    @keydown.f2.prevent="startRename"
  >
    <DrawingThumb class="thumb" :drawing-id="holding.drawingId" :width="44" :height="26" />
    <span class="words">
      <input v-if="renaming" ref="field" class="rename" :value="level.name" maxlength="120" aria-label="Name" @keydown.enter="finish" @keydown.esc.stop="renaming = false" @blur="finish" />
      <b v-else :title="`${level.name} — double-click to rename; drag it onto another level to group them`" @dblclick="startRename">{{ level.name }}</b>
      <span class="held" :class="{ own: holding.own }"><i class="mark" :class="{ own: holding.own, none: holding.drawingId === null }" />{{ level.kind === 'reference' ? `reference, ${holding.words}` : holding.words }}</span>
    </span>
    <span class="toggles">
      <button class="mini" :class="{ faint: !alone }" :aria-pressed="alone" :aria-label="`Show ${level.name} alone`" :title="alone ? 'Shown alone: show the others too' : 'Show alone (Shift-click: besides others)'" @click.stop="(event) => levels.solo([level.id], event.shiftKey)"><Target :size="13" /></button>
      <button class="mini" :aria-label="`${level.visible ? 'Hide' : 'Show'} ${level.name}`" :title="level.visible ? 'Hide' : 'Show'" @click.stop="levels.toggle(level, 'visible')"><Eye v-if="level.visible" :size="13" /><EyeOff v-else :size="13" /></button>
      <button class="mini" :class="{ faint: !level.locked }" :aria-label="`${level.locked ? 'Unlock' : 'Lock'} ${level.name}`" :title="level.locked ? 'Unlock' : 'Lock'" @click.stop="levels.toggle(level, 'locked')"><Lock v-if="level.locked" :size="12" /><LockOpen v-else :size="12" /></button>
    </span>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 40px;
  padding: 2px 2px 2px 6px;
  border: 1px solid transparent;
  border-radius: 6px;
  background: var(--paper-0);
  cursor: default;
}
.row.selected {
  border-color: var(--blue);
  box-shadow: 0 0 0 1px var(--blue);
}
.row.over {
  outline: 2px dashed var(--blue);
  outline-offset: 1px;
}
.row.hidden .thumb,
.row.hidden .words {
  opacity: 0.45;
}
.thumb {
  flex: none;
  border: 1px solid var(--rule);
  border-radius: 3px;
}
.words {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 0;
}
.words b {
  overflow: hidden;
  font-weight: 600;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.held {
  overflow: hidden;
  color: var(--ink-2);
  font-size: 11px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.held.own {
  color: var(--blue);
}
.mark {
  display: inline-block;
  width: 7px;
  height: 7px;
  margin-right: 4px;
  border: 1px solid currentcolor;
  border-radius: 50%;
}
.mark.own {
  background: currentcolor;
}
.mark.none {
  border-style: dotted;
}
.rename {
  width: 100%;
  border: 1px solid var(--blue);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
.toggles {
  display: flex;
}
.mini {
  display: grid;
  place-items: center;
  width: 24px;
  height: 24px;
  padding: 0;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--ink-2);
  cursor: pointer;
}
.mini + .mini {
  margin-left: -4px;
}
.mini:hover {
  background: var(--paper-2);
}
.mini[aria-pressed='true'] {
  color: var(--blue);
}
.mini.faint {
  color: var(--ink-3);
  opacity: 0.55;
}
</style>
