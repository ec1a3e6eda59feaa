<script setup lang="ts">
import { placedFramings, placedPanels, shownCell, type TakeBody } from '@rubato/core/document'
import { moveFraming, setPanelLength } from '@rubato/core/edits'
import { moveName } from '@rubato/core/moves'
import type { PlacedShot, TakeStage } from '@rubato/core/stage'
import { secondsOfFrames, timecodeOfFrame } from '@rubato/core/time'
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useArt } from '~/composables/useArt'
import { useInkColours } from '~/composables/useInkColours'
import { usePanelThumbs } from '~/composables/usePanelThumbs'
import { usePlayback } from '~/composables/usePlayback'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore, type Gesture } from '~/stores/film'
import { drawStrip } from '~/timeline/drawStrip'
import { hitStrip, type StripHit } from '~/timeline/hitStrip'
import { STRIP_HEIGHT_PX, STRIP_ROWS } from '~/timeline/stripRows'
import { fitted, frameOfX, keptInView, xOfFrame, zoomedAt, type StripScale } from '~/timeline/stripScale'
import type { StripBody, StripScene, StripShot } from '~/timeline/stripScene'

const film = useFilmStore()
const desk = useDeskStore()
const { stop } = usePlayback()
const { colours } = useInkColours()
const { thumbOf, thumbVersion } = usePanelThumbs()
const { artVersion } = useArt()

const pane = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const { width } = useElementSize(pane)
const view = shallowRef<{ pxPerFrame: number; firstFrame: number } | null>(null)
const live = shallowRef<StripScene['live']>(null)
const hover = ref<StripHit['kind'] | null>(null)

const scale = computed<StripScale>(() => {
  if (view.value === null) return fitted(0, desk.lengthFrames, width.value)
  return keptInView({ ...view.value, widthPx: width.value }, desk.lengthFrames)
})

const bodies = new WeakMap<TakeStage, Omit<StripBody, 'panels' | 'beads'>>()
/** Speeds and names of a take's moves, worked out once for each evaluation. */
function movesOf(stage: TakeStage, cameraId: string | null) {
  const known = bodies.get(stage)
  if (known !== undefined) return known
  const framings = cameraId === null ? [] : placedFramings(stage.take, cameraId)
  const speeds = new Float32Array(stage.lengthFrames)
  if (framings.length > 1) {
    const [first, last] = [framings[0]!.frame, framings.at(-1)!.frame]
    for (let frame = first; frame < Math.min(last, stage.lengthFrames - 1); frame++) speeds[frame] = stage.speedAt(frame)
  }
  const moves = framings.slice(1).map((to, i) => {
    const from = framings[i]!
    return { fromFrame: from.frame, toFrame: to.frame, name: moveName(from.framing.pose, to.framing.pose, from.framing.move) }
  })
  const made = { speeds, moves }
  bodies.set(stage, made)
  return made
}

function shotScene(placed: PlacedShot, currentPanel: string | null, selected: readonly string[]): StripShot {
  const { shot, startFrame, lengthFrames } = placed
  const takeId = shot.circledTakeId
  const stage = film.stageOf(takeId)
  let body: StripBody | null = null
  if (stage !== null) {
    const cameraId = Object.values(stage.take.cameras)[0]?.id ?? null
    const framings = cameraId === null ? [] : stage.framings(cameraId)
    body = {
      ...movesOf(stage, cameraId),
      panels: placedPanels(stage.take).map((entry) => ({
        id: entry.panel.id,
        number: entry.index + 1,
        startFrame: entry.startFrame,
        lengthFrames: entry.panel.lengthFrames,
        locked: entry.panel.lengthLocked,
        current: shot.id === desk.shotId && entry.panel.id === currentPanel,
        level: shot.id === desk.shotId ? levelIn(stage.take, entry.index) : null,
        thumb: entry.panel.lengthFrames * scale.value.pxPerFrame > 10 ? thumbOf(takeId, entry.panel.id) : null,
      })),
      beads: framings.map((entry, i) => ({
        id: entry.framing.id,
        number: i + 1,
        frame: entry.frame,
        shade: framings.length < 2 ? 1 : i / (framings.length - 1),
        selected: selected.includes(entry.framing.id) && shot.id === desk.shotId,
        locked: entry.framing.locked,
      })),
    }
  }
  return { id: shot.id, label: shot.label, title: shot.title, startFrame, lengthFrames, current: shot.id === desk.shotId, body }
}

