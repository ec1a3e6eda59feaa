<script setup lang="ts">
import { shorten } from '@rubato/core/document'
import { editShot } from '@rubato/core/edits'
import { framesOfEntry } from '@rubato/core/time'
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import MarkEditor from '~/components/desk/strip/MarkEditor.vue'
import StripEntry from '~/components/desk/strip/StripEntry.vue'
import PlayheadLine from '~/components/desk/strip/PlayheadLine.vue'
import LaneHead from '~/components/sound/LaneHead.vue'
import SoundTray from '~/components/sound/SoundTray.vue'
import SoundBar from '~/components/sound/SoundBar.vue'
import StripOverview from '~/components/desk/strip/StripOverview.vue'
import { useInkColours } from '~/composables/draw/useInkColours'
import { useLaneOrder } from '~/composables/sound/useLaneOrder'
import { isSoundFile, useSound } from '~/composables/sound/useSound'
import { useStripGestures } from '~/composables/strip/useStripGestures'
import { useStripScene } from '~/composables/strip/useStripScene'
import { useTiming } from '~/composables/strip/useTiming'
import { useBoardsStore } from '~/stores/boards'
import { useAirStore } from '~/stores/air'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import { drawStrip } from '~/timeline/drawStrip'
import type { StripHit } from '~/timeline/hitStrip'
import { createLanesLayer } from '~/timeline/lanesLayer'
import { heightOf, laneAt } from '~/timeline/stripLanes'
import { LANES_END_PX, RULER, rowsEnd, STRIP_ROWS, type StripRow, type StripRowName } from '~/timeline/stripRows'
import { fitted, frameOfX, keptInView, xOfFrame, zoomedAt, type StripScale } from '~/timeline/stripScale'

const film = useFilmStore()
const desk = useDeskStore()
const air = useAirStore()
const boards = useBoardsStore()
const timing = useTimingStore()
const { markAt, setEach } = useTiming()
const sound = useSoundStore()
const { bring, newLane } = useSound()
const { colours } = useInkColours()

const pane = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const { width } = useElementSize(pane)
const view = shallowRef<{ pxPerFrame: number; firstFrame: number } | null>(null)
const hover = ref<StripHit['kind'] | null>(null)

const scale = computed<StripScale>(() => {
  if (view.value === null) return fitted(0, desk.lengthFrames, width.value)
  return keptInView({ ...view.value, widthPx: width.value }, desk.lengthFrames)
})
const { scene, rows, lanePlaces, live, drop, snapFrame } = useStripScene(scale)

const laneOrder = useLaneOrder(() => scene.value.lanes)
const lanesLayer = createLanesLayer()
// Not of the scene, which is another with every step of a drag.
const shownRows = computed(() => Object.fromEntries(Object.entries(rows.value).filter(([, row]) => row.height > 0)) as Record<StripRowName, StripRow>)
const heightPx = computed(() => heightOf(scene.value))
function draw() {
  const context = canvas.value?.getContext('2d')
  if (!context || width.value === 0) return
  const ratio = window.devicePixelRatio || 1
  const [w, h] = [Math.round(width.value * ratio), Math.round(heightPx.value * ratio)]
  if (context.canvas.width !== w || context.canvas.height !== h) Object.assign(context.canvas, { width: w, height: h })
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  drawStrip(context, scale.value, scene.value, colours.value, () => lanesLayer(context, scale.value, scene.value, colours.value, ratio))
}
watch(() => [scene.value, scale.value, colours.value], draw, { flush: 'post' })
onMounted(() => {
  draw()
  void document.fonts?.ready.then(draw)
})

const playheadX = computed(() => Math.round(xOfFrame(scale.value, desk.playhead + 0.5)))
const playheadText = () => (timing.display === 'timecode' ? timing.moment(desk.playhead).slice(3) : timing.moment(desk.playhead))
// Playing on past the edge turns the page.
watch(playheadX, (x) => {
  if (view.value === null || width.value === 0) return
  if (x > width.value - 8 || x < 0) view.value = { ...view.value, firstFrame: desk.playhead - (width.value * 0.1) / scale.value.pxPerFrame }
})

const local = (event: { clientX: number; clientY: number }) => {
  const box = pane.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}
const holdScale = () => (view.value = { pxPerFrame: scale.value.pxPerFrame, firstFrame: scale.value.firstFrame })
const gestures = useStripGestures({ scale, scene, live, drop, snapFrame, local, holdScale })

