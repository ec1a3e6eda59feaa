<script setup lang="ts">
import { meetPlane, slidePose, truckPose, turnPose, zoomPose, type CameraPose } from '@rubato/core/camera'
import { mapShown, placedLevel, viewsOf } from '@rubato/core/stage'
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { Cuboid, Eraser, Maximize2, Minimize2, Move, Pencil, Scan, Video } from '~/icons'
import { liveCutting, useCameras } from '~/composables/camera/useCameras'
import { useReach } from '~/composables/camera/useReach'
import { pointsFor, useSpans } from '~/composables/camera/useSpans'
import { useLensLevels } from '~/composables/levels/useLensLevels'
import { useWalls } from '~/composables/levels/useWalls'
import { useLevelUnder } from '~/composables/levels/useLevelUnder'
import CameraChips from '~/components/desk/lens/CameraChips.vue'
import CameraBar from '~/components/desk/lens/CameraBar.vue'
import LensEdges from '~/components/desk/lens/LensEdges.vue'
import LensGround from '~/components/desk/lens/LensGround.vue'
import LensHorizon from '~/components/desk/lens/LensHorizon.vue'
import LensInk from '~/components/desk/lens/LensInk.vue'
import LensLevel from '~/components/desk/lens/LensLevel.vue'
import LevelBar from '~/components/desk/lens/LevelBar.vue'
import OperateOverlay from '~/components/desk/operate/OperateOverlay.vue'
import LensOther from '~/components/desk/takes/LensOther.vue'
import LensPlan from '~/components/desk/takes/LensPlan.vue'
import LensWalls from '~/components/desk/lens/LensWalls.vue'
import WallBar from '~/components/desk/lens/WallBar.vue'
import LensWork from '~/components/desk/lens/LensWork.vue'
import LensOverlay from '~/components/desk/lens/LensOverlay.vue'
import { useArt } from '~/composables/view/useArt'
import { useFinishedFramesStore } from '~/stores/finishedFrames'
import { useSheet } from '~/composables/draw/useSheet'
import { useStageCanvas, type MixedView } from '~/composables/view/useStageCanvas'
import { usePlacePicture } from '~/composables/levels/usePlacePicture'
import { useFrameThis } from '~/composables/camera/useFrameThis'
import { useViews } from '~/composables/view/useViews'
import { usePlayback } from '~/composables/playback/usePlayback'
import { followDrag } from '~/gestures/drag'
import { ringCursor } from '~/gestures/ringCursor'
import { useAirStore } from '~/stores/air'
import { useEdgesStore } from '~/stores/edges'
import { useDeskStore, type Tool } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useOperateStore } from '~/stores/operate'
import { usePenStore, type PenTool } from '~/stores/pen'
import { useSpreadStore } from '~/stores/spread'
import { useTakesStore } from '~/stores/takes'
import { useTimingStore } from '~/stores/timing'
import type { ViewBox } from '~/viewport/composition'
import { frameBoxOf } from '~/viewport/mixPictures'

/** `playAt`: the part of full resolution that playback is finished at while the artist leaves it to the machine. */
const { playAt = 1 } = defineProps<{ playAt?: number }>()
const film = useFilmStore()
const desk = useDeskStore()
const air = useAirStore()
const edges = useEdgesStore()
const pen = usePenStore()
const art = useArt()
const { sheet, moods } = useSheet()
const { quality, stop } = usePlayback()
const cache = useFinishedFramesStore()
const timing = useTimingStore()
const takes = useTakesStore()
const operate = useOperateStore()
const spread = useSpreadStore()
const { placing } = usePlacePicture()
const { frameRegion } = useFrameThis()
const { arranged, toggleAlone } = useViews()

const pane = ref<HTMLElement | null>(null)
const host = ref<HTMLElement | null>(null)
const ink = useTemplateRef('ink')
const { width, height } = useElementSize(pane)
const MARGIN_PX = 26

const aspect = computed(() => film.optics?.aspect ?? 16 / 9)
/** The frame's rectangle in the pane, CSS px. */
const frame = computed(() => {
  const w = Math.max(40, Math.min(width.value - MARGIN_PX * 2, (height.value - MARGIN_PX * 2) * aspect.value))
  const h = w / aspect.value
  return { left: Math.round((width.value - w) / 2), top: Math.round((height.value - h) / 2), width: Math.round(w), height: Math.round(h) }
})

