<script setup lang="ts">
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import LensEdges from '~/components/desk/lens/LensEdges.vue'
import NeedOutline from '~/components/desk/checks/NeedOutline.vue'
import LensGround from '~/components/desk/lens/LensGround.vue'
import ArrowLayer from '~/components/draw/ArrowLayer.vue'
import PrintNotes from '~/components/draw/PrintNotes.vue'
import SelectionLayer from '~/components/draw/SelectionLayer.vue'
import WordsLayer from '~/components/draw/WordsLayer.vue'
import { isTyping } from '~/commands/command'
import type { Surface } from '~/composables/draw/surface'
import { useArrows } from '~/composables/draw/useArrows'
import { useAreas } from '~/composables/draw/useAreas'
import { useArtUnder } from '~/composables/levels/useLevelUnder'
import { usePaper } from '~/composables/draw/usePaper'
import { usePen } from '~/composables/draw/usePen'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useSelection } from '~/composables/draw/useSelection'
import { useWords } from '~/composables/draw/useWords'
import { useFlips } from '~/composables/draw/useFlips'
import { useSheet } from '~/composables/draw/useSheet'
import { useStageCanvas } from '~/composables/view/useStageCanvas'
import { followDrag } from '~/gestures/drag'
import { followFingers } from '~/gestures/fingers'
import { useDeskStore } from '~/stores/desk'
import { useEdgesStore } from '~/stores/edges'
import { useFaceOnStore } from '~/stores/faceOn'
import { useFilmStore } from '~/stores/film'
import { usePenStore } from '~/stores/pen'
import { LiveInk } from '~/viewport/liveInk'
import { ringCursor } from '~/gestures/ringCursor'

/** The paper: the frame as the lens sees it, to draw in. How it lies is of this window only. */
const film = useFilmStore()
const desk = useDeskStore()
const pen = usePenStore()
const faceOn = useFaceOnStore()
const edges = useEdgesStore()
const artUnder = useArtUnder()
const { sheet, moods } = useSheet()
const { quality, toggle: togglePlay } = usePlayback()

const pane = useTemplateRef('pane')
const host = useTemplateRef('host')
const wrapper = useTemplateRef('wrapper')
const settled = useTemplateRef('settled')
const tip = useTemplateRef('tip')
const { width, height } = useElementSize(pane)
const paper = usePaper(width, height, quality)

let live: LiveInk | null = null
const { problem, shown, canvas, draw } = useStageCanvas(
  host,
  () => (faceOn.frame === null || width.value === 0 ? null : sheet(faceOn.frame, paper.viewBox(), !desk.playing, !desk.playing)),
  () => [faceOn.frame, film.film.drawings, width.value, height.value, quality.value, pen.paper, ...moods()],
)
watch([width, height], () => live?.resize(width.value, height.value, Math.min(2, window.devicePixelRatio || 1)))
onMounted(() => {
  live = new LiveInk(wrapper.value!, settled.value!, tip.value!)
  live.resize(width.value, height.value, Math.min(2, window.devicePixelRatio || 1))
  draw()
})
onBeforeUnmount(() => stopFlipping())

const localOf = (event: { clientX: number; clientY: number }) => {
  const box = pane.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}
const surface: Surface = {
  toFrame: (event) => paper.toFrame(localOf(event)),
  toPane: paper.toPane,
  frameWidth: () => paper.frameWidth.value,
  viewBox: paper.viewBox,
  shown,
  live: () => live,
  pane: () => pane.value,
}
const hand = usePen(surface)
const areas = useAreas(surface, hand)
const selection = useSelection(surface, hand)
const words = useWords(hand)
const arrows = useArrows(surface, hand, selection)

const spaceHeld = ref(false)
const sliding = ref(false)
let slid = false
let spaceAt = 0

function slidePaper(event: PointerEvent) {
  let [x, y] = [0, 0]
  sliding.value = true
  slid = true
  const over = () => (sliding.value = false)
  followDrag(
    event,
    {
      move: ({ dx, dy }) => {
        paper.slide(dx - x, dy - y)
        ;[x, y] = [dx, dy]
      },
      end: over,
      cancel: () => {
        paper.slide(-x, -y)
        over()
      },
    },
    0,
  )
}

function pickTone(event: PointerEvent) {
  const seen = canvas()
  if (seen === null) return
  const at = localOf(event)
  const copy = new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!
  copy.drawImage(seen, Math.round((at.x * seen.width) / width.value), Math.round((at.y * seen.height) / height.value), 1, 1, 0, 0, 1, 1)
  const [r, g, b] = copy.getImageData(0, 0, 1, 1).data
  pen.setBrush({ colour: `#${[r!, g!, b!].map((value) => value.toString(16).padStart(2, '0')).join('')}`, opacity: 1 })
  pen.tool = 'brush'
}

