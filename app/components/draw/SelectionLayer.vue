<script setup lang="ts">
import type { Mark } from '@rubato/core/document'
import { computed } from 'vue'
import type { useSelection } from '~/composables/draw/useSelection'
import { usePenStore } from '~/stores/pen'
import { ClipboardPaste, Copy, FlipHorizontal, FlipVertical, RotateCw, Trash2 } from '~/icons'

/** What is selected in a view: its box to drag, handles, knob, and what can be done with it. */
const props = defineProps<{ selection: ReturnType<typeof useSelection>; width: number; height: number; canWrite?: boolean }>()
const emit = defineEmits<{ words: [mark: Mark] }>()
const pen = usePenStore()
const path = (points: readonly { readonly x: number; readonly y: number }[]) => (points.length === 0 ? '' : `M${points.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`)
const { frame, track, live, selected } = props.selection
/** The words that are chosen, where they can be written in. */
const words = computed(() => (selected.value.length === 1 && selected.value[0]!.kind === 'fill' && selected.value[0]!.words !== undefined && props.canWrite === true ? selected.value[0]! : null))

function barPlace() {
  const corners = frame.value?.corners ?? []
  const bottom = Math.max(...corners.map((corner) => corner.y))
  const middle = corners.reduce((sum, corner) => sum + corner.x, 0) / Math.max(1, corners.length)
  return { left: `${Math.min(props.width - 130, Math.max(130, middle))}px`, top: `${Math.min(props.height - 40, bottom + 14)}px` }
}
</script>

<template>
  <svg v-if="frame || track.length > 1 || live" class="layer" :width="width" :height="height">
    <path v-if="track.length > 1" class="track" :d="path(track)" />
    <g v-if="frame" data-test="selection">
      <path class="box" :d="path(frame.corners)" @pointerdown="selection.dragMove" @dblclick="words && emit('words', words)" />
      <path class="stem" :d="`M${frame.top.x} ${frame.top.y}L${frame.knob.x} ${frame.knob.y}`" />
      <circle class="knob" :cx="frame.knob.x" :cy="frame.knob.y" r="6" data-test="selection-knob" @pointerdown="selection.dragKnob"><title>Turn (Shift: by 15°)</title></circle>
      <rect v-for="({ handle, at }, i) in frame.handles" :key="i" class="handle" :x="at.x - 5" :y="at.y - 5" width="10" height="10" :data-test="`selection-handle-${handle.x}-${handle.y}`" @pointerdown="selection.dragHandle($event, handle)"><title>{{ handle.x !== 0 && handle.y !== 0 ? 'Scale (Shift: freely; Alt: about the middle)' : 'Scale one way (Alt: about the middle)' }}</title></rect>
    </g>
    <text v-if="live" class="live mono" :x="live.at.x" :y="live.at.y">{{ live.text }}</text>
  </svg>
  <div v-if="frame && !live" class="bar" :style="barPlace()" role="toolbar" aria-label="Selection" @pointerdown.stop>
    <button v-if="words" class="push-button" title="Write in these words (double-click)" @click="emit('words', words)">Edit words</button>
    <button class="icon-button small" title="Flip left to right (Shift X)" aria-label="Flip left to right" @click="selection.flipAcross"><FlipHorizontal :size="14" /></button>
    <button class="icon-button small" title="Flip top to bottom (Shift Y)" aria-label="Flip top to bottom" @click="selection.flipUpDown"><FlipVertical :size="14" /></button>
    <button class="icon-button small" title="Turn by a quarter" aria-label="Turn by a quarter" @click="selection.turnQuarter"><RotateCw :size="14" /></button>
    <button class="icon-button small" title="Copy (Ctrl C)" aria-label="Copy" @click="selection.copy"><Copy :size="14" /></button>
    <button class="icon-button small" title="Paste here (Ctrl V)" aria-label="Paste" :disabled="pen.clipboard === null" @click="selection.paste"><ClipboardPaste :size="14" /></button>
    <button class="icon-button small" title="Give it the brush’s tone" aria-label="Give it the brush’s tone" @click="selection.recolour"><i class="dot" :style="{ background: pen.brush.colour }" /></button>
    <button class="icon-button small" title="Delete (Del)" aria-label="Delete what is selected" @click="selection.remove"><Trash2 :size="14" /></button>
  </div>
</template>

<style scoped>
.layer {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.track,
.box {
  fill: rgb(42 106 153 / 0.07);
  stroke: #2a6a99;
  stroke-dasharray: 4 3;
}
.box {
  pointer-events: all;
  cursor: move;
}
.stem {
  stroke: #2a6a99;
}
.handle,
.knob {
  fill: #fcfaf5;
  stroke: #2a6a99;
  stroke-width: 1.5;
  pointer-events: all;
  cursor: pointer;
}
.knob {
  cursor: grab;
}
.live {
  paint-order: stroke;
  fill: #1c4a6c;
  stroke: #fcfaf5;
  stroke-width: 4px;
  font-size: 12px;
}
.bar {
  position: absolute;
  display: flex;
  gap: 2px;
  padding: 3px;
  border: 1px solid var(--rule);
  border-radius: 7px;
  background: var(--paper-0);
  cursor: default;
  transform: translateX(-50%);
}
.dot {
  width: 14px;
  height: 14px;
  border: 1px solid var(--ink-3);
  border-radius: 50%;
}
</style>