function viewBox(part: number = quality.value): ViewBox {
  const ratio = Math.min(2, window.devicePixelRatio || 1) * part
  return {
    widthPx: Math.max(1, Math.round(width.value * ratio)),
    heightPx: Math.max(1, Math.round(height.value * ratio)),
    frameLeftPx: frame.value.left * ratio,
    frameTopPx: frame.value.top * ratio,
    frameWidthPx: frame.value.width * ratio,
  }
}

/** What is put together where the playhead is; with the pen in hand one camera's view alone is seen, the one that is drawn in. */
const mix = computed(() => {
  const picture = film.filmStage.shownAt(desk.playhead, film.stageOf)
  // Looking through another camera than the film does, that one is seen alone.
  return picture?.kind === 'mix' && (desk.tool !== 'pen' || desk.playing) && !desk.isLookingAside && desk.operatedHere === null ? picture : null
})
/** The take that is seen beside the playhead's own. */
const otherTake = computed(() => viewsOf(mix.value).find((view) => view.takeId !== desk.takeId)?.takeId ?? null)
watch(
  otherTake,
  (takeId) => takeId !== null && void film.ensureTakeWithArt(takeId).catch((error: Error) => film.refuse(`The other shot of this transition could not be loaded. ${error.message}`)),
  { immediate: true },
)
/** The views of the mix at this frame; null while one is not loaded. */
const mixFrames = computed(() => {
  const frames = viewsOf(mix.value).map((view) => {
    // What is only being looked at is seen in the mix too.
    if (view.takeId === desk.takeId && view.cameraId === desk.cameraAtWorkId && (desk.trialHere !== null || desk.triedHere !== null)) return desk.stageFrame
    return film.stageOf(view.takeId)?.through(view.frame, view.cameraId) ?? null
  })
  return frames.includes(null) ? null : new Map(viewsOf(mix.value).map((view, i) => [view, frames[i]!]))
})
function mixed(): MixedView | null {
  const frames = mixFrames.value
  if (mix.value === null || frames === null || width.value === 0) return null
  const box = viewBox()
  const shown = mapShown(mix.value, (view) => {
    const stage = frames.get(view)!
    const own = view.takeId === desk.takeId
    return { composition: own ? sheet(stage, box, false, false) : art.composeFrame(stage, box, true, (placed) => (desk.playing && timing.isMuted(view.takeId, placed.level.id) ? 0 : 1)) }
  })
  return shown.kind === 'mix' ? { shown, frame: frameBoxOf(box, aspect.value) } : null
}

const { problem, shown } = useStageCanvas(
  host,
  () => (desk.stageFrame === null || width.value === 0 ? null : sheet(desk.stageFrame, viewBox(), false, desk.tool === 'pen' && !desk.playing)),
  () => [desk.stageFrame, mixFrames.value, film.outline.transitions, film.film.drawings, width.value, height.value, quality.value, desk.tool, ...moods()],
  () => (desk.isLookingAside || desk.operatedHere !== null || air.distances ? null : cache.finished(desk.playhead)),
  mixed,
  () => ({ frame: air.shownRange === null || desk.tool === 'pen' ? '#ffffff' : '#000000', surround: null }),
)
watch(
  () => [frame.value, timing.wantedQuality],
  () => width.value > 0 && cache.setView(viewBox(timing.wantedQuality === 'auto' ? playAt : timing.wantedQuality)),
  { immediate: true },
)
watch(() => desk.playhead, (frame) => desk.playing && cache.advance(frame))
watch(
  () => [desk.stage, film.film.drawings, width.value, height.value],
  () => {
    if (desk.stage !== null && width.value > 0 && !film.gestureOpen && !desk.playing) art.prepare(desk.stage, viewBox())
  },
  { flush: 'post' },
)
/** CSS px in the pane to u, v in the frame. */
function toFrame(event: { clientX: number; clientY: number }) {
  const box = pane.value!.getBoundingClientRect()
  const f = frame.value
  return { u: (event.clientX - box.left - f.left) / f.width - 0.5, v: -((event.clientY - box.top - f.top) / f.width - 0.5 / aspect.value) }
}

