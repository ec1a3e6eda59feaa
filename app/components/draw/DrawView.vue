<script setup lang="ts">
import { useElementSize, useLocalStorage } from '@vueuse/core'
import { Pane, Splitpanes } from 'splitpanes'
import { computed, onBeforeUnmount, ref, useTemplateRef } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import ExposureSheet from '~/components/sheet/ExposureSheet.vue'
import GhostBar from '~/components/draw/GhostBar.vue'
import LevelList from '~/components/draw/LevelList.vue'
import PanelRibbon from '~/components/draw/PanelRibbon.vue'
import PaperView from '~/components/draw/PaperView.vue'
import PencilTray from '~/components/draw/PencilTray.vue'
import { offerCommands } from '~/commands/registry'
import { FlipHorizontal, Maximize, RotateCcw, RotateCw, Square, SquareDashed, UnfoldHorizontal } from '~/icons'
import { useDrawCommands } from '~/composables/draw/useDrawCommands'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useShots } from '~/composables/boards/useShots'
import { useShotArt } from '~/composables/view/useShotArt'
import { useDeskStore } from '~/stores/desk'
import { useFaceOnStore } from '~/stores/faceOn'
import { useFilmStore } from '~/stores/film'
import { useNeededStore } from '~/stores/needed'
import { usePenStore } from '~/stores/pen'

/** Draw: the paper large, levels beside it, the pencil tray and the neighbouring panels under it. */
const film = useFilmStore()
const desk = useDeskStore()
const pen = usePenStore()
const faceOn = useFaceOnStore()
const needed = useNeededStore()
const { stop } = usePlayback()
const { newShot } = useShots()
const { trouble, load } = useShotArt()
const paper = useTemplateRef('paper')
const bar = useTemplateRef('bar')
const { width: barWidth } = useElementSize(bar)
const split = useLocalStorage('rubato.drawSplit', 17)
const commands = useDrawCommands(() => paper.value)
offerCommands(commands)
desk.chooseLevelToDraw()
onBeforeUnmount(() => {
  stop()
  pen.silhouette = false
  // These are of the paper alone.
  if (pen.tool === 'words' || pen.tool === 'arrow') pen.tool = 'brush'
})

const SIDES = [
  { id: 'paper', name: 'Paper', title: 'The paper, to draw on (V)' },
  { id: 'sheet', name: 'Sheet', title: 'The sheet: which drawing is shown on which frame (V)' },
] as const
const percent = computed(() => Math.round((paper.value?.paper.scale.value ?? 1) * 100))
const count = computed(() => {
  void film.film.drawings
  const marks = paper.value?.strokes() ?? 0
  return marks === 1 ? '1 mark' : `${marks.toLocaleString('en')} marks`
})
const zoomText = ref<string | null>(null)
function setZoom(event: Event) {
  const wanted = Number.parseFloat((event.target as HTMLInputElement).value)
  zoomText.value = null
  const now = paper.value?.paper
  if (now !== undefined && Number.isFinite(wanted) && wanted > 0) now.zoom(wanted / 100 / now.scale.value)
}
</script>

