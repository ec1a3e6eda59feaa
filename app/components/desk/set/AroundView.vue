<script setup lang="ts">
import { drawingBounds } from '@rubato/core/ink'
import { unproject } from '@rubato/core/camera'
import { cornersOf } from '@rubato/core/geometry'
import { pointOnPlane } from '@rubato/core/depth'
import type { StageFrame } from '@rubato/core/stage'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useArt } from '~/composables/view/useArt'
import AroundTurn from '~/components/desk/set/AroundTurn.vue'
import LevelWay from '~/components/levels/LevelWay.vue'
import { useLevelWay } from '~/composables/levels/useLevelWay'
import { useCameraPath } from '~/composables/camera/useCameraPath'
import { LOOK_FROM, sightOf, useOrbit } from '~/composables/view/useOrbit'
import { useStageCanvas } from '~/composables/view/useStageCanvas'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** The whole set with its camera, seen from wherever one likes: looking around changes nothing. */
const film = useFilmStore()
const desk = useDeskStore()
const art = useArt()
const { path, beads } = useCameraPath()
const pane = ref<HTMLElement | null>(null)
const host = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(pane)
/** The rings that turn a level are as large at any distance. */
const RING = 0.1

/** From the camera to the farthest level. */
const whole = computed(() => sightOf([...desk.framings.map((entry) => entry.framing.pose), ...(desk.stage === null ? [] : [desk.stage.poseOf(desk.cameraAtWorkId, 0)]), ...desk.levels.filter((level) => level.visible)]))
const { eye, turn, place, turning, viewBox, px, line, onDown, onWheel, onKey, back, whollySeen, lookFrom } = useOrbit(width, height, whole)
watch(() => desk.takeId, whollySeen)
const seen = computed<StageFrame | null>(() => {
  const { stage, stageFrame } = desk
  if (stage === null || stageFrame === null) return null
  return stage.through(stageFrame.frame, stageFrame.cameraId, desk.pose ?? undefined, desk.triedHere, eye.value)
})
const signature = computed(() => (seen.value === null ? '' : art.signatureOf(seen.value)))
const { problem } = useStageCanvas(
  host,
  () => (seen.value === null || width.value === 0 ? null : art.composeFrame(seen.value, viewBox())),
  () => [signature.value, width.value, height.value, turning.value],
  () => null,
  () => null,
  () => ({ frame: '#8b8881', surround: null }),
)

/** The camera's field as far as the picture plane, or a step ahead where it looks away. */
const field = computed(() => {
  const own = desk.stageFrame?.lens
  if (own === undefined) return null
  const reach = Math.min(8, Math.max(0.4, own.forward.depth > 0.1 ? -own.position.depth / own.forward.depth : 1))
  const corners = [[-0.5, -own.halfHeight], [0.5, -own.halfHeight], [0.5, own.halfHeight], [-0.5, own.halfHeight]].map(([u, v]) => unproject(own, u!, v!, reach))
  return { rays: corners.map((corner) => line([own.position, corner])).join(''), frame: line(corners, true), at: px(own.position) }
})
const track = computed(() => line(path.value))
const dots = computed(() => beads.value.flatMap((bead) => ((at) => (at === null ? [] : [{ ...bead, at, colour: `var(--bead-${Math.round(bead.shade * 4)})` }]))(px(bead.pose))))
const level = useLevelWay(px)
const outlines = computed(() =>
  (seen.value?.levels ?? []).flatMap((placed) => {
    const drawing = placed.drawingId === null ? null : film.drawingOf(placed.drawingId)
    const bounds = drawing === null ? null : drawingBounds(drawing)
    return bounds === null ? [] : [{ id: placed.level.id, d: line(cornersOf(bounds).map((corner) => pointOnPlane(placed.plane, corner)), true), selected: desk.chosenLevelIds.includes(placed.level.id) }]
  }),
)
</script>

<template>
  <section class="around" aria-label="Around">
    <div ref="pane" class="pane" tabindex="0" role="application" aria-label="Around: drag to look around, Shift-drag to slide, wheel to come nearer; the camera is not touched" @pointerdown="onDown" @wheel="onWheel" @dblclick="back" @keydown="onKey">
      <div ref="host" class="host" data-test="around" :data-yaw="turn.yaw.toFixed(1)" />
      <svg class="overlay" :width="width" :height="height" aria-hidden="true">
        <path v-for="each in outlines" :key="each.id" class="edge" :class="{ selected: each.selected }" :d="each.d" />
        <path class="track" :d="track" />
        <template v-if="field">
          <path class="ray" :d="field.rays" />
          <path class="frame" :d="field.frame" />
          <circle v-if="field.at" class="camera" :cx="field.at.x" :cy="field.at.y" r="6" />
        </template>
        <g v-for="dot in dots" :key="dot.id">
          <ellipse class="bead" :cx="dot.at.x" :cy="dot.at.y" rx="5.5" ry="4" :style="{ fill: dot.colour }" :transform="`rotate(-24 ${dot.at.x} ${dot.at.y})`" />
          <text class="number" :x="dot.at.x + 7" :y="dot.at.y + 12">{{ dot.number }}</text>
        </g>
      </svg>
      <LevelWay :way="level.way.value" :width="width" :height="height" />
      <AroundTurn :width="width" :height="height" :px="px" :radius="place.distance * RING" />
      <div class="corner" @pointerdown.stop @dblclick.stop>
        <button v-for="from in LOOK_FROM" :key="from.name" class="chip" :title="from.title" @click="lookFrom(from)">{{ from.name }}</button>
        <button class="chip" title="As it was first (double click)" @click="back">Reset</button>
      </div>
      <p v-if="problem" class="note">{{ problem }}</p>
    </div>
  </section>
</template>

<style scoped src="./artView.css"></style>
<style scoped>
.around {
  height: 100%;
}
.pane {
  cursor: move;
}
.edge {
  stroke: #ffffff;
  stroke-opacity: 0.4;
}
.edge.selected {
  stroke: #cfe3f0;
  stroke-opacity: 1;
  stroke-width: 2;
}
.track {
  stroke: #cfe3f0;
  stroke-width: 1.5;
  stroke-dasharray: 4 3;
}
.ray {
  stroke: #1b1813;
  stroke-opacity: 0.6;
}
.frame {
  stroke: #1b1813;
  stroke-width: 2;
}
.camera {
  fill: #1b1813;
  stroke: #ffffff;
}
.number {
  fill: #ffffff;
  font-size: 11px;
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