function show(next: StripScale) {
  const kept = keptInView(next, desk.lengthFrames)
  view.value = { pxPerFrame: kept.pxPerFrame, firstFrame: kept.firstFrame }
}
const zoom = (factor: number, x = playheadX.value >= 0 && playheadX.value <= width.value ? playheadX.value : width.value / 2) => show(zoomedAt(scale.value, x, factor))
function zoomTo(startFrame: number, lengthFrames: number) {
  const next = fitted(startFrame, lengthFrames, width.value)
  show({ ...next, firstFrame: startFrame - 6 / next.pxPerFrame })
}
function zoomToShot() {
  if (desk.placedShot !== null) zoomTo(desk.placedShot.startFrame, desk.placedShot.lengthFrames)
}
/** What is chosen; with nothing chosen the range, then the shot. */
function zoomToChosen() {
  const places = boards.inFilmOrder(boards.panels)
  if (boards.shots.length > 0) {
    const shots = film.filmStage.shots.filter((placed) => boards.shots.includes(placed.shot.id))
    const last = shots.at(-1)!
    return zoomTo(shots[0]!.startFrame, last.startFrame + last.lengthFrames - shots[0]!.startFrame)
  }
  const spans = places.flatMap(({ takeId, panelId }) => {
    const shot = film.filmStage.placeOfTake(takeId)
    const entry = timing.panelsOf(takeId).find(({ panel }) => panel.id === panelId)
    return shot === null || entry === undefined ? [] : [{ start: shot.startFrame + entry.startFrame, end: shot.startFrame + entry.startFrame + entry.panel.lengthFrames }]
  })
  if (spans.length > 0) return zoomTo(spans[0]!.start, spans.at(-1)!.end - spans[0]!.start)
  if (timing.range !== null) return zoomTo(timing.range.start, timing.range.end - timing.range.start)
  zoomToShot()
}
const LOG = { least: Math.log(0.002), most: Math.log(40) }
const ZOOM_STEPS = 200
/** In whole steps of the slider: it would lay itself out at every other number that it is given. */
const zoomShare = computed(() => Math.round((ZOOM_STEPS * (Math.log(scale.value.pxPerFrame) - LOG.least)) / (LOG.most - LOG.least)) / ZOOM_STEPS)
const zoomToShare = (share: number) => zoom(Math.exp(LOG.least + share * (LOG.most - LOG.least)) / scale.value.pxPerFrame)

useEventListener(
  pane,
  'wheel',
  (event: WheelEvent) => {
    event.preventDefault()
    if (event.ctrlKey || event.altKey || (!event.shiftKey && Math.abs(event.deltaY) > Math.abs(event.deltaX) && event.deltaMode !== 0)) {
      zoom(Math.exp(-event.deltaY * (event.deltaMode === 0 ? 0.002 : 0.05)), local(event).x)
      return
    }
    const by = Math.abs(event.deltaX) > Math.abs(event.deltaY) ? event.deltaX : event.deltaY
    show({ ...scale.value, firstFrame: scale.value.firstFrame + by / scale.value.pxPerFrame })
  },
  { passive: false },
)

const CURSORS: Partial<Record<StripHit['kind'], string>> = { 'panel-end': 'ew-resize', 'shot-end': 'ew-resize', 'range-end': 'ew-resize', mark: 'grab', bead: 'grab', span: 'grab', 'cut-edge': 'ew-resize', 'dissolve-end': 'ew-resize', 'span-end': 'ew-resize', 'level-key': 'grab', clip: 'grab', 'clip-end': 'ew-resize', fade: 'ew-resize', 'transition-end': 'ew-resize', transition: 'pointer', panel: 'pointer', shot: 'pointer' }
function onHover(event: PointerEvent) {
  if (event.buttons === 0) hover.value = gestures.hitAt(event)?.kind ?? null
}

