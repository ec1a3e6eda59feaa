<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { useLocalStorage } from '@vueuse/core'
import { Pane, Splitpanes } from 'splitpanes'
import '~/styles/splitpanes.css'
import FindBar from '~/components/boards/FindBar.vue'
import PrintDialog from '~/components/boards/PrintDialog.vue'
import ScriptPane from '~/components/boards/ScriptPane.vue'
import SequenceList from '~/components/boards/SequenceList.vue'
import { offerCommands } from '~/commands/registry'
import BoardPage from '~/components/boards/BoardPage.vue'
import { BookOpenText, Search } from '~/icons'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import { useScriptBoarding } from '~/composables/boards/useScriptBoarding'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** From script to panels in order and in hand. */
const film = useFilmStore()
const desk = useDeskStore()
const boards = useBoardsStore()
const actions = useBoardActions()
const boarding = useScriptBoarding()
const page = useTemplateRef<InstanceType<typeof BoardPage>>('page')
const seen = ref('')
const emit = defineEmits<{ bringScript: [startWith: 'file' | 'text']; bringIn: [] }>()
const print = ref(false)
const splits = useLocalStorage('rubato.boardSplits', { left: 16.5, right: 21.5 }, { mergeDefaults: true })
const SIZES = ['small', 'medium', 'large'] as const
const readOnly = computed(() => film.lookingAt !== null)

const counts = computed(() => {
  const panels = [...film.panelCounts.values()].reduce((sum, count) => sum + count, 0)
  const shots = film.filmStage.shots.length
  return `${shots === 1 ? '1 shot' : `${shots} shots`} · ${panels === 1 ? '1 panel' : `${panels} panels`}`
})

const editCaption = (field: 'action' | 'dialogue') => boards.current !== null && !readOnly.value && (boards.editing = { ...boards.current, field })
const chooseAll = () => {
  const takeId = boards.current?.takeId ?? desk.takeId
  if (takeId !== null) boards.panels = boards.panelsOf(takeId).map((panel) => ({ takeId, panelId: panel.id }))
}
const arrows = (['left', 'right', 'up', 'down'] as const).flatMap((direction) => {
  const key = `Arrow${direction.charAt(0).toUpperCase()}${direction.slice(1)}`
  const name = { left: 'Panel before', right: 'Next panel', up: 'Panel above', down: 'Panel below' }[direction]
  return [
    { id: `board-${direction}`, name, group: 'Boards' as const, keys: [key], run: () => page.value?.step(direction, false) },
    { id: `board-${direction}-too`, name: `${name} too`, group: 'Boards' as const, keys: [`Shift+${key}`], run: () => page.value?.step(direction, true) },
  ]
})
offerCommands([
  { id: 'board-new-panel', name: 'New panel after this one', group: 'Boards', keys: ['N'], run: () => actions.newPanel() },
  { id: 'board-new-shot', name: 'New shot after this one', group: 'Boards', keys: ['Alt+N'], run: () => actions.newShot() },
  { id: 'board-duplicate', name: 'Duplicate what is chosen', group: 'Boards', keys: ['Ctrl+D'], run: () => actions.duplicate() },
  { id: 'board-delete', name: 'Delete what is chosen', group: 'Boards', keys: ['Delete', 'Backspace'], run: () => void actions.remove() },
  { id: 'board-split', name: 'Split the panel in two', group: 'Boards', keys: ['K'], run: () => actions.split() },
  { id: 'board-join', name: 'Join the chosen panels, or shots', group: 'Boards', keys: ['J'], run: () => actions.join() },
  { id: 'board-cut', name: 'Cut the shot before this panel', group: 'Boards', keys: ['Shift+K'], run: () => actions.cut() },
  { id: 'board-caption', name: 'Edit the action', group: 'Boards', keys: ['Enter'], run: () => editCaption('action') },
  { id: 'board-dialogue', name: 'Edit the dialogue', group: 'Boards', keys: ['Shift+Enter'], run: () => editCaption('dialogue') },
  { id: 'board-all', name: 'Choose all panels of the shot', group: 'Boards', keys: ['Ctrl+A'], run: chooseAll },
  { id: 'board-none', name: 'Choose nothing', group: 'Boards', keys: ['Escape'], run: () => ((boards.panels = []), (boards.shots = [])) },
  { id: 'board-find', name: 'Find and replace in the captions', group: 'Boards', keys: ['Ctrl+F', 'Ctrl+H'], run: () => (boards.finding = true) },
  { id: 'board-renumber', name: 'Renumber all shots from 010', group: 'Boards', keys: [], run: () => void actions.renumber(null) },
  { id: 'board-passages', name: 'Board the chosen passages as a shot', group: 'Boards', keys: ['Alt+Enter'], run: () => boarding.asShots() },
  { id: 'board-script', name: 'Script beside the boards, on or off', group: 'Boards', keys: ['Shift+S'], run: () => (boards.scriptOpen = !boards.scriptOpen) },
  { id: 'board-bring-script', name: 'Bring in a script…', group: 'Boards', keys: [], run: () => emit('bringScript', 'file') },
  { id: 'board-print', name: 'Print boards…', group: 'Boards', keys: ['Ctrl+P'], run: () => (print.value = true) },
  { id: 'board-play', name: 'Play from here on the Desk', group: 'Boards', keys: ['Space'], run: () => (desk.view = 'desk') },
  ...arrows,
])

