<script setup lang="ts">
import { onMounted, useTemplateRef, watch } from 'vue'
import PencilTray from '~/components/draw/PencilTray.vue'
import SelectionLayer from '~/components/draw/SelectionLayer.vue'
import { offerCommands } from '~/commands/registry'
import type { Surface } from '~/composables/draw/surface'
import { useAreas } from '~/composables/draw/useAreas'
import { markCommands } from '~/composables/draw/useDrawCommands'
import { usePen } from '~/composables/draw/usePen'
import { useSelection } from '~/composables/draw/useSelection'
import { useDeskStore } from '~/stores/desk'
import { usePenStore } from '~/stores/pen'
import { LiveInk } from '~/viewport/liveInk'

/** The pen in the lens view: the stroke that grows, what is selected, and the tray. */
const props = defineProps<{ surface: Omit<Surface, 'live'>; width: number; height: number }>()
const desk = useDeskStore()
const pen = usePenStore()
const wrapper = useTemplateRef('wrapper')
const settled = useTemplateRef('settled')
const tip = useTemplateRef('tip')
let live: LiveInk | null = null

const surface: Surface = { ...props.surface, live: () => live }
const hand = usePen(surface)
const areas = useAreas(surface, hand)
const selection = useSelection(surface, hand)
const resize = () => live?.resize(props.width, props.height, Math.min(2, window.devicePixelRatio || 1))
watch(() => [props.width, props.height], resize)
onMounted(() => {
  live = new LiveInk(wrapper.value!, settled.value!, tip.value!)
  resize()
})
offerCommands([
  { id: 'back-figure', name: 'Back the figure with paper white', group: 'Ink', keys: ['Shift+B'], run: () => void areas.back() },
  ...markCommands(() => selection, () => desk.tool === 'pen' && (pen.selectedMarks.length > 0 || pen.tool === 'select' || pen.tool === 'lasso')),
])

function begin(event: PointerEvent) {
  if (pen.tool === 'fill') return void areas.fill(event)
  if (pen.tool === 'select' || pen.tool === 'lasso') return selection.begin(event)
  hand.begin(event)
}
defineExpose({ begin })
</script>

<template>
  <div ref="wrapper" class="live" aria-hidden="true"><canvas ref="settled" /><canvas ref="tip" /></div>
  <SelectionLayer v-if="desk.tool === 'pen' && !desk.playing" :selection="selection" :width="width" :height="height" />
  <div v-if="desk.tool === 'pen'" class="tools" @pointerdown.stop>
    <PencilTray compact @back="areas.back" />
    <p class="line">
      <label title="On: a held drawing is drawn on in every panel that shows it. Off: drawing starts a new one in this panel."><input v-model="pen.editHeld" type="checkbox" /> edit the held drawing</label>
      <button class="chip" :aria-pressed="pen.ghosts.on" title="Neighbouring panels show through (J)" @click="pen.ghosts.on = !pen.ghosts.on">Ghosts</button>
      <span class="quiet">{{ hand.where.value }}</span>
      <button v-if="areas.work.value" class="push-button" @click="areas.work.value.cancel()">{{ areas.work.value.what }}… Cancel</button>
    </p>
  </div>
</template>

<style scoped>
.live,
.live canvas {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.live canvas {
  inset: auto;
  top: 0;
  left: 0;
}
.tools {
  position: absolute;
  right: 6px;
  bottom: 6px;
  left: 6px;
  display: grid;
  gap: 3px;
  justify-items: center;
  cursor: default;
  pointer-events: none;
}
.tools > * {
  max-width: 100%;
  pointer-events: auto;
}
.tools :deep(.tray) {
  max-width: 100%;
  overflow-x: auto;
}
.line {
  display: flex;
  align-items: center;
  gap: 10px;
  margin: 0;
  padding: 1px 12px;
  border-radius: 8px;
  background: var(--paper-0);
  white-space: nowrap;
}
.line label {
  display: inline-flex;
  align-items: center;
  gap: 5px;
}
</style>