const toPane = (u: number, v: number) => ({
  x: frame.value.left + (u + 0.5) * frame.value.width,
  y: frame.value.top + (0.5 / aspect.value - v) * frame.value.width,
})

const surface = { toFrame, toPane, frameWidth: () => frame.value.width, viewBox: () => viewBox(), shown, pane: () => pane.value }

const { reach } = useReach()

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
  const start = desk.pose
  const z = reach(start)
  const turning = event.shiftKey
  let camera: ReturnType<typeof desk.beginCamera> | null = null
  followDrag(event, {
    begin: () => (camera = desk.beginCamera()),
    move: ({ dx, dy, axis }) => {
      const du = axis === 'y' ? 0 : dx / frame.value.width
      const dv = axis === 'x' ? 0 : -dy / frame.value.width
      if (axis === 'depth') return camera!.update(truckPose(start, z, Math.exp(-dy / frame.value.height)))
      camera!.update(turning ? turnPose(start, film.optics!, du, dv) : slidePose(start, film.optics!, du, dv, z))
    },
    end: () => camera?.end(),
    cancel: () => camera?.abandon(),
  })
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
const local = (event: { clientX: number; clientY: number }) => {
  const box = pane.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}
const cameras = useCameras()
const spans = useSpans()
const { levelUnder } = useLevelUnder(toPane)
/** What the camera goes after at the playhead, in a few words each. */
const working = computed(() => (desk.playing ? [] : spans.spans.value.filter(({ first, last }) => first <= desk.shotFrame && desk.shotFrame <= last).map(({ span }) => ({ id: span.id, words: spans.wordOf(span) }))))
/** Levels in hand: their handles and ways, and what the hand does to them. */
const levels = useLensLevels({ toFrame, toPane, frameWidth: () => frame.value.width, local })

const walls = useWalls({ toFrame, toPane })
useEventListener(window, 'keydown', (event) => {
  if (event.key === 'Escape' && desk.tool === 'walls') walls.giveUp()
})

let wheel: { camera: ReturnType<typeof desk.beginCamera>; pose: CameraPose; timer: ReturnType<typeof setTimeout> } | null = null

/** A wheel turns without an end, so a pause ends it. */
function onWheel(event: WheelEvent) {
  if (event.ctrlKey || desk.pose === null || film.optics === null || desk.playing) return
  event.preventDefault()
  const steps = event.deltaMode === 1 ? event.deltaY * 16 : event.deltaY || event.deltaX
  const growth = Math.exp(-steps * 0.0012)
  if (wheel === null) wheel = { camera: desk.beginCamera(event.altKey ? 'zoom' : 'truck'), pose: desk.pose, timer: 0 as never }
  wheel.pose = event.altKey ? zoomPose(wheel.pose, growth) : truckPose(wheel.pose, reach(wheel.pose), growth)
  wheel.camera.update(wheel.pose)
  clearTimeout(wheel.timer)
  wheel.timer = setTimeout(endWheel, 350)
}

function endWheel() {
  if (wheel === null) return
  clearTimeout(wheel.timer)
  wheel.camera.end()
  wheel = null
}
watch(() => [desk.playhead, desk.shotId], endWheel)
useEventListener(pane, 'wheel', onWheel, { passive: false })

