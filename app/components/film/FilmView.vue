<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { CUT_FILES } from '~/boards/droppedFiles'
import { pickFiles } from '~/boards/pickFiles'
import CommandPalette from '~/components/desk/CommandPalette.vue'
import ConflictCard from '~/components/desk/ConflictCard.vue'
import ConformDialog from '~/components/handover/ConformDialog.vue'
import SceneInDialog from '~/components/handover/SceneInDialog.vue'
import HandOverDialog from '~/components/handover/HandOverDialog.vue'
import ScriptDialog from '~/components/boards/ScriptDialog.vue'
import TopBar from '~/components/desk/TopBar.vue'
import VersionsDialog from '~/components/desk/VersionsDialog.vue'
import { isTyping, keysOf, undoesItsOwn, type Command } from '~/commands/command'
import { offerCommands, useCommands } from '~/commands/registry'
import BoardsView from '~/components/boards/BoardsView.vue'
import BreakdownView from '~/components/breakdown/BreakdownView.vue'
import AsideDialog from '~/components/film/AsideDialog.vue'
import BringIn from '~/components/film/BringIn.vue'
import DeskView from '~/components/desk/DeskView.vue'
import DrawView from '~/components/draw/DrawView.vue'
import SetBar from '~/components/sets/SetBar.vue'
import SetsView from '~/components/sets/SetsView.vue'
import { usePanelOut } from '~/composables/handover/usePanelOut'
import { useSets } from '~/composables/levels/useSets'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useRefusals } from '~/composables/view/useRefusals'
import { useTheme } from '~/composables/view/useTheme'
import { useDeskStore, type View } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** An open film: the bar, the view, and what every view has in common. */
const film = useFilmStore()
const desk = useDeskStore()
const { stop } = usePlayback()
const { choice, night } = useTheme()
const sets = useSets()
const palette = ref(false)
const handOver = ref(false)
const versions = ref(false)
const aside = ref(false)
const script = ref<{ readonly file: File | null; readonly startWith: 'file' | 'text' } | null>(null)
const scriptVisible = computed({ get: () => script.value !== null, set: (now) => !now && (script.value = null) })
const cut = shallowRef<File | null>(null)
const conformVisible = computed({ get: () => cut.value !== null, set: (now) => !now && (cut.value = null) })
const pickCut = () => pickFiles(CUT_FILES, ([file]) => (cut.value = file ?? cut.value))
const scene = shallowRef<File | null>(null)
const sceneVisible = computed({ get: () => scene.value !== null, set: (now) => !now && (scene.value = null) })
const pickScene = () => pickFiles(['.glb'], ([file]) => (scene.value = file ?? scene.value))
const bringIn = useTemplateRef<InstanceType<typeof BringIn>>('bringIn')

const { save: savePanel } = usePanelOut()
let cameFrom: View = 'desk'
function thereAndBack() {
  if (desk.view === 'draw') desk.view = cameFrom
  else {
    cameFrom = desk.view
    desk.view = 'draw'
  }
}
const toView = (view: View, name: string, keys: string): Command => ({ id: `view-${view}`, name: `Go to ${name}`, group: 'View', keys: [keys], run: () => (desk.view = view) })
offerCommands([
  toView('boards', 'Boards', 'Alt+1'),
  toView('draw', 'Draw', 'Alt+2'),
  toView('desk', 'the Desk', 'Alt+3'),
  toView('sets', 'Sets', 'Alt+0'),
  toView('breakdown', 'the Breakdown', 'Ctrl+B'),
  { id: 'set-open', name: 'Open the selected set, or close the one that is open', group: 'Levels', keys: ['Alt+Shift+P'], run: sets.toggle },
  { id: 'set-make', name: 'Make a set of the chosen levels', group: 'Levels', keys: ['Alt+Shift+U'], run: sets.make, enabled: () => desk.chosenLevelIds.length > 0 },
  { id: 'set-own', name: 'Make the chosen pieces of the open set this shot’s own', group: 'Levels', keys: [], run: () => sets.own(), enabled: () => desk.openedSet !== null },
  { id: 'set-up-copy', name: 'Copy the set-up: this shot’s sets as they stand, and the framing', group: 'Camera', keys: ['Alt+Shift+K'], run: sets.copySetUp },
  { id: 'set-up-paste', name: 'Paste the set-up into this shot', group: 'Camera', keys: ['Alt+Shift+L'], run: () => void sets.pasteSetUp() },
  { id: 'view-there-and-back', name: 'To Draw, and back to where you were', group: 'View', keys: ['D'], run: thereAndBack },
  { id: 'theme', name: 'Day desk or night desk', group: 'View', keys: [], run: () => (choice.value = night.value ? 'day' : 'night') },
  { id: 'undo', name: 'Undo', group: 'Film', keys: ['Ctrl+Z'], run: () => void film.undo(), inFields: true },
  { id: 'redo', name: 'Redo', group: 'Film', keys: ['Ctrl+Shift+Z', 'Ctrl+Y'], run: () => void film.redo(), inFields: true },
  { id: 'versions', name: 'Versions: keep, compare, bring back…', group: 'Film', keys: [], run: () => (versions.value = true) },
  { id: 'aside', name: 'What was set aside: changes the server could not keep…', group: 'Film', keys: [], run: () => (aside.value = true) },
  { id: 'hand-over', name: 'Hand over: make the movie…', group: 'Film', keys: ['Ctrl+E'], run: () => (handOver.value = true) },
  { id: 'panel-layers', name: 'Save this panel as layers (OpenRaster)', group: 'Film', keys: [], run: () => void savePanel() },
  { id: 'conform', name: 'Conform: take in a cut that was changed elsewhere (OTIO, EDL)…', group: 'Film', keys: ['Ctrl+Shift+E'], run: pickCut },
  { id: 'scene-in', name: 'Take a 3D scene’s camera and motion into this shot (.glb)…', group: 'Camera', keys: [], run: pickScene },
  { id: 'bring-in', name: 'Bring in pictures or layered files…', group: 'Film', keys: ['Ctrl+I'], run: () => bringIn.value?.pick() },
  { id: 'palette', name: 'Commands and shortcuts', group: 'Film', keys: ['Ctrl+K'], run: () => (palette.value = true) },
])
const { commands, commandFor } = useCommands()

