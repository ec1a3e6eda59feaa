<script setup lang="ts">
import { meetPlane } from '@rubato/core/camera'
import { placedLevel } from '@rubato/core/stage'
import { useEventListener } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { liveCutting, useCameras } from '~/composables/camera/useCameras'
import { useCameraGestures } from '~/composables/camera/useCameraGestures'
import { useReach } from '~/composables/camera/useReach'
import { pointsFor, useSpans } from '~/composables/camera/useSpans'
import { useLensLevels } from '~/composables/levels/useLensLevels'
import { useWalls } from '~/composables/levels/useWalls'
import { useLevelUnder } from '~/composables/levels/useLevelUnder'
import LensHeader from '~/components/desk/lens/LensHeader.vue'
import LensEdges from '~/components/desk/lens/LensEdges.vue'
import LensGround from '~/components/desk/lens/LensGround.vue'
import LensHorizon from '~/components/desk/lens/LensHorizon.vue'
import LensInk from '~/components/desk/lens/LensInk.vue'
import LensLevel from '~/components/desk/lens/LensLevel.vue'
import OperateOverlay from '~/components/desk/operate/OperateOverlay.vue'
import LensOther from '~/components/desk/takes/LensOther.vue'
import LensPlan from '~/components/desk/takes/LensPlan.vue'
import LensWalls from '~/components/desk/lens/LensWalls.vue'
import LensWork from '~/components/desk/lens/LensWork.vue'
import LensOverlay from '~/components/desk/lens/LensOverlay.vue'
import { useLensPicture } from '~/composables/view/useLensPicture'
import { usePlacePicture } from '~/composables/levels/usePlacePicture'
import { useFrameThis } from '~/composables/camera/useFrameThis'
import { usePlayback } from '~/composables/playback/usePlayback'
import { followDrag } from '~/gestures/drag'
import { ringCursor } from '~/gestures/ringCursor'
import { useEdgesStore } from '~/stores/edges'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useOperateStore } from '~/stores/operate'
import { usePenStore } from '~/stores/pen'
import { useSpreadStore } from '~/stores/spread'
import { useTakesStore } from '~/stores/takes'

/** `playAt`: the part of full resolution that playback is finished at while the artist leaves it to the machine. */
const { playAt = 1 } = defineProps<{ playAt?: number }>()
const film = useFilmStore()
const desk = useDeskStore()
const edges = useEdgesStore()
const pen = usePenStore()
const { stop } = usePlayback()
const takes = useTakesStore()
const operate = useOperateStore()
const spread = useSpreadStore()
const { placing } = usePlacePicture()
const { frameRegion } = useFrameThis()

const pane = ref<HTMLElement | null>(null)
const host = ref<HTMLElement | null>(null)
const ink = useTemplateRef('ink')
const { width, height, frame, viewBox, shown, problem, local, toFrame, toPane } = useLensPicture(pane, host, () => playAt)
const surface = { toFrame, toPane, frameWidth: () => frame.value.width, viewBox: () => viewBox(), shown, pane: () => pane.value }

const { reach } = useReach()
const camera = useCameraGestures(pane, frame)

function onDown(event: PointerEvent) {
  const penTip = desk.tool === 'pen' && event.button === 5
  if ((event.button !== 0 && !penTip) || desk.pose === null || film.optics === null) return
  // A figure is caught as it goes by.
  if (desk.playing && desk.tool === 'level') stop()
  if (desk.playing) return
  if (desk.tool === 'pen') return ink.value?.begin(event)
  if (desk.tool === 'level') return levels.onDown(event)
  if (desk.tool === 'region') return drawRegion(event)
  if (desk.tool === 'target') return pointAt(event)
  if (desk.tool === 'walls') return walls.onDown(event)
  camera.onDown(event)
}

/** What the camera is to go after. */
function pointAt(event: PointerEvent) {
  const levelId = levelUnder(local(event))
  const placed = placedLevel(desk.stageFrame, levelId)
  const { u, v } = toFrame(event)
  spans.pointed(levelId, placed === null ? null : meetPlane(desk.stageFrame!.lens, u, v, placed.plane))
}
useEventListener(window, 'keydown', (event) => {
  if (event.key === 'Escape' && desk.tool === 'target') spans.leave()
})

/** A region being drawn, in u and v; then the camera goes to it. */
const region = ref<{ a: { u: number; v: number }; b: { u: number; v: number } } | null>(null)
function drawRegion(event: PointerEvent) {
  const a = toFrame(event)
  const over = () => ((region.value = null), (desk.tool = 'camera'))
  followDrag(event, {
    move: ({ event: step }) => (region.value = { a, b: toFrame(step) }),
    end: ({ event: step }) => (over(), frameRegion(a, toFrame(step), reach(desk.pose!))),
    cancel: over,
    click: over,
  })
}
const cameras = useCameras()
const spans = useSpans()
const { levelUnder } = useLevelUnder(toPane)
/** Levels in hand: their handles and ways, and what the hand does to them. */
const levels = useLensLevels({ toFrame, toPane, frameWidth: () => frame.value.width, local })

const walls = useWalls({ toFrame, toPane })
useEventListener(window, 'keydown', (event) => {
  if (event.key === 'Escape' && desk.tool === 'walls') walls.giveUp()
})

const ringPx = computed(() => (['brush', 'line', 'box', 'ellipse'].includes(pen.tool) ? pen.brush.widthFw : pen.tool === 'eraser' ? pen.eraserFw : 0) * frame.value.width)
const cursor = computed(() => (desk.tool === 'pen' ? (ringPx.value > 0 ? ringCursor(ringPx.value) : 'crosshair') : desk.tool === 'level' ? levels.cursor.value : desk.tool === 'region' || desk.tool === 'target' || desk.tool === 'walls' ? 'crosshair' : 'grab'))
</script>