const TOOLS: readonly { id: Tool; name: string; key: string; icon: typeof Video }[] = [
  { id: 'camera', name: 'Camera: drag slides, Shift-drag pans and tilts, wheel trucks, Alt+wheel zooms', key: 'C', icon: Video },
  { id: 'level', name: 'Levels: drag moves the selected one, its corners size it, its knob turns it (X held tilts it, Y held pans it), Alt and a drag moves its pivot; W held pulls a travel', key: 'M', icon: Move },
  { id: 'walls', name: 'Walls: rooms, walls, floors and ceilings, drawn in the picture', key: 'Alt F', icon: Cuboid },
  { id: 'region', name: 'Frame a region: draw it, and the camera goes there', key: 'Shift O', icon: Scan },
]
const PENS: readonly { id: PenTool; name: string; key: string; icon: typeof Video }[] = [
  { id: 'brush', name: 'Pencil, on the selected level in this panel', key: 'P', icon: Pencil },
  { id: 'eraser', name: 'Eraser', key: 'E', icon: Eraser },
]
const hasPen = (tool: PenTool) => desk.tool === 'pen' && (pen.tool === tool || (tool === 'brush' && pen.tool !== 'eraser'))
function takePen(tool: PenTool) {
  pen.tool = tool
  desk.tool = 'pen'
}
/** The header is the tool's own. */
const busy = computed(() => desk.tool === 'level' || desk.tool === 'walls')
const ringPx = computed(() => (['brush', 'line', 'box', 'ellipse'].includes(pen.tool) ? pen.brush.widthFw : pen.tool === 'eraser' ? pen.eraserFw : 0) * frame.value.width)
const cursor = computed(() => (desk.tool === 'pen' ? (ringPx.value > 0 ? ringCursor(ringPx.value) : 'crosshair') : desk.tool === 'level' ? levels.cursor.value : desk.tool === 'region' || desk.tool === 'target' || desk.tool === 'walls' ? 'crosshair' : 'grab'))
</script>

<template>
  <section class="lens" aria-label="Through the lens">
    <header>
      <b class="what title" :class="{ spare: desk.tool === 'level' || desk.tool === 'walls' || cameras.many.value || working.length > 0 }">Through the lens</b>
      <CameraChips v-if="!busy" />
      <span v-if="desk.cameraAtWork && desk.pose && !busy" class="chip what" :class="{ spare: cameras.many.value && working.length > 0 }">{{ cameras.many.value ? '' : `Camera ${desk.cameraAtWork.letter} · ` }}{{ Number(desk.pose.focalLengthMm.toFixed(1)) }} mm</span>
      <button v-for="each in busy ? [] : working" :key="each.id" class="chip blue what" :title="`${each.words}: its numbers in the inspector`" :aria-pressed="each.id === desk.selectedSpanId" @click="desk.selectedSpanId = each.id">{{ each.words }}</button>
      <LevelBar v-if="desk.tool === 'level'" :pulls="levels.pulling.value" />
      <WallBar v-else-if="desk.tool === 'walls'" :far-off="walls.farOff.value" />
      <CameraBar v-else />
      <button v-if="air.distances" class="chip blue what" title="Distances are seen in the place of colours. Press for the picture again (Alt Shift J)" data-test="distances" @click="air.distances = false">distances</button>
      <span v-if="desk.counterZooms" class="chip blue" title="Truck and zoom answer each other (Alt Z)" data-test="counter-zoom">counter-zoom</span>
      <span class="tools" role="group" aria-label="Tools">
        <button v-for="item in TOOLS" :key="item.id" class="icon-button" :aria-pressed="desk.tool === item.id" :aria-label="item.name" :title="`${item.name} (${item.key})`" @click="desk.tool = item.id"><component :is="item.icon" :size="16" /></button>
        <button v-for="item in PENS" :key="item.id" class="icon-button" :aria-pressed="hasPen(item.id)" :aria-label="item.name" :title="`${item.name} (${item.key})`" @click="takePen(item.id)"><component :is="item.icon" :size="16" /></button>
      </span>
      <button class="icon-button small" :aria-pressed="arranged.alone === 'lens'" :title="arranged.alone === 'lens' ? 'With the other views again (Shift W)' : 'The lens view alone (Shift W)'" aria-label="The lens view alone" @click="toggleAlone('lens')"><Minimize2 v-if="arranged.alone === 'lens'" :size="14" /><Maximize2 v-else :size="14" /></button>
    </header>
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
@container (max-width: 740px) {
  .title {
    display: none;
  }
}
@container (max-width: 690px) {
  .what {
    display: none;
  }
}
@container (max-width: 860px) {
  .spare {
    display: none;
  }
}
header {
  display: flex;
  align-items: center;
  gap: 7px;
  height: 36px;
  padding: 0 8px 0 10px;
  background: var(--paper-0);
  overflow: hidden;
  white-space: nowrap;
}
.grow {
  flex: 1;
}
.tools {
  display: flex;
  flex: none;
  gap: 2px;
  padding-left: 5px;
  border-left: 1px solid var(--rule);
}
header .push-button {
  min-height: 26px;
  padding: 1px 10px;
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