<template>
  <div class="draw">
    <p v-if="trouble" class="trouble" role="alert">This shot could not be loaded. {{ trouble }} <button class="push-button" @click="load">Try again</button></p>
    <div v-if="desk.placedShot === null" class="empty">
      <p class="tempo">Nothing to draw on yet.</p>
      <p><button class="push-button strong" title="A shot with a panel and a level (Alt N)" @click="newShot">New shot</button></p>
    </div>
    <Splitpanes v-else class="splits" @resized="(event: { panes: { size: number }[] }) => (split = event.panes[0]!.size)">
      <Pane :size="split" min-size="13" max-size="34"><LevelList /></Pane>
      <Pane :size="100 - split">
        <ExposureSheet v-if="pen.sheetOpen"><ChoiceRow label="Paper or sheet" :choices="SIDES" model-value="sheet" @update:model-value="(id) => (pen.sheetOpen = id === 'sheet')" /></ExposureSheet>
        <div v-else class="middle">
          <header ref="bar">
            <ChoiceRow class="sides" label="Paper or sheet" :choices="SIDES" model-value="paper" @update:model-value="(id) => (pen.sheetOpen = id === 'sheet')" />
            <GhostBar @flip="paper?.startFlipping()" />
            <span class="grow" />
            <span v-if="barWidth > 1120" class="where" :title="paper?.where">{{ paper?.where }}</span>
            <span v-if="barWidth > 1240" class="quiet" data-test="mark-count">{{ count }}</span>
            <span class="hold" role="group" aria-label="How the paper lies">
              <button class="icon-button small" title="Turn the paper left (Ctrl ←)" aria-label="Turn the paper left" @click="paper?.paper.turn(-15)"><RotateCcw :size="14" /></button>
              <button v-if="pen.paper.turnDegrees !== 0" class="chip" title="Lay the paper straight (Ctrl ↑)" @click="paper?.paper.straighten()">{{ Math.round(pen.paper.turnDegrees) }}°</button>
              <button class="icon-button small" title="Turn the paper right (Ctrl →)" aria-label="Turn the paper right" @click="paper?.paper.turn(15)"><RotateCw :size="14" /></button>
              <button class="icon-button small" :aria-pressed="pen.paper.flipped" title="Flip the paper over, to see it with fresh eyes (M)" aria-label="Flip the paper" @click="paper?.paper.flip()"><FlipHorizontal :size="14" /></button>
              <button class="icon-button small" :aria-pressed="faceOn.mode === 'square'" title="Square on: the selected level face on, at its own proportions (Alt Q)" aria-label="The level square on" @click="faceOn.show('square')"><Square :size="14" /></button>
              <button class="icon-button small" :aria-pressed="faceOn.mode === 'open'" :disabled="faceOn.hinged === null && faceOn.mode !== 'open'" title="Folded open: the level and all that is hinged to it, flat (Alt E)" aria-label="Folded open" @click="faceOn.show('open')"><UnfoldHorizontal :size="14" /></button>
              <button class="icon-button small" :aria-pressed="needed.shown" title="Outline of the art that the moves of all shots need of this level (Alt Shift B)" aria-label="Outline of the art needed" @click="needed.shown = !needed.shown"><SquareDashed :size="14" /></button>
              <button class="icon-button small" title="The whole frame (Z)" aria-label="Fit the frame" @click="paper?.paper.fit()"><Maximize :size="14" /></button>
              <input class="mono zoom" :value="zoomText ?? `${percent} %`" aria-label="Zoom" title="Zoom, of the picture’s own size (Shift Z: 100 %; wheel zooms)" data-test="zoom" @input="zoomText = ($event.target as HTMLInputElement).value" @change="setZoom" @keydown.enter="($event.target as HTMLInputElement).blur()" />
            </span>
          </header>
          <PaperView ref="paper" />
          <PencilTray :arrow="(paper?.arrows.chosen.value ?? null) !== null" @back="paper?.back()" @arrow="(fields) => paper?.arrows.look(fields)" />
          <PanelRibbon />
        </div>
      </Pane>
    </Splitpanes>
  </div>
</template>

<style scoped>
.draw {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.splits {
  flex: 1;
  min-height: 0;
}
.middle {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-width: 0;
}
header {
  container: bar / inline-size;
  display: flex;
  flex: none;
  align-items: center;
  gap: 8px;
  height: 38px;
  padding: 0 10px;
  overflow: hidden;
  background: var(--paper-0);
  white-space: nowrap;
}
.sides {
  flex: none;
}
.grow {
  flex: 1;
}
.where {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.hold {
  display: inline-flex;
  align-items: center;
  gap: 1px;
}
.zoom {
  width: 54px;
  min-height: 24px;
  border: 1px solid transparent;
  border-radius: 4px;
  background: none;
  color: var(--ink);
  text-align: right;
}
.zoom:hover,
.zoom:focus {
  border-color: var(--rule);
  background: var(--sheet);
}
.empty {
  display: grid;
  flex: 1;
  place-content: center;
  text-align: center;
}
.empty .tempo {
  font-size: 22px;
}
.trouble {
  margin: 0;
  padding: 5px 12px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
}
</style>
