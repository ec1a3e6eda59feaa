<script setup lang="ts">
import type { CutPlan } from '@rubato/core/edits'
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { drawCuts, layCuts, rowTop, type CutBlock } from '~/canvas/drawCuts'
import { useTheme } from '~/composables/view/useTheme'
import { useFilmStore } from '~/stores/film'

/** The strip before and after: what stays is tied to itself. The wheel zooms, a drag goes along, a press finds the line. */
const props = defineProps<{ plan: CutPlan; off: ReadonlySet<string> }>()
const emit = defineEmits<{ find: [lineId: string] }>()
const film = useFilmStore()
const { night } = useTheme()
const box = useTemplateRef('box')
const canvas = useTemplateRef('canvas')
const { width } = useElementSize(box)
const HEIGHT = 104
const picture = computed(() => layCuts(film.filmStage.shots, props.plan))
const scale = ref(1)
const from = ref(0)
const hover = shallowRef<CutBlock | null>(null)
const whole = computed(() => picture.value.lengthFrames / Math.max(1, width.value))
const framesPerPx = computed(() => whole.value / scale.value)
const clamp = () => (from.value = Math.max(0, Math.min(picture.value.lengthFrames - width.value * framesPerPx.value, from.value)))

function draw() {
  const element = canvas.value
  if (element === null || width.value === 0) return
  const ratio = window.devicePixelRatio
  element.width = Math.round(width.value * ratio)
  element.height = Math.round(HEIGHT * ratio)
  const context = element.getContext('2d')!
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  const style = getComputedStyle(element)
  const of = (name: string) => style.getPropertyValue(`--${name}`).trim()
  context.font = `12px ${of('mono')}`
  drawCuts(context, picture.value, { widthPx: width.value, heightPx: HEIGHT, from: from.value, framesPerPx: framesPerPx.value, hover: hover.value, off: props.off }, { paper: of('paper-0'), rule: of('rule'), ink: of('ink'), tones: { same: of('ink-2'), longer: of('sea'), shorter: of('ochre'), moved: of('blue'), dropped: of('vermilion'), new: of('plum') } })
}
watch([picture, width, framesPerPx, from, hover, () => props.off, night], draw, { flush: 'post' })
onMounted(draw)

const frameAt = (event: MouseEvent) => from.value + (event.clientX - canvas.value!.getBoundingClientRect().left) * framesPerPx.value
function blockAt(event: MouseEvent): CutBlock | null {
  const y = event.clientY - canvas.value!.getBoundingClientRect().top
  const row = y < 36 ? 'now' : y > rowTop('then', HEIGHT) - 6 ? 'then' : null
  const frame = frameAt(event)
  return picture.value.blocks.find((block) => block.row === row && frame >= block.from && frame < block.to) ?? null
}
let grip: { readonly x: number; readonly from: number } | null = null
function down(event: PointerEvent) {
  grip = { x: event.clientX, from: from.value }
  ;(event.target as HTMLElement).setPointerCapture(event.pointerId)
}
function move(event: PointerEvent) {
  if (grip === null) return void (hover.value = blockAt(event))
  from.value = grip.from - (event.clientX - grip.x) * framesPerPx.value
  clamp()
}
function up(event: PointerEvent) {
  const moved = grip !== null && Math.abs(event.clientX - grip.x) > 3
  grip = null
  const line = moved ? undefined : blockAt(event)?.lines[0]
  if (line !== undefined) emit('find', line)
}
useEventListener(box, 'wheel', (event: WheelEvent) => {
  event.preventDefault()
  const frame = frameAt(event)
  const before = framesPerPx.value
  scale.value = Math.min(400, Math.max(1, scale.value * 1.0015 ** -event.deltaY))
  from.value = frame - ((frame - from.value) / before) * framesPerPx.value
  clamp()
}, { passive: false })
const told = computed(() => (hover.value === null ? null : `${hover.value.row === 'now' ? 'Now' : 'In the cut'}: ${hover.value.label || 'nothing'}, ${hover.value.to - hover.value.from} frames`))
</script>

<template>
  <figure>
    <div ref="box" class="strips">
      <canvas ref="canvas" :style="{ width: `${width}px`, height: `${HEIGHT}px` }" role="img" aria-label="The film now over the film as the cut has it" data-test="cut-strips" @pointerdown="down" @pointermove="move" @pointerup="up" @pointerleave="hover = null" />
    </div>
    <figcaption class="quiet"><span>now above, the cut below</span><span>{{ told ?? 'the wheel zooms, a drag goes along' }}</span></figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
.strips {
  height: 104px;
  overflow: hidden;
  cursor: grab;
}
canvas {
  display: block;
}
figcaption {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
}
</style>
