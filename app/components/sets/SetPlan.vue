<script setup lang="ts">
import { pointOnPlane } from '@rubato/core/depth'
import type { TakeStage } from '@rubato/core/stage'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { SetCamera, useSetScene } from '~/composables/levels/useSetScene'
import { useInkColours } from '~/composables/draw/useInkColours'
import { drawSet, type DrawnLevel } from '~/plan/drawSet'
import { fitScale, PLAN_AXES, toPx, type Px } from '~/plan/elevation'
import { useFilmStore } from '~/stores/film'

/** A set from above, with the cameras of all its shots: each goes to its shot. */
const props = defineProps<{ stage: TakeStage; cameras: readonly SetCamera[]; hovered: string | null; boundsOf: ReturnType<typeof useSetScene>['boundsOf']; nameOf: (levelId: string) => string }>()
const emit = defineEmits<{ hover: [id: string | null]; go: [camera: SetCamera] }>()
const film = useFilmStore()
const { colours } = useInkColours()
const pane = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const { width, height } = useElementSize(pane)
const NEAR_PX = 16

const bars = computed<readonly DrawnLevel[]>(() => {
  const { levels } = props.stage.at(0)
  return levels.flatMap((placed): DrawnLevel[] => {
    if (placed.copy > 0 || placed.drawingId === null) return []
    const bounds = props.boundsOf(placed)
    const end = (x = 0) => pointOnPlane(placed.plane, { x, y: 0 })
    const ends = [end(bounds?.left), end(bounds?.right)] as const
    return [{ id: placed.level.id, name: props.nameOf(placed.level.id), depth: placed.place.depth, ends, copies: [], selected: false, turns: false, visible: true, stays: placed.level.facing ?? 'set', place: placed.place, carriedFrom: null }]
  })
})
/** Names stand over their bars. */
const NAMES = 0.88
const scale = computed(() => (({ pxPerFw, ...rest }) => ({ ...rest, pxPerFw: pxPerFw * NAMES }))(fitScale(PLAN_AXES, [...bars.value.flatMap(({ ends }) => ends), ...props.cameras.map(({ lens }) => lens.position)], width.value, height.value)))
const shown = computed(() => props.cameras.find(({ id }) => id === props.hovered) ?? props.cameras[0] ?? null)

function draw() {
  const context = canvas.value?.getContext('2d')
  if (!context || width.value === 0) return
  const ratio = window.devicePixelRatio || 1
  const [w, h] = [Math.round(width.value * ratio), Math.round(height.value * ratio)]
  if (context.canvas.width !== w || context.canvas.height !== h) Object.assign(context.canvas, { width: w, height: h })
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  context.fillStyle = colours.value.paper
  context.fillRect(0, 0, width.value, height.value)
  const lens = shown.value?.lens ?? props.stage.at(0).lens
  const others = props.cameras.filter((camera) => camera !== shown.value).map(({ lens: other, label }) => ({ lens: other, letter: label }))
  drawSet(context, scale.value, { levels: bars.value, path: [], framings: [], marks: [], lens, others, locked: true, live: shown.value === null ? null : shown.value.label, metresPerFw: film.project?.metresPerFw ?? null }, colours.value, (still) => still(context))
}
watch(() => [bars.value, scale.value, shown.value, props.cameras, colours.value, film.project?.metresPerFw], draw, { flush: 'post', immediate: true })

function under(event: PointerEvent | MouseEvent): SetCamera | null {
  const box = pane.value!.getBoundingClientRect()
  const at: Px = { x: event.clientX - box.left, y: event.clientY - box.top }
  const off = (camera: SetCamera) => ((to) => Math.hypot(to.x - at.x, to.y - at.y))(toPx(scale.value, camera.lens.position))
  const [nearest] = [...props.cameras].sort((a, b) => off(a) - off(b))
  return nearest !== undefined && off(nearest) < NEAR_PX ? nearest : null
}
function onClick(event: MouseEvent) {
  const camera = under(event)
  if (camera !== null) emit('go', camera)
}
</script>

<template>
  <section ref="pane" class="plan" role="img" :aria-label="`The set from above, with ${cameras.length} cameras`" data-test="set-plan" @pointermove="emit('hover', under($event)?.id ?? null)" @pointerleave="emit('hover', null)" @click="onClick">
    <canvas ref="canvas" :style="{ width: `${width}px`, height: `${height}px` }" :class="{ over: hovered !== null }" aria-hidden="true" />
  </section>
</template>

<style scoped>
.plan {
  position: relative;
  height: 100%;
  overflow: hidden;
  background: var(--sheet);
}
canvas {
  position: absolute;
  inset: 0;
}
canvas.over {
  cursor: pointer;
}
</style>
