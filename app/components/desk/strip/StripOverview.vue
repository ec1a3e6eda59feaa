<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, onMounted, ref, watch } from 'vue'
import PlayheadLine from '~/components/desk/strip/PlayheadLine.vue'
import { useInkColours } from '~/composables/draw/useInkColours'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTimingStore } from '~/stores/timing'
import { markInk } from '~/timeline/drawRuler'
import type { StripScale } from '~/timeline/stripScale'

/** The whole film in one line: shots by sequence, marks, the range, and the part that the strip shows, which can be dragged. */
const props = defineProps<{ scale: StripScale }>()
const emit = defineEmits<{ show: [firstFrame: number] }>()
const film = useFilmStore()
const desk = useDeskStore()
const timing = useTimingStore()
const { colours } = useInkColours()
const host = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const { width } = useElementSize(host)
const HEIGHT_PX = 13

const pxPerFrame = computed(() => width.value / Math.max(1, desk.lengthFrames))
const seen = computed(() => {
  const left = Math.max(0, props.scale.firstFrame * pxPerFrame.value)
  const right = Math.min(width.value, (props.scale.firstFrame + props.scale.widthPx / props.scale.pxPerFrame) * pxPerFrame.value)
  return { left, width: Math.max(8, right - left) }
})

function draw() {
  const context = canvas.value?.getContext('2d')
  if (!context || width.value === 0) return
  const ratio = window.devicePixelRatio || 1
  Object.assign(context.canvas, { width: Math.round(width.value * ratio), height: Math.round(HEIGHT_PX * ratio) })
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  const ink = colours.value
  let sequence = ''
  let dark = false
  for (const { shot, startFrame, lengthFrames } of film.filmStage.shots) {
    if (shot.sequenceId !== sequence) {
      dark = !dark
      sequence = shot.sequenceId
    }
    const x = startFrame * pxPerFrame.value
    context.fillStyle = dark ? ink.rule : ink.faint
    context.fillRect(x, 3, Math.max(0.4, lengthFrames * pxPerFrame.value - 0.6), HEIGHT_PX - 6)
  }
  for (const { mark, frame } of timing.marks) {
    context.fillStyle = markInk(ink, mark.meaning)
    context.fillRect(frame * pxPerFrame.value - 0.5, 1, 1.5, HEIGHT_PX - 2)
  }
  if (timing.range !== null) {
    context.fillStyle = ink.blue
    context.fillRect(timing.range.start * pxPerFrame.value, HEIGHT_PX - 2, (timing.range.end - timing.range.start) * pxPerFrame.value, 2)
  }
}
// While something is dragged it is left as it is: the whole film need not be drawn for every step.
watch(() => [film.gestureOpen, film.gestureOpen ? null : film.filmStage, film.gestureOpen ? null : timing.marks, timing.range, width.value, colours.value], () => !film.gestureOpen && draw(), { flush: 'post' })
onMounted(draw)

function onDown(event: PointerEvent) {
  if (event.button !== 0) return
  const box = host.value!.getBoundingClientRect()
  const x = event.clientX - box.left
  const inside = x >= seen.value.left && x <= seen.value.left + seen.value.width
  const shown = props.scale.widthPx / props.scale.pxPerFrame
  // Beside the part that is shown, that is brought there first.
  const start = inside ? props.scale.firstFrame : x / pxPerFrame.value - shown / 2
  if (!inside) emit('show', start)
  followDrag(event, { move: ({ dx }) => emit('show', start + dx / pxPerFrame.value), end: () => undefined, cancel: () => emit('show', start) })
}
</script>

<template>
  <div ref="host" class="overview" title="The whole film. Drag the frame to look elsewhere." data-test="overview" @pointerdown="onDown">
    <canvas ref="canvas" :style="{ height: `${HEIGHT_PX}px` }" aria-hidden="true" />
    <i class="seen" :style="{ left: `${seen.left}px`, width: `${seen.width}px` }" />
    <PlayheadLine :at="() => (desk.playhead + 0.5) * pxPerFrame" />
  </div>
</template>

<style scoped>
.overview {
  position: relative;
  flex: 1;
  min-width: 0;
  height: 13px;
  overflow: hidden;
  cursor: grab;
  touch-action: none;
}
canvas {
  display: block;
  width: 100%;
}
.seen {
  position: absolute;
  top: 0;
  bottom: 0;
  border: 1.5px solid var(--ink-2);
  border-radius: 3px;
}
</style>
