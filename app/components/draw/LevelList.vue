<script setup lang="ts">
import { compareOrdered, showsNothing } from '@rubato/core/document'
import { dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import type { Level } from '@rubato/core/document'
import { computed, onBeforeUnmount, onMounted, useTemplateRef } from 'vue'
import LevelCard from '~/components/draw/LevelCard.vue'
import LevelRow from '~/components/draw/LevelRow.vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import RenamedText from '~/components/levels/RenamedText.vue'
import ShowAndLock from '~/components/levels/ShowAndLock.vue'
import { Images, Plus, Target, X } from '~/icons'
import { useLevels } from '~/composables/levels/useLevels'
import { useReference } from '~/composables/levels/useReference'
import { useDeskStore } from '~/stores/desk'
import { usePenStore } from '~/stores/pen'

/** The levels of the shot, near to far, groups together where their nearest stands. */
const desk = useDeskStore()
const pen = usePenStore()
const levels = useLevels()
const { choose: chooseReference, bringing } = useReference()
const HELD = [
  { id: 'anew', name: 'starts anew', title: 'A stroke starts a new drawing in this panel' },
  { id: 'edits', name: 'edits the held', title: 'Edit the held drawing: a stroke goes into it, in every panel that shows it' },
] as const
const list = useTemplateRef('list')

type Entry = { readonly group: string; readonly members: readonly Level[] }
const entries = computed<Entry[]>(() => {
  // A carrier shows nothing, so there is nothing of it to draw.
  const nearFirst = desk.levels.filter((level) => !showsNothing(level)).sort((a, b) => desk.placeOf(a.id).depth - desk.placeOf(b.id).depth || compareOrdered(a, b))
  const seen = new Set<string>()
  return nearFirst.flatMap((level) => {
    const group = level.group ?? ''
    if (group === '') return [{ group, members: [level] }]
    if (seen.has(group)) return []
    seen.add(group)
    return [{ group, members: nearFirst.filter((each) => (each.group ?? '') === group) }]
  })
})

// A level dropped beside the rows leaves its group.
let detach = () => {}
onMounted(() => {
  detach = dropTargetForElements({
    element: list.value!,
    canDrop: ({ source }) => typeof source.data.level === 'string',
    onDrop: ({ source, location }) => {
      const level = desk.take?.levels[source.data.level as string]
      if (location.current.dropTargets[0]?.element === list.value && level !== undefined && (level.group ?? '') !== '') levels.group([level.id], '')
    },
  })
})
onBeforeUnmount(() => detach())

const ids = (members: readonly Level[]) => members.map((level) => level.id)
const shown = (members: readonly Level[]) => members.some((level) => level.visible)
const locked = (members: readonly Level[]) => members.every((level) => level.locked)
</script>

<template>
  <aside class="levels" aria-label="Levels">
    <header>
      <b>Levels</b><span class="quiet what">near to far</span>
      <button class="icon-button small" title="New level (Shift L)" aria-label="New level" @click="levels.add"><Plus :size="15" /></button>
      <button class="icon-button small" title="Bring in a reference: a picture, or a numbered sequence of them, seen while working and never handed over" aria-label="Bring in a reference" @click="chooseReference"><Images :size="15" /></button>
    </header>
    <p v-if="bringing" class="bringing" role="status">{{ bringing.done }} of {{ bringing.total }} pictures <progress :value="bringing.done" :max="bringing.total" /> <button class="push-button" @click="bringing.cancel">Cancel</button></p>
    <p v-if="pen.solo.length > 0" class="solo" role="status">{{ pen.solo.length === 1 ? 'One level' : `${pen.solo.length} levels` }} shown alone <button class="icon-button small" title="Show all" aria-label="Show all levels" @click="pen.solo = []"><X :size="14" /></button></p>
    <div ref="list" class="list" role="listbox" data-keys aria-label="Levels, near to far">
      <template v-for="{ group, members } in entries" :key="group === '' ? members[0]!.id : `group ${group}`">
        <LevelRow v-if="group === ''" :level="members[0]!" />
        <div v-else class="group" role="group" :aria-label="`Group ${group}`" data-test="level-group">
          <div class="head">
            <RenamedText class="name" :text="group" title="" label="Name of the group" @rename="(name) => levels.renameWhole(group, name)" />
            <button class="mini" :aria-label="`Show ${group} alone`" title="Show the group alone" @click="levels.solo(ids(members))"><Target :size="13" /></button>
            <ShowAndLock
              :name="group"
              :visible="shown(members)"
              :locked="locked(members)"
              what=" the group"
              @show="levels.editAll(members, `${shown(members) ? 'hide' : 'show'} ${group}`, { visible: !shown(members) })"
              @lock="levels.editAll(members, `${locked(members) ? 'unlock' : 'lock'} ${group}`, { locked: !locked(members) })"
            />
            <button class="mini" :aria-label="`Dissolve ${group}`" title="Dissolve the group" @click="levels.renameWhole(group, '')"><X :size="13" /></button>
          </div>
          <LevelRow v-for="level in members" :key="level.id" :level="level" />
        </div>
      </template>
      <p v-if="entries.length === 0" class="empty">No levels yet. Draw: the first stroke makes one.</p>
    </div>
    <LevelCard v-if="desk.selectedLevel" :level="desk.selectedLevel" />
    <div class="held" title="What drawing on a level that holds an earlier drawing does">
      <span>Drawing on a held level</span>
      <ChoiceRow fill label="Drawing on a held level" :choices="HELD" :model-value="pen.editHeld ? 'edits' : 'anew'" @update:model-value="(id) => (pen.editHeld = id === 'edits')" />
    </div>
  </aside>
</template>

<style scoped src="../levels/mini.css"></style>
<style scoped>
.levels {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-width: 0;
  background: var(--paper-1);
}
header {
  display: flex;
  flex: none;
  align-items: center;
  gap: 8px;
  height: 36px;
  padding: 0 6px 0 10px;
  white-space: nowrap;
}
.what {
  flex: 1;
}
.list {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 3px;
  min-height: 90px;
  padding: 2px 6px 24px;
  overflow: hidden auto;
}
.group {
  display: flex;
  flex: none;
  flex-direction: column;
  gap: 3px;
  padding: 0 0 0 6px;
  border-left: 3px solid var(--ink-3);
  border-radius: 4px 0 0 4px;
}
.head {
  --mini-left: -3px;

  display: flex;
  align-items: center;
  min-height: 24px;
}
.head .name {
  flex: 1;
}
.list > :deep(.row) {
  flex: none;
}
.empty {
  margin: 20px 8px;
  color: var(--ink-2);
}
.solo,
.bringing {
  display: flex;
  align-items: center;
  gap: 6px;
  margin: 0 6px 4px;
  padding: 1px 4px 1px 10px;
  border-radius: 6px;
  background: var(--blue-wash);
  color: var(--blue);
}
.solo .icon-button {
  margin-left: auto;
}
.bringing progress {
  flex: 1;
  min-width: 0;
}
.held {
  display: grid;
  flex: none;
  gap: 4px;
  padding: 7px 10px 9px;
  border-top: 1px solid var(--rule);
}
</style>