/** What is typed where it stands: a panel's length, a shot's label and title. */
const entry = shallowRef<{ label: string; text: string; left: number; top: number; width: number; hint: string; take: (text: string) => boolean } | null>(null)
const editedMark = ref<string | null>(null)
function onDouble(event: MouseEvent) {
  const hit = gestures.hitAt(event)
  if (hit?.kind === 'mark') return void (editedMark.value = hit.markId)
  if (hit?.kind === 'ruler') {
    if (local(event).y >= RULER.figuresPx) editedMark.value = markAt(Math.min(desk.lengthFrames - 1, Math.max(0, Math.floor(hit.frame))))
    return
  }
  if (hit?.kind === 'panel' || hit?.kind === 'panel-end') {
    const panel = film.takeOf(hit.takeId)?.panels[hit.panelId]
    const placed = film.filmStage.placeOf(hit.shotId)
    const start = timing.panelsOf(hit.takeId).find((each) => each.panel.id === hit.panelId)?.startFrame
    if (panel === undefined || placed === null || start === undefined) return
    boards.panels = [{ takeId: hit.takeId, panelId: hit.panelId }]
    boards.shots = []
    const x = xOfFrame(scale.value, placed.startFrame + start)
    entry.value = { label: 'Length of the panel', text: String(panel.lengthFrames), left: Math.min(width.value - 92, Math.max(2, x + 4)), top: STRIP_ROWS.panels.top + 20, width: 84, hint: 'Frames, 1.5s, 2:12, +6 or *1.2', take: (text) => framesOfEntry(text, film.project!.rate, panel.lengthFrames) !== null && setEach(text) }
  } else if (hit?.kind === 'shot') {
    const { shot, startFrame } = film.filmStage.placeOf(hit.shotId)!
    const text = `${shot.label} ${shot.title}`.trim()
    entry.value = { label: 'Label and title of the shot', text, left: Math.min(width.value - 250, Math.max(2, xOfFrame(scale.value, startFrame))), top: STRIP_ROWS.shots.top, width: 240, hint: 'A label of up to 20 signs, then the title', take: (typed) => renameShot(shot.id, typed) }
  }
}
/** Recordings dropped on a lane begin where they are dropped. */
function onDragOver(event: DragEvent) {
  if (event.dataTransfer?.types.includes('Files') === true) event.preventDefault()
}
function onDrop(event: DragEvent) {
  const files = [...(event.dataTransfer?.files ?? [])]
  if (files.length === 0 || !files.every(isSoundFile)) return
  event.preventDefault()
  event.stopPropagation()
  const { x, y } = local(event)
  const frame = Math.min(Math.max(0, desk.lengthFrames - 1), Math.max(0, Math.round(frameOfX(scale.value, x))))
  void bring(files, y < rowsEnd(scene.value.rows) ? desk.playhead : frame, laneAt(scene.value, y)?.id ?? null)
}
function renameShot(id: string, typed: string): boolean {
  const [, label, title] = /^(\S+)\s*(.*)$/.exec(typed.trim()) ?? []
  if (label === undefined || label.length > 20 || film.project === null) return false
  return film.perform('name of shot', (f) => editShot(f.outline, film.project!.id, id, { label, title: shorten(title ?? '', 300) }))
}
const editedMarkX = computed(() => {
  const mark = timing.marks.find((each) => each.mark.id === editedMark.value)
  return mark === undefined ? null : Math.min(width.value - 380, Math.max(4, xOfFrame(scale.value, mark.frame) - 24))
})
useEventListener(window, 'pointerdown', (event) => {
  if (editedMark.value !== null && !(event.target as Element).closest('.mark-editor')) editedMark.value = null
})

defineExpose({ zoom, zoomToShot, zoomToChosen, zoomToAll: () => (view.value = null), editMark: (id: string) => (editedMark.value = id) })
</script>

