<script setup lang="ts">
import { unproject } from '@rubato/core/camera'
import { pointOnPlane } from '@rubato/core/depth'
import { cornersOf } from '@rubato/core/geometry'
import type { StageFrame, TakeStage } from '@rubato/core/stage'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { SetCamera, useSetScene } from '~/composables/levels/useSetScene'
import { useArt } from '~/composables/view/useArt'
import { LOOK_FROM, sightOf, useOrbit } from '~/composables/view/useOrbit'
import { useStageCanvas } from '~/composables/view/useStageCanvas'

/** A set seen from wherever one likes, with the cameras of all its shots in it. */
const props = defineProps<{ stage: TakeStage; cameras: readonly SetCamera[]; hovered: string | null; boundsOf: ReturnType<typeof useSetScene>['boundsOf'] }>()
const emit = defineEmits<{ hover: [id: string | null]; go: [camera: SetCamera] }>()
const art = useArt()
const pane = ref<HTMLElement | null>(null)
const host = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(pane)

const still = computed(() => props.stage.at(0))
const corners = computed(() => still.value.levels.flatMap((placed) => ((bounds) => (bounds === null ? [] : cornersOf(bounds).map((corner) => pointOnPlane(placed.plane, corner))))(props.boundsOf(placed))))
/** Nearer than where all of the cameras' fields are seen: those go on anyway. */
const NEARER = 0.72
const whole = computed(() => (({ centre, distance }) => ({ centre, distance: distance * NEARER }))(sightOf([...corners.value, ...props.cameras.map(({ lens }) => lens.position)])))
const { eye, turn, turning, viewBox, px, line, onDown, onWheel, onKey, back, whollySeen, lookFrom } = useOrbit(width, height, whole)
watch(() => props.stage.take.levels, (now, before) => Object.keys(now)[1] !== Object.keys(before)[1] && whollySeen())

const seen = computed<StageFrame>(() => props.stage.through(0, null, undefined, null, eye.value))
const signature = computed(() => art.signatureOf(seen.value))
const { problem } = useStageCanvas(
  host,
  () => (width.value === 0 ? null : art.composeFrame(seen.value, viewBox())),
  () => [signature.value, width.value, height.value, turning.value],
  () => null,
  () => null,
  () => ({ frame: '#8b8881', surround: null }),
)

const outlines = computed(() =>
  seen.value.levels.flatMap((placed) => {
    const bounds = props.boundsOf(placed)
    return bounds === null ? [] : [{ id: placed.level.id, d: line(cornersOf(bounds).map((corner) => pointOnPlane(placed.plane, corner)), true) }]
  }),
)
/** A camera's field so far ahead that it can be read, and its name where it stands. */
const fields = computed(() =>
  props.cameras.flatMap((camera) => {
    const { lens } = camera
    const at = px(lens.position)
    if (at === null) return []
    const ahead = camera.id === props.hovered ? 1.4 : 0.5
    const ends = [[-0.5, -lens.halfHeight], [0.5, -lens.halfHeight], [0.5, lens.halfHeight], [-0.5, lens.halfHeight]].map(([u, v]) => unproject(lens, u!, v!, ahead))
    return [{ camera, at, rays: ends.map((end) => line([lens.position, end])).join(''), frame: line(ends, true) }]
  }),
)
/** Names stand beside their cameras, one under the other where those stand close. */
const NAME_PX = { width: 76, height: 19 }
const names = computed(() => {
  const put: { readonly camera: SetCamera; readonly x: number; readonly y: number }[] = []
  for (const { camera, at } of [...fields.value].sort((a, b) => a.at.y - b.at.y)) {
    const x = at.x + 8
    let y = at.y - 10
    for (const other of put) if (Math.abs(other.x - x) < NAME_PX.width && y - other.y < NAME_PX.height) y = Math.max(y, other.y + NAME_PX.height)
    put.push({ camera, x, y })
  }
  return put
})
</script>

<template>
  <section class="around" aria-label="The set, around">
    <div ref="pane" class="pane" tabindex="0" role="application" aria-label="Around the set: drag to look around, Shift-drag to slide, wheel to come nearer" @pointerdown="onDown" @wheel="onWheel" @dblclick="back" @keydown="onKey">
      <div ref="host" class="host" data-test="set-around" :data-yaw="turn.yaw.toFixed(1)" />
      <svg class="overlay" :width="width" :height="height" aria-hidden="true">
        <path v-for="each in outlines" :key="each.id" class="edge" :d="each.d" />
        <g v-for="{ camera, at, rays, frame } in fields" :key="camera.id" class="camera" :class="{ hovered: camera.id === hovered }">
          <path class="field" :d="rays" />
          <path class="field" :d="frame" />
          <circle :cx="at.x" :cy="at.y" r="5" />
        </g>
      </svg>
      <button v-for="{ camera, x, y } in names" :key="camera.id" class="name" :class="{ hovered: camera.id === hovered }" :style="{ left: `${x}px`, top: `${y}px` }" :title="`Go to shot ${camera.placed.shot.label} ${camera.placed.shot.title}`" @pointerdown.stop @dblclick.stop @pointerenter="emit('hover', camera.id)" @pointerleave="emit('hover', null)" @click="emit('go', camera)">{{ camera.label }}</button>
      <div class="corner" @pointerdown.stop @dblclick.stop>
        <button v-for="from in LOOK_FROM" :key="from.name" class="chip" :title="from.title" @click="lookFrom(from)">{{ from.name }}</button>
        <button class="chip" title="As it was first (double click)" @click="back">Reset</button>
      </div>
      <p v-if="problem" class="note">{{ problem }}</p>
    </div>
  </section>
</template>

<style scoped src="../desk/set/artView.css"></style>
<style scoped>
.around {
  height: 100%;
}
.pane {
  overflow: hidden;
  cursor: move;
}
.edge {
  stroke: #ffffff;
  stroke-opacity: 0.4;
}
.field {
  stroke: #1b1813;
  stroke-opacity: 0.55;
}
.camera circle {
  fill: #1b1813;
  stroke: #ffffff;
}
.hovered .field {
  stroke: #cfe3f0;
  stroke-opacity: 1;
  stroke-width: 2;
}
.hovered circle {
  fill: #2a6a99;
}
.name {
  position: absolute;
  padding: 1px 6px;
  border: 0;
  border-radius: 4px;
  background: rgb(27 24 19 / 0.72);
  color: #ffffff;
  font: inherit;
  font-size: 11px;
  cursor: pointer;
}
.name:hover,
.name.hovered {
  z-index: 2;
  background: #2a6a99;
}
.note {
  position: absolute;
  top: 4px;
  left: 8px;
  margin: 0;
  padding: 2px 8px;
  background: var(--paper-0);
  color: var(--vermilion-text);
}
</style>