function resized(event: { panes: { size: number }[] }) {
  const last = event.panes[2]
  splits.value = { left: event.panes[0]!.size, right: last === undefined ? splits.value.right : last.size }
}
</script>

<template>
  <div class="boards">
    <Splitpanes @resized="resized">
      <Pane :size="splits.left" min-size="11"><SequenceList :seen="seen" @go="(id: string) => page?.showSequence(id)" /></Pane>
      <Pane :size="100 - splits.left - (boards.scriptOpen ? splits.right : 0)" min-size="30">
        <div class="middle">
          <div class="tools">
            <template v-if="!readOnly">
              <button class="push-button" title="New shot after this one (Alt N)" @click="actions.newShot()">+ Shot</button>
              <button class="push-button" title="New panel after this one (N)" @click="actions.newPanel()">+ Panel</button>
              <button class="push-button" title="Pictures or a layered file as panels or levels; or drop them anywhere (Ctrl I)" @click="emit('bringIn')">Bring in…</button>
            </template>
            <span class="chip" data-test="counts">{{ counts }}</span>
            <span class="grow" />
            <button class="icon-button" title="Find and replace in the captions (Ctrl F)" aria-label="Find and replace in the captions" :aria-pressed="boards.finding" @click="boards.finding = !boards.finding"><Search :size="16" /></button>
            <span class="sizes" role="radiogroup" aria-label="Size of the panels">
              <button v-for="each in SIZES" :key="each" role="radio" :aria-checked="boards.size === each" @click="boards.size = each">{{ each }}</button>
            </span>
            <button class="push-button" title="Boards as a PDF (Ctrl P)" @click="print = true">Print boards…</button>
            <button v-if="!boards.scriptOpen" class="icon-button" title="Open the script (Shift S)" aria-label="Open the script" @click="boards.scriptOpen = true"><BookOpenText :size="16" /></button>
          </div>
          <FindBar v-if="boards.finding" />
          <BoardPage ref="page" class="page" @seen="(id) => (seen = id)" />
        </div>
      </Pane>
      <Pane v-if="boards.scriptOpen" :size="splits.right" min-size="14"><ScriptPane @bring-in="emit('bringScript', 'file')" @edit="emit('bringScript', 'text')" /></Pane>
    </Splitpanes>
    <PrintDialog v-model:visible="print" />
  </div>
</template>

<style scoped>
.boards {
  height: 100%;
}
.middle {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.page {
  flex: 1;
  min-height: 0;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 8px 14px;
}
.grow {
  flex: 1;
}
.sizes {
  display: inline-flex;
  border: 1px solid var(--rule);
  border-radius: 6px;
  background: var(--paper-0);
}
.sizes button {
  min-height: 26px;
  padding: 2px 12px;
  border: 0;
  border-right: 1px solid var(--rule);
  background: none;
  color: var(--ink-2);
  font: inherit;
  text-transform: capitalize;
  cursor: pointer;
}
.sizes button:last-child {
  border-right: 0;
}
.sizes button[aria-checked='true'] {
  background: var(--paper-3);
  color: var(--ink);
  font-weight: 600;
}
.boards :deep(.splitpanes__splitter) {
  position: relative;
  flex: none;
  width: 1px;
  background: var(--rule);
  cursor: col-resize;
}
.boards :deep(.splitpanes__splitter::after) {
  content: '';
  position: absolute;
  z-index: 6;
  inset: -4px;
}
.boards :deep(.splitpanes__pane) {
  transition: none;
}
</style>