function give(command: Command, event: KeyboardEvent) {
  // Space on a focused button would press it as well.
  event.preventDefault()
  if (event.repeat && command.once === true) return
  if (event.target instanceof HTMLButtonElement) event.target.blur()
  command.run()
}
useEventListener(window, 'keydown', (event) => {
  if (event.defaultPrevented || palette.value) return
  const keys = keysOf(event)
  const command = commandFor(keys)
  if (command === undefined) return
  if (isTyping(event.target) && keys !== 'Ctrl+K') return
  // Enter presses what has the focus.
  if (event.key === 'Enter' && event.target instanceof Element && event.target.closest('button, a') !== null) return
  give(command, event)
})
// Panels keep their keys to themselves, so these are heard on the way in.
useEventListener(window, 'keydown', (event) => {
  if (event.defaultPrevented || palette.value) return
  const command = commandFor(keysOf(event))
  if (command?.inFields !== true || undoesItsOwn(event.target)) return
  event.stopPropagation()
  give(command, event)
}, { capture: true })
useEventListener(window, 'beforeunload', (event) => {
  if (film.saving.waiting > 0 && !film.saving.kept) event.preventDefault()
})
useRefusals()
watch(
  () => desk.shotId,
  () => !desk.playing && film.moved(),
)
watch(() => desk.view, stop)
</script>

<template>
  <div class="film">
    <TopBar @hand-over="handOver = true" @versions="versions = true" @aside="aside = true" @palette="palette = true" />
    <SetBar v-if="desk.view === 'draw' || desk.view === 'desk'" />
    <BoardsView v-if="desk.view === 'boards'" class="view" @bring-script="(startWith) => (script = { file: null, startWith })" @bring-in="bringIn?.pick()" />
    <DrawView v-else-if="desk.view === 'draw'" class="view" />
    <SetsView v-else-if="desk.view === 'sets'" class="view" />
    <BreakdownView v-else-if="desk.view === 'breakdown'" class="view" />
    <DeskView v-else class="view" />
    <ConflictCard />
    <AsideDialog v-model:visible="aside" />
    <CommandPalette v-model:visible="palette" :commands="commands" />
    <VersionsDialog v-model:visible="versions" />
    <HandOverDialog v-model:visible="handOver" />
    <ScriptDialog v-model:visible="scriptVisible" :file="script?.file ?? null" :start-with="script?.startWith ?? 'file'" />
    <ConformDialog v-model:visible="conformVisible" :file="cut" @pick="pickCut" />
    <BringIn ref="bringIn" @script="(file) => (script = { file, startWith: 'file' })" @cut="(file) => (cut = file)" @scene="(file) => (scene = file)" />
    <SceneInDialog v-model:visible="sceneVisible" :file="scene" @pick="pickScene" />
  </div>
</template>

<style scoped>
.film {
  display: flex;
  flex-direction: column;
  height: 100vh;
}
.view {
  flex: 1;
  min-height: 0;
}
</style>