/** What the selected level does in a panel of the shot. */
function levelIn(take: TakeBody, index: number): 'own' | 'holds' | 'nothing' | null {
  const id = desk.selectedLevelId
  if (id === null || take.levels[id] === undefined) return null
  const cell = shownCell(take, { id }, index)
  if (cell === null) return 'nothing'
  return cell.panelId === placedPanels(take)[index]!.panel.id ? 'own' : 'holds'
}

const visibleShots = computed(() => {
  const [first, last] = [scale.value.firstFrame, frameOfX(scale.value, width.value)]
  return film.filmStage.shots.filter((placed) => placed.startFrame <= last && placed.startFrame + placed.lengthFrames >= first)
})
const scene = computed<StripScene>(() => {
  void thumbVersion.value
  void film.gestureOpen
  return {
    shots: visibleShots.value.map((placed) => shotScene(placed, desk.placedPanel?.panel.id ?? null, desk.selectedFramingIds)),
    lengthFrames: desk.lengthFrames,
    framesPerSecond: desk.fps,
    timecode: (frame) => (film.project === null ? '' : timecodeOfFrame(frame, film.project.rate)),
    live: live.value,
  }
})

function draw() {
  const context = canvas.value?.getContext('2d')
  if (!context || width.value === 0) return
  const ratio = window.devicePixelRatio || 1
  const [w, h] = [Math.round(width.value * ratio), Math.round(STRIP_HEIGHT_PX * ratio)]
  if (context.canvas.width !== w || context.canvas.height !== h) Object.assign(context.canvas, { width: w, height: h })
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  drawStrip(context, scale.value, scene.value, colours.value)
}
watch(() => [scene.value, scale.value, colours.value, artVersion.value], draw, { flush: 'post' })
onMounted(() => {
  draw()
  void document.fonts?.ready.then(draw)
})

// Bodies of what is in view are fetched, so that panels and moves show.
watch(
  visibleShots,
  (shots) => {
    const wanted = shots.slice(0, 120).map((placed) => placed.shot.circledTakeId)
    void film.ensure('take', wanted).catch((error: Error) => film.refuse(`${error.message} Panels that are not loaded show grey.`))
  },
  { immediate: true },
)

const playheadX = computed(() => Math.round(xOfFrame(scale.value, desk.playhead + 0.5)))
const playheadText = computed(() => desk.timecode.slice(3))
// Playing on past the edge turns the page.
watch(playheadX, (x) => {
  if (view.value === null || width.value === 0) return
  if (x > width.value - 8 || x < 0) view.value = { ...view.value, firstFrame: desk.playhead - (width.value * 0.1) / scale.value.pxPerFrame }
})

const local = (event: { clientX: number; clientY: number }) => {
  const box = pane.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}
const hitAt = (event: PointerEvent) => hitStrip(scene.value, scale.value, local(event).x, local(event).y)

function onDown(event: PointerEvent) {
  if (event.button !== 0) return
  const hit = hitAt(event)
  if (hit === null) return
  if (hit.kind === 'panel-end') return dragPanelEnd(event, hit.shotId, hit.panelId)
  if (hit.kind === 'bead') return dragBead(event, hit.shotId, hit.framingId)
  stop()
  if (hit.kind === 'ruler' || hit.kind === 'camera') {
    desk.selectedFramingIds = []
    const scrub = (step: PointerEvent) => desk.goTo(Math.floor(frameOfX(scale.value, local(step).x)))
    const before = desk.playhead
    scrub(event)
    followDrag(event, { move: ({ event: step }) => scrub(step), end: () => undefined, cancel: () => desk.goTo(before) }, 0)
    return
  }
  desk.selectedFramingIds = []
  if (hit.kind === 'shot') desk.goToShot(hit.shotId)
  else desk.goTo(hit.startFrame)
}