/** Folded open, the pen draws on whichever wall it is put down on. */
function chooseUnder(event: PointerEvent) {
  if (faceOn.openIds === null || faceOn.frame === null) return
  const { u, v } = paper.toFrame(localOf(event))
  const under = artUnder(faceOn.frame, u, v, ({ level }) => faceOn.openIds!.has(level.id))
  if (under !== null && under !== desk.selectedLevelId) desk.chooseLevel(under)
}

const fingers = followFingers(() => pane.value, {
  slide: (dx, dy) => paper.slide(dx, dy),
  zoom: (at, factor) => paper.zoomAt(localOf({ clientX: at.x, clientY: at.y }), factor),
  turn: (degrees) => paper.turn(pen.paper.flipped ? -degrees : degrees),
})
/** A contact this wide is the palm. */
const PALM_PX = 44

function onDown(event: PointerEvent) {
  if (event.pointerType === 'pen') pen.penSeen = true
  if (event.pointerType === 'touch') {
    if (event.width > PALM_PX || event.height > PALM_PX) return
    // Where a pen is used, fingers only move the paper.
    if (fingers.down(event, pen.penSeen)) return
  }
  if (words.writing.value === null) pane.value?.focus({ preventScroll: true })
  if (event.button === 1 || (event.button === 0 && spaceHeld.value)) {
    event.preventDefault()
    return slidePaper(event)
  }
  // A press beside what is written is the end of it.
  if (words.writing.value !== null) return words.keep()
  if ((event.button !== 0 && event.button !== 5) || desk.playing || faceOn.frame === null) return
  if (film.lookingAt !== null) return film.refuse(`This is the version “${film.lookingAt.name}”, to look at. Bring it back to draw in it.`)
  if (pen.silhouette || pen.flipFrame !== null) return film.refuse('Silhouettes are shown. Press S to see the drawing again, then draw.')
  chooseUnder(event)
  if (pen.tool === 'fill') return void areas.fill(event)
  if (pen.tool === 'tone') return pickTone(event)
  if (pen.tool === 'words') return words.begin(event)
  if (pen.tool === 'arrow') return arrows.begin(event)
  if (pen.tool === 'select' || pen.tool === 'lasso') return selection.begin(event)
  hand.begin(event)
}

useEventListener(
  pane,
  'wheel',
  (event: WheelEvent) => {
    event.preventDefault()
    const steps = event.deltaMode === 1 ? event.deltaY * 16 : event.deltaY || event.deltaX
    if (event.shiftKey) return paper.turn(steps > 0 ? 5 : -5)
    paper.zoomAt(localOf(event), Math.exp(-steps * (event.ctrlKey ? 0.01 : 0.0016)))
  },
  { passive: false },
)

// Space held and dragged moves the paper; tapped, it plays.
useEventListener(window, 'keydown', (event) => {
  if (event.key !== ' ' || isTyping(event.target) || event.ctrlKey || event.altKey || event.metaKey || event.shiftKey) return
  event.preventDefault()
  if (event.target instanceof HTMLButtonElement) event.target.blur()
  if (event.repeat) return
  spaceHeld.value = true
  slid = false
  spaceAt = performance.now()
})
const TAP_MS = 280
useEventListener(window, 'keyup', (event) => {
  if (event.key === ' ' && spaceHeld.value) {
    spaceHeld.value = false
    if (!slid && performance.now() - spaceAt < TAP_MS) togglePlay()
  }
  stopFlipping()
})
useEventListener(window, 'blur', () => {
  spaceHeld.value = false
  stopFlipping()
})

const FLIP_MS = 240
const flips = useFlips()
let flipTimer: ReturnType<typeof setInterval> | undefined
/** While the key is held, this and the drawing before change about: the exposure before, or the panel before. */
function startFlipping() {
  if (flipTimer !== undefined) return
  const before = flips.frameBefore()
  if (before === null) return film.refuse('This is the shot’s first panel: there is none before it to flip to.')
  pen.flipFrame = before
  flipTimer = setInterval(() => (pen.flipFrame = pen.flipFrame === null ? before : null), FLIP_MS)
}
/** While the key is held, the drawings around run through at the film's rate, over and over. */
function startRunning() {
  if (flipTimer !== undefined) return
  const frames = flips.framesAround()
  if (frames === null) return film.refuse('The level shows one drawing here, so there is nothing to flip through. Expose another in the sheet (V), or draw in the next panel.')
  const begun = performance.now()
  const show = () => (pen.flipFrame = frames.from + (Math.floor(((performance.now() - begun) / 1000) * desk.fps) % (frames.to - frames.from)))
  show()
  flipTimer = setInterval(show, 1000 / desk.fps / 2)
}
function stopFlipping() {
  clearInterval(flipTimer)
  flipTimer = undefined
  pen.flipFrame = null
}