<template>
  <section class="strip" aria-label="Strip">
    <header>
      <slot name="tools" />
    </header>
    <div class="lookout">
      <button class="chip" title="The whole film across the strip (Shift Z)" @click="view = null">Film</button>
      <button class="chip" title="What is chosen, or the shot, across the strip (Z)" @click="zoomToChosen">Here</button>
      <SoundBar />
      <StripOverview :scale="scale" @show="(firstFrame) => show({ ...scale, firstFrame })" />
      <button class="icon-button small" title="Zoom out (−)" aria-label="Zoom out" @click="zoom(1 / 1.5)">−</button>
      <input class="zoom" type="range" min="0" max="1" :step="1 / ZOOM_STEPS" :value="zoomShare" aria-label="Zoom of the strip" title="Zoom; Alt and the wheel zoom to the pointer" @input="(e) => zoomToShare(Number((e.target as HTMLInputElement).value))" />
      <button class="icon-button small" title="Zoom in (+)" aria-label="Zoom in" @click="zoom(1.5)">+</button>
    </div>
    <div class="rows" :style="{ height: `${heightPx}px` }">
      <div class="labels">
        <span v-for="(row, name) in shownRows" :key="name" :class="name" :title="name === 'level' && desk.selectedLevel ? `${desk.selectedLevel.name}: flags are its keys, a thick line where it moves; below, a dot where it has a drawing of its own, a bar where it holds` : undefined" :style="{ top: `${row.top}px`, height: `${row.height}px` }">
          <template v-if="name === 'ruler'"><button class="mark-button" title="A mark at the playhead (Alt M); double-click one to name it" @click="editedMark = markAt(desk.playhead)">+ Mark</button></template>
          <template v-else>{{ { ruler: '', shots: 'Shots', panels: 'Panels', cuts: 'Camera cuts', camera: `Camera ${desk.cameraAtWork?.letter ?? 'A'}`, work: 'Follow, aim', level: air.inHand !== null ? (air.inHand === 'haze' ? 'Haze' : 'Soft focus') : (desk.selectedLevel?.name ?? 'no level selected') }[name] }}</template>
        </span>
        <LaneHead v-for="(lane, i) in sound.lanes" :key="lane.id" class="lane" :lane="lane" :height="lanePlaces[i]?.height ?? 0" :style="{ top: `${lanePlaces[i]?.top ?? 0}px`, height: `${lanePlaces[i]?.height ?? 0}px` }" @carry="(dy) => laneOrder.carry(lane.id, dy)" @put="laneOrder.put(lane.id)" @leave="laneOrder.leave" />
        <i v-if="laneOrder.place.value" class="lane-place" :style="{ top: `${laneOrder.place.value.top}px` }" data-test="lane-place" />
        <span class="new-lane" :style="{ top: `${heightPx - LANES_END_PX}px`, height: `${LANES_END_PX}px` }"><button class="mark-button" title="A new lane of sound" @click="newLane(sound.lanes.length === 0 ? 'voices' : 'effects')">+ Lane</button></span>
      </div>
      <div class="stage" @dragover="onDragOver" @drop="onDrop">
        <div
          ref="pane"
          class="pane"
          :data-px-per-frame="scale.pxPerFrame"
          :data-first-frame="scale.firstFrame"
          data-test="strip"
          :style="{ cursor: (hover && CURSORS[hover]) || 'default' }"
          @pointerdown="gestures.onDown"
          @pointermove="onHover"
          @pointerleave="hover = null"
          @dblclick="onDouble"
        >
          <canvas ref="canvas" aria-hidden="true" />
          <PlayheadLine :at="() => playheadX" :figures="playheadText" :width="width" />
        </div>
        <p v-if="sound.lanes.length === 0" class="no-sound quiet" :style="{ height: `${LANES_END_PX}px` }">No sound yet: drop recordings here, or press Scratch line.</p>
        <SoundTray v-if="sound.trayOpen" />
        <StripEntry v-if="entry" :key="entry.left" v-bind="entry" @done="entry = null" />
        <MarkEditor v-if="editedMark !== null && editedMarkX !== null" :id="editedMark" :left="editedMarkX" :top="RULER.figuresPx - 2" @close="editedMark = null" />
      </div>
    </div>
  </section>
</template>

<style scoped>
.strip {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: var(--paper-1);
  overflow-x: hidden;
  overflow-y: auto;
  /* A layer of its own, which what moves beside it does not paint anew. */
  will-change: opacity;
}
header,
.lookout {
  display: flex;
  flex: none;
  align-items: center;
  gap: 6px;
  height: 36px;
  padding: 0 10px;
  border-bottom: 1px solid var(--rule);
  background: var(--paper-0);
  white-space: nowrap;
}
header {
  overflow: hidden;
}
.lookout {
  height: 24px;
  padding-right: 10px;
  background: var(--paper-1);
}
.lookout .chip {
  height: 18px;
  padding: 0 8px;
  font-size: 11.5px;
}
.zoom {
  width: 84px;
  accent-color: var(--ink);
}
.rows {
  display: flex;
  flex: none;
}
.labels {
  position: relative;
  flex: none;
  width: 116px;
  border-right: 1px solid var(--rule);
}
.labels span {
  position: absolute;
  right: 0;
  left: 10px;
  padding-top: 5px;
  border-bottom: 1px solid var(--rule);
  color: var(--ink-2);
}
.labels .level,
.labels .cuts,
.labels .work {
  padding-top: 1px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.labels .lane {
  position: absolute;
  right: 0;
  left: 0;
}
.labels .new-lane {
  border-bottom: 0;
}
.lane-place {
  position: absolute;
  right: 0;
  left: 0;
  z-index: 1;
  height: 3px;
  margin-top: -2px;
  border-radius: 2px;
  background: var(--blue);
  pointer-events: none;
}
.no-sound {
  position: absolute;
  bottom: 0;
  left: 10px;
  margin: 0;
  line-height: 24px;
  pointer-events: none;
}
.mark-button {
  padding: 2px 6px;
  border: 0;
  border-radius: 5px;
  margin-left: -6px;
  background: none;
  color: var(--ink-2);
  font: inherit;
  cursor: pointer;
}
.mark-button:hover {
  background: var(--paper-2);
  color: var(--ink);
}
.stage {
  position: relative;
  flex: 1;
  min-width: 0;
}
.pane {
  position: absolute;
  inset: 0;
  overflow: hidden;
  touch-action: none;
  user-select: none;
}
canvas {
  display: block;
  width: 100%;
  height: 100%;
}
</style>
