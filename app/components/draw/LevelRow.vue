<script setup lang="ts">
import { draggable, dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine'
import type { Level } from '@rubato/core/document'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import RenamedText from '~/components/levels/RenamedText.vue'
import ShowAndLock from '~/components/levels/ShowAndLock.vue'
import { Target } from '~/icons'
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
const name = useTemplateRef('name')
const over = ref(false)
const holding = computed(() => levels.holdingOf(props.level))
const selected = computed(() => desk.selectedLevelId === props.level.id)
const alone = computed(() => pen.solo.includes(props.level.id))

let detach = () => {}
onMounted(() => {
  const element = root.value!
  detach = combine(
    draggable({ element, canDrag: () => name.value?.open !== true && film.lookingAt === null, getInitialData: () => ({ level: props.level.id }) }),
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
    @keydown.f2.prevent="name?.start()"
  >
    <DrawingThumb class="thumb" :drawing-id="holding.drawingId" :width="44" :height="26" />
    <span class="words">
      <RenamedText ref="name" :text="level.name" title="; drag it onto another level to group them" @rename="(text) => levels.rename(level, text)" />
      <span class="told" :class="{ own: holding.own }"><i class="mark" :class="{ own: holding.own, none: holding.drawingId === null }" />{{ level.kind === 'reference' ? `reference, ${holding.words}` : holding.words }}</span>
    </span>
    <span class="toggles">
      <button class="mini" :class="{ faint: !alone }" :aria-pressed="alone" :aria-label="`Show ${level.name} alone`" :title="alone ? 'Shown alone: show the others too' : 'Show alone (Shift-click: besides others)'" @click.stop="(event) => levels.solo([level.id], event.shiftKey)"><Target :size="13" /></button>
      <ShowAndLock :name="level.name" :visible="level.visible" :locked="level.locked" @show="levels.toggle(level, 'visible')" @lock="levels.toggle(level, 'locked')" />
    </span>
  </div>
</template>

<style scoped src="../levels/levelRow.css"></style>
<style scoped src="../levels/mini.css"></style>
<style scoped>
.row {
  gap: 6px;
  min-height: 40px;
  padding: 2px 2px 2px 6px;
  cursor: default;
}
.row.over {
  outline: 2px dashed var(--blue);
  outline-offset: 1px;
}
.toggles {
  --mini-left: -4px;

  display: flex;
}
</style>
