<script setup lang="ts">
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { onUnmounted } from 'vue'
import { useRoute } from 'vue-router'
import { useHead } from '#imports'
import { isTyping, keysOf } from '~/commands/command'
import AroundView from '~/components/desk/set/AroundView.vue'
import CurvesView from '~/components/desk/curves/CurvesView.vue'
import LensView from '~/components/desk/lens/LensView.vue'
import SetView from '~/components/desk/set/SetView.vue'
import WallView from '~/components/desk/set/WallView.vue'
import OtherTakeView from '~/components/desk/takes/OtherTakeView.vue'
import TableView from '~/components/desk/set/TableView.vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import { Pause, Play } from '~/icons'
import { vFigures } from '~/directives/figures'
import { useRefusals } from '~/composables/view/useRefusals'
import { useShotArt } from '~/composables/view/useShotArt'
import { useSecondWindow } from '~/composables/view/useTwoWindows'
import { useViews, type ViewKind } from '~/composables/view/useViews'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** A window for another screen: one view, large, that goes along with the first window's playhead and playback. */
const route = useRoute()
const film = useFilmStore()
const desk = useDeskStore()
const { KINDS } = useViews()
const projectId = String(route.params.id)
const kind = useLocalStorage<ViewKind | 'lens'>('rubato.secondView', 'lens')
const CHOICES = [{ id: 'lens' as const, name: 'Lens', title: 'Through the lens' }, ...KINDS]
useHead({ title: () => (film.project === null ? 'Rubato, second window' : `${film.project.title} — second window`) })

desk.reset()
desk.view = 'desk'
const version = typeof route.query.version === 'string' ? route.query.version : null
const { connected, togglePlay, ask } = useSecondWindow(projectId, version !== null)
const open = () => (version === null ? film.open(projectId) : film.openVersion(projectId, version))
void open().then(ask)
useShotArt()
onUnmounted(() => film.close())
useRefusals()
const KEYS: Readonly<Record<string, () => void>> = {
  Space: togglePlay,
  ',': () => desk.goTo(desk.playhead - 1),
  '.': () => desk.goTo(desk.playhead + 1),
  Home: () => desk.goTo(desk.placedShot?.startFrame ?? 0),
  End: () => desk.goTo((desk.placedShot?.startFrame ?? 0) + (desk.placedShot?.lengthFrames ?? 1) - 1),
  'Ctrl+Z': () => void film.undo(),
  'Ctrl+Shift+Z': () => void film.redo(),
  Q: desk.key,
}
useEventListener(window, 'keydown', (event) => {
  const run = KEYS[keysOf(event)]
  if (event.defaultPrevented || run === undefined || isTyping(event.target)) return
  event.preventDefault()
  run()
})
</script>

<template>
  <main v-if="film.project" class="second">
    <header>
      <b class="title">{{ film.project.title }}</b>
      <span v-if="film.lookingAt" class="chip" title="To look at beside the film, under its playhead">version “{{ film.lookingAt.name }}”</span>
      <span class="quiet">{{ desk.placedShot?.shot.label }}</span>
      <ChoiceRow v-model="kind" label="Kind of view" :choices="CHOICES" />
      <span class="grow" />
      <span v-if="!connected" class="chip wrong" role="status" title="Open the film’s Desk in the first window">no first window</span>
      <span v-figures="desk.timecode" class="mono" data-test="second-timecode" />
      <button class="icon-button" :title="desk.playing ? 'Pause (Space)' : 'Play, in both windows (Space)'" :aria-label="desk.playing ? 'Pause' : 'Play'" :disabled="!connected" @click="togglePlay"><Pause v-if="desk.playing" :size="16" /><Play v-else :size="16" /></button>
    </header>
    <div class="body">
      <LensView v-if="kind === 'lens'" :play-at="0.5" />
      <TableView v-else-if="kind === 'table'" />
      <WallView v-else-if="kind === 'wall'" />
      <OtherTakeView v-else-if="kind === 'take'" />
      <SetView v-else-if="kind === 'plan' || kind === 'side'" :key="kind" :kind="kind" />
      <AroundView v-else-if="kind === 'around'" />
      <CurvesView v-else />
    </div>
  </main>
  <main v-else-if="film.loadFailure" class="centre" role="alert">
    <h1>This film could not be opened</h1>
    <p>{{ film.loadFailure }}</p>
    <p><button class="push-button strong" @click="open()">Try again</button></p>
  </main>
  <main v-else class="centre" role="status"><p class="tempo">Opening…</p></main>
</template>

<style scoped src="~/styles/centre.css"></style>
<style scoped>
.second {
  display: flex;
  flex-direction: column;
  height: 100vh;
}
header {
  display: flex;
  align-items: center;
  gap: 10px;
  height: 40px;
  padding: 0 10px;
  background: var(--paper-0);
}
.title {
  max-width: 26vw;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.grow {
  flex: 1;
}
.body {
  flex: 1;
  min-height: 0;
}
</style>