<template>
  <section class="lens" aria-label="Through the lens">
    <LensHeader :pulls="levels.pulling.value" :far-off="walls.farOff.value" />
    <div
      ref="pane"
      class="pane"
      :class="{ dark: desk.lens.darkSurround, 'auto-key': desk.autoKey, aside: desk.isLookingAside && !desk.playing }"
      :style="{ cursor }"
      @pointerdown="onDown"
      @pointermove="levels.onHover"
    >
      <div ref="host" class="host" data-test="lens-host" />
      <LensOther v-if="takes.other && (takes.flipped || takes.wipeAt !== null)" :frame="frame" :view-box="() => (width > 0 ? viewBox() : null)" />
      <LensOverlay :frame="frame" :width="width" :height="height" :to-pane="toPane" :region="region" />
      <LensEdges v-if="!desk.playing && desk.tool !== 'pen' && edges.atFrame.length > 0" :width="width" :height="height" :to-pane="toPane" />
      <LensGround v-if="(desk.lens.ground || desk.tool === 'walls') && !desk.playing" :width="width" :height="height" :to-pane="toPane" :frame-width="frame.width" />
      <LensHorizon v-if="spread.open && spread.form.by === 'ground'" :frame="frame" :width="width" :to-pane="toPane" />
      <LensPlan v-if="takes.planOf" :width="width" :height="height" :to-pane="toPane" />
      <LensLevel v-if="desk.tool === 'level' && !desk.playing" :handles="levels.handles.value" :way="levels.way.value" :drawn="levels.drawn.value" :width="width" :height="height" />
      <LensWalls v-if="desk.tool === 'walls' && !desk.playing" :width="width" :height="height" :lines="walls.lines.value" :corner="walls.corner.value" />
      <p v-if="walls.told.value ?? levels.told.value" class="told" role="status">{{ walls.told.value ?? levels.told.value }}</p>
      <LensWork v-if="desk.tool === 'camera' || desk.tool === 'target'" :to-pane="toPane" :to-frame="toFrame" :width="width" :height="height" />
      <p v-if="desk.isLookingAside && !desk.playing" class="aside-note" @pointerdown.stop role="status">You look through {{ cameras.letterOf(desk.cameraAtWorkId) }}; {{ cameras.letterOf(desk.liveCameraId) }} is live <button class="link" title="Look through the live camera" @click="desk.lookThrough(null)">go to it</button></p>
      <p v-if="liveCutting" class="note" @pointerdown.stop role="status">Live cut: press {{ cameras.cameras.value.map((each, i) => `${i + 1} for ${each.letter}`).join(', ') }}. Stop keeps it. <button class="push-button" title="As it was (Esc)" @click="cameras.giveUpLive()">Give up</button></p>
      <p v-if="desk.tool === 'target'" class="note" @pointerdown.stop role="status">{{ pointsFor && 'kind' in pointsFor ? (pointsFor.kind === 'follow' ? 'Click what the camera is to follow' : 'Click what the camera is to turn to') : 'Click what it is to go after' }} <button class="push-button" title="Nothing (Esc)" @click="spans.leave()">Cancel</button></p>
      <LensInk ref="ink" :surface="surface" :width="width" :height="height" />
      <OperateOverlay v-if="operate.phase !== 'idle'" :frame="frame" />
      <p v-if="placing" class="note" @pointerdown.stop role="status">Placing {{ placing.name }}<template v-if="placing.share > 0 && placing.share < 1">, {{ Math.round(placing.share * 100) }} %</template>… <button class="push-button" title="Stop bringing these pictures in" @click="placing.cancel()">Cancel</button></p>
      <p v-if="problem" class="note wrong">{{ problem }}</p>
    </div>
  </section>
</template>

<style scoped>
.lens {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-width: 0;
  container-type: inline-size;
}
.pane {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden;
  background: var(--surround);
  touch-action: none;
  user-select: none;
}
.pane.dark {
  --surround: #35332f;
}
.pane.auto-key {
  box-shadow: inset 0 0 0 3px var(--vermilion);
}
.pane.auto-key::after {
  content: '';
  position: absolute;
  inset: 0;
  box-shadow: inset 0 0 0 3px var(--vermilion);
  pointer-events: none;
}
.host :deep(.picture) {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.note {
  position: absolute;
  top: 4px;
  left: 50%;
  margin: 0;
  padding: 3px 12px;
  border-radius: 6px;
  background: var(--paper-0);
  transform: translateX(-50%);
}
.told {
  position: absolute;
  bottom: 6px;
  left: 50%;
  margin: 0;
  padding: 2px 10px;
  border-radius: 5px;
  background: var(--ink);
  color: var(--sheet);
  font-family: var(--mono);
  font-size: 12px;
  transform: translateX(-50%);
  pointer-events: none;
  white-space: pre;
}
/* What is not the film is framed with dashes. */
.pane.aside::after {
  content: '';
  position: absolute;
  inset: 3px;
  border: 2px dashed var(--blue);
  pointer-events: none;
}
.aside-note {
  position: absolute;
  top: 8px;
  left: 10px;
  margin: 0;
  padding: 2px 9px;
  border-radius: 5px;
  background: var(--blue-wash);
  color: var(--blue);
}
.aside-note .link {
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-decoration: underline;
  cursor: pointer;
}
.note.wrong {
  color: var(--vermilion-text);
}
</style>