function dragPanelEnd(event: PointerEvent, shotId: string, panelId: string) {
  stop()
  const placed = film.filmStage.placeOf(shotId)!
  const takeId = placed.shot.circledTakeId
  const body = film.takeOf(takeId)!
  const panel = placedPanels(body).find((entry) => entry.panel.id === panelId)!
  const start = panel.panel.lengthFrames
  const { pxPerFrame } = scale.value
  const before = desk.playhead
  view.value = { pxPerFrame, firstFrame: scale.value.firstFrame }
  let gesture: Gesture | null = null
  const rate = film.project!.rate
  const tell = (length: number) => {
    const delta = length - start
    const text = `${length} f  ${secondsOfFrames(length, rate).toFixed(2)} s${delta === 0 ? '' : `  ${delta > 0 ? '+' : '−'}${Math.abs(delta)}`}`
    live.value = { frame: placed.startFrame + panel.startFrame + length, row: 'panels', text }
  }
  followDrag(event, {
    begin: () => (gesture = film.beginGesture(`length of panel ${panel.index + 1}`)),
    move: ({ dx }) => {
      const length = Math.max(1, start + Math.round(dx / pxPerFrame))
      if (gesture!.update((f) => setPanelLength(f.takes[takeId]!, takeId, panelId, length))) tell(length)
    },
    end: () => {
      live.value = null
      gesture?.commit()
      desk.goTo(before)
    },
    cancel: () => {
      live.value = null
      gesture?.abandon()
      desk.goTo(before)
    },
    click: () => desk.goTo(placed.startFrame + panel.startFrame + start - 1),
  })
}

function dragBead(event: PointerEvent, shotId: string, framingId: string) {
  stop()
  const placed = film.filmStage.placeOf(shotId)!
  const takeId = placed.shot.circledTakeId
  const stage = film.stageOf(takeId)!
  const cameraId = stage.take.framings[framingId]!.cameraId
  const index = stage.framings(cameraId).findIndex((entry) => entry.framing.id === framingId)
  const start = stage.framings(cameraId)[index]!.frame
  const select = () => {
    desk.goTo(placed.startFrame + start)
    desk.selectedFramingIds = event.shiftKey || event.ctrlKey ? toggled(framingId) : [framingId]
  }
  let gesture: Gesture | null = null
  followDrag(event, {
    begin: () => {
      select()
      gesture = film.beginGesture(`time of framing ${index + 1}`)
    },
    move: ({ dx }) => {
      const wanted = start + Math.round(dx / scale.value.pxPerFrame)
      if (!gesture!.update((f) => moveFraming(f.takes[takeId]!, takeId, framingId, wanted))) return
      const now = film.stageOf(takeId)!.framings(cameraId)[index]!.frame
      live.value = { frame: placed.startFrame + now, row: 'camera', text: `frame ${now}${now === start ? '' : `  ${now > start ? '+' : '−'}${Math.abs(now - start)}`}` }
      desk.playhead = placed.startFrame + now
    },
    end: () => {
      live.value = null
      gesture?.commit()
    },
    cancel: () => {
      live.value = null
      gesture?.abandon()
      desk.goTo(placed.startFrame + start)
    },
    click: select,
  })
}

function toggled(id: string): readonly string[] {
  return desk.selectedFramingIds.includes(id) ? desk.selectedFramingIds.filter((other) => other !== id) : [...desk.selectedFramingIds, id]
}

function zoom(factor: number, x = width.value / 2) {
  const next = keptInView(zoomedAt(scale.value, x, factor), desk.lengthFrames)
  view.value = { pxPerFrame: next.pxPerFrame, firstFrame: next.firstFrame }
}
function zoomToShot() {
  const placed = desk.placedShot
  if (placed === null) return
  const next = fitted(placed.startFrame, placed.lengthFrames, width.value)
  view.value = { pxPerFrame: next.pxPerFrame, firstFrame: placed.startFrame - 6 / next.pxPerFrame }
}
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
    const next = keptInView({ ...scale.value, firstFrame: scale.value.firstFrame + by / scale.value.pxPerFrame }, desk.lengthFrames)
    view.value = { pxPerFrame: next.pxPerFrame, firstFrame: next.firstFrame }
  },
  { passive: false },
)
const CURSORS: Partial<Record<StripHit['kind'], string>> = { 'panel-end': 'ew-resize', bead: 'grab', panel: 'pointer', shot: 'pointer' }
function onHover(event: PointerEvent) {
  if (event.buttons === 0) hover.value = hitAt(event)?.kind ?? null
}
const sequenceTime = computed(() => {
  const sequenceId = desk.placedShot?.shot.sequenceId
  const sequence = sequenceId === undefined ? undefined : film.film.outline.sequences[sequenceId]
  if (sequence === undefined || film.project === null) return null
  const frames = film.filmStage.shots.filter((placed) => placed.shot.sequenceId === sequence.id).reduce((sum, placed) => sum + placed.lengthFrames, 0)
  const seconds = (value: number) => `${secondsOfFrames(value, film.project!.rate).toFixed(1)} s`
  return { label: sequence.label, running: seconds(frames), target: sequence.targetFrames === null ? null : seconds(sequence.targetFrames), over: sequence.targetFrames !== null && frames > sequence.targetFrames }
})

