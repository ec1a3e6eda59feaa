<script setup lang="ts">
import type { Panel } from '@rubato/core/document'
import { refDebounced } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import { useBoardThumbsStore } from '~/stores/boardThumbs'
import { useFilmStore } from '~/stores/film'

/** A panel in the ribbon: its first frame, number and length, and whether the selected level was drawn in it. */
const props = defineProps<{ takeId: string; panel: Panel; number: number; current: boolean; own: boolean }>()
defineEmits<{ choose: [] }>()
const film = useFilmStore()
const thumbs = useBoardThumbsStore()
const canvas = useTemplateRef('canvas')
const HEIGHT_PX = 76
/** Strokes come faster than small pictures need to. */
const PAUSE_MS = 350
const ratio = Math.min(2, window.devicePixelRatio || 1)
const width = computed(() => Math.round(HEIGHT_PX * (film.optics?.aspect ?? 16 / 9)))
const widthPx = computed(() => Math.round(width.value * ratio))

function draw() {
  const bitmap = thumbs.bitmapOf(props.takeId, props.panel.id, widthPx.value)
  const element = canvas.value
  if (bitmap === null || element === null) return
  element.width = bitmap.width
  element.height = bitmap.height
  element.getContext('2d')!.drawImage(bitmap, 0, 0)
}
const state = computed(() => [film.takeOf(props.takeId), film.film.drawings, film.gestureOpen, widthPx.value, props.panel.id])
const settled = refDebounced(state, PAUSE_MS)
watch(settled, () => thumbs.want(props.takeId, props.panel.id, widthPx.value))
watch(() => thumbs.bitmapOf(props.takeId, props.panel.id, widthPx.value), draw, { flush: 'post' })
onMounted(() => {
  thumbs.want(props.takeId, props.panel.id, widthPx.value)
  draw()
})
onBeforeUnmount(() => thumbs.unwant(props.takeId, props.panel.id, widthPx.value))
</script>

<template>
  <button class="panel" :aria-current="current" :aria-label="`Panel ${number}, ${panel.lengthFrames} frames${own ? ', drawn here' : ''}`" :title="panel.action || `Panel ${number}`" data-test="ribbon-panel" @click="$emit('choose')">
    <canvas ref="canvas" :style="{ width: `${width}px`, height: `${HEIGHT_PX}px` }" aria-hidden="true" />
    <b class="number">{{ number }}</b>
    <i v-if="own" class="own" title="The selected level has a drawing of its own here" />
    <span class="mono frames">{{ panel.lengthFrames }}</span>
  </button>
</template>

<style scoped>
.panel {
  position: relative;
  flex: none;
  padding: 0;
  overflow: hidden;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: #ffffff;
  cursor: pointer;
}
.panel[aria-current='true'] {
  border-color: var(--blue);
  box-shadow: 0 0 0 2px var(--blue);
}
canvas {
  display: block;
}
.number,
.frames {
  position: absolute;
  padding: 0 5px;
  border-radius: 3px;
  background: rgb(255 255 255 / 0.85);
  color: #27241e;
  font-size: 11px;
}
.number {
  top: 3px;
  left: 3px;
}
.frames {
  right: 3px;
  bottom: 3px;
}
.own {
  position: absolute;
  bottom: 5px;
  left: 5px;
  width: 8px;
  height: 8px;
  border: 1px solid #ffffff;
  border-radius: 50%;
  background: #2a6a99;
}
</style>