const corners = computed(() => {
  const half = 0.5 / paper.aspect.value
  return [paper.toPane(-0.5, -half), paper.toPane(0.5, -half), paper.toPane(0.5, half), paper.toPane(-0.5, half)]
})
const outline = computed(() => `M${corners.value.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`)
const mattePath = computed(() => `M0 0H${width.value}V${height.value}H0Z${outline.value}`)
const ringPx = computed(() => (['brush', 'line', 'box', 'ellipse'].includes(pen.tool) ? pen.brush.widthFw : pen.tool === 'arrow' ? pen.arrow.widthFw : pen.tool === 'eraser' ? pen.eraserFw : 0) * paper.frameWidth.value)
const cursor = computed(() => (sliding.value ? 'grabbing' : spaceHeld.value ? 'grab' : pen.tool === 'select' || pen.tool === 'lasso' ? 'default' : pen.tool === 'words' ? 'text' : ringPx.value > 0 ? ringCursor(ringPx.value) : 'crosshair'))
defineExpose({ paper, selection, arrows, back: areas.back, startFlipping, startRunning, where: hand.where, strokes: () => hand.drawingHere()?.marks.length ?? 0 })
</script>

<template>
  <div
    ref="pane"
    class="pane"
    :class="{ dark: desk.lens.darkSurround }"
    :style="{ cursor }"
    tabindex="-1"
    aria-label="Paper"
    data-test="paper"
    @pointerdown="onDown"
    @contextmenu.prevent
  >
    <div ref="host" class="host" data-test="paper-host" />
    <div ref="wrapper" class="live" aria-hidden="true"><canvas ref="settled" /><canvas ref="tip" /></div>
    <svg class="overlay" :width="width" :height="height" aria-hidden="true">
      <path v-if="!faceOn.isFaceOn" class="matte" :d="mattePath" fill-rule="evenodd" />
      <path class="frame" :class="{ none: faceOn.isFaceOn }" :d="outline" data-test="paper-frame" />
    </svg>
    <LensEdges v-if="!desk.playing && !faceOn.isFaceOn && edges.atFrame.length > 0" :width="width" :height="height" :to-pane="paper.toPane" />
    <LensGround v-if="desk.lens.ground && !desk.playing && !faceOn.isFaceOn" :width="width" :height="height" :to-pane="paper.toPane" :frame-width="paper.frameWidth.value" />
    <NeedOutline v-if="faceOn.openIds === null" :frame="faceOn.frame" :lens="faceOn.frame?.lens ?? null" :width="width" :height="height" :to-pane="paper.toPane" />
    <PrintNotes v-if="!desk.playing && !pen.silhouette" :frame="faceOn.frame" :width="width" :height="height" :to-pane="paper.toPane" />
    <SelectionLayer v-if="!desk.playing && pen.tool !== 'arrow' && words.writing.value === null" can-write :selection="selection" :width="width" :height="height" @words="words.open" />
    <ArrowLayer v-if="!desk.playing" :arrows="arrows" :width="width" :height="height" :to-pane="paper.toPane" />
    <WordsLayer v-if="!desk.playing" :words="words" :width="width" :height="height" :to-pane="paper.toPane" />
    <p v-if="areas.work.value" class="note" role="status">{{ areas.work.value.what }}… <button class="push-button" @click="areas.work.value?.cancel()" @pointerdown.stop>Cancel</button></p>
    <p v-else-if="pen.silhouette" class="note" role="status">Silhouettes <button class="push-button" title="The drawing again (S)" @click="pen.silhouette = false" @pointerdown.stop>Show the drawing</button></p>
    <p v-else-if="faceOn.isFaceOn" class="note" role="status" data-test="face-on">{{ faceOn.openIds === null ? `${desk.selectedLevel?.name}, square on` : `Folded open around ${desk.take?.levels[[...faceOn.openIds][0]!]?.name}` }} <button class="push-button" title="As the camera sees it (Alt Q)" @click="faceOn.mode = 'picture'" @pointerdown.stop>In the picture</button></p>
    <p v-else-if="problem" class="note wrong">{{ problem }}</p>
  </div>
</template>

<style scoped>
.pane {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden;
  background: var(--surround);
  outline: none;
  touch-action: none;
  user-select: none;
}
.pane.dark {
  --surround: #35332f;
}
.host :deep(.picture) {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.live,
.live canvas,
.overlay {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.live canvas {
  inset: auto;
  top: 0;
  left: 0;
}
.matte {
  fill: var(--surround);
  fill-opacity: 0.8;
}
.frame {
  fill: none;
  stroke: #ffffff;
  stroke-width: 1.5;
}
.frame.none {
  stroke: none;
}
.note {
  position: absolute;
  top: 6px;
  left: 50%;
  margin: 0;
  padding: 3px 12px;
  border-radius: 6px;
  background: var(--paper-0);
  transform: translateX(-50%);
}
.note .push-button {
  min-height: 24px;
  padding: 0 8px;
}
.note.wrong {
  color: var(--vermilion-text);
}
</style>