defineExpose({ zoom, zoomToShot, zoomToAll: () => (view.value = null) })
</script>

<template>
  <section class="strip" aria-label="Strip">
    <header>
      <slot name="tools" />
      <span class="grow" />
      <span v-if="sequenceTime" class="running">Sequence {{ sequenceTime.label }} — <b>{{ sequenceTime.running }}</b><template v-if="sequenceTime.target"> · target <span :class="{ over: sequenceTime.over }">{{ sequenceTime.target }}{{ sequenceTime.over ? ' (over)' : '' }}</span></template></span>
      <button class="icon-button small" title="Zoom out (−)" aria-label="Zoom out" @click="zoom(1 / 1.5)">−</button>
      <button class="icon-button small" title="Zoom in (+)" aria-label="Zoom in" @click="zoom(1.5)">+</button>
      <button class="chip" title="The shot across the strip (Z)" @click="zoomToShot">Shot</button>
      <button class="chip" title="The whole film across the strip (Shift Z)" @click="view = null">Film</button>
    </header>
    <div class="rows" :style="{ height: `${STRIP_HEIGHT_PX}px` }">
      <div class="labels">
        <span v-for="(row, name) in STRIP_ROWS" :key="name" :class="{ level: name === 'level' }" :title="name === 'level' && desk.selectedLevel ? `${desk.selectedLevel.name}: a dot where it has a drawing of its own, a bar where it holds` : undefined" :style="{ top: `${row.top}px`, height: `${row.height}px` }">{{ { ruler: '', shots: 'Shots', panels: 'Panels', camera: `Camera ${desk.camera?.letter ?? 'A'}`, level: desk.selectedLevel?.name ?? 'no level selected' }[name] }}</span>
      </div>
      <div
        ref="pane"
        class="pane"
        :data-px-per-frame="scale.pxPerFrame"
        :data-first-frame="scale.firstFrame"
        data-test="strip"
        :style="{ cursor: (hover && CURSORS[hover]) || 'default' }"
        @pointerdown="onDown"
        @pointermove="onHover"
      >
        <canvas ref="canvas" />
        <div v-show="playheadX >= -2 && playheadX <= width + 2" class="playhead" :style="{ transform: `translateX(${playheadX}px)` }"><b class="mono">{{ playheadText }}</b></div>
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
  border-top: 1px solid var(--rule);
}
header {
  display: flex;
  flex: none;
  align-items: center;
  gap: 6px;
  height: 34px;
  padding: 0 10px;
  background: var(--paper-0);
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
  overflow: hidden;
}
.grow {
  flex: 1;
}
.running {
  margin-right: 8px;
}
.over {
  color: var(--vermilion-text);
  font-weight: 600;
}
.rows {
  display: flex;
  flex: none;
}
.labels {
  position: relative;
  flex: none;
  width: 92px;
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
.labels .level {
  padding-top: 1px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.pane {
  position: relative;
  flex: 1;
  min-width: 0;
  overflow: hidden;
  touch-action: none;
  user-select: none;
}
canvas {
  display: block;
  width: 100%;
  height: 100%;
}
.playhead {
  position: absolute;
  top: 0;
  left: -1px;
  width: 2px;
  height: 100%;
  background: var(--vermilion);
  pointer-events: none;
}
.playhead b {
  position: absolute;
  top: 0;
  left: 50%;
  padding: 1px 7px;
  border-radius: 4px;
  background: var(--vermilion);
  color: #ffffff;
  font-size: 11px;
  transform: translateX(-50%);
}
</style>
