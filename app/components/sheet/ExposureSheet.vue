<script setup lang="ts">
import { endRun, exposeFrames, runAt, type Shown } from '@rubato/core/edits'
import { namedDrawings, pieceOf, showsNothing, shownAt, shownOver } from '@rubato/core/document'
import { useElementSize } from '@vueuse/core'
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import SheetDrawings from '~/components/sheet/SheetDrawings.vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import { useInkColours } from '~/composables/draw/useInkColours'
import { useExposures } from '~/composables/draw/useExposures'
import { useSheetScene } from '~/composables/draw/useSheetScene'
import { drawExposures, endHandle } from '~/exposures/drawExposures'
import { contentHeight, contentWidth, frameOfY, HEAD_PX, hitSheet, ROW_PX, scrolledTo, type SheetHit, type SheetScale } from '~/exposures/sheetScale'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'
import { useSheetStore } from '~/stores/sheet'

/** The sheet of exposures: frames down, levels across; drawings typed, dragged longer, repeated. */
const film = useFilmStore()
const desk = useDeskStore()
const sheet = useSheetStore()
const exposures = useExposures()
const { colours } = useInkColours()
const pane = useTemplateRef('pane')
const canvas = useTemplateRef('canvas')
const picker = useTemplateRef('picker')
const { width, height } = useElementSize(pane)
const scroll = ref({ top: 0, left: 0 })
/** Where an end that is dragged is now. */
const endAt = ref<number | null>(null)
const { scene, frames, columns, waves, selectedColumn } = useSheetScene(endAt)
const scale = computed<SheetScale>(() => ({ widthPx: width.value, heightPx: height.value, scrollTop: scroll.value.top, scrollLeft: scroll.value.left, frames: frames.value, columns: columns.value.length }))

function draw() {
  const context = canvas.value?.getContext('2d')
  if (!context || width.value === 0) return
  const ratio = Math.min(2, window.devicePixelRatio || 1)
  const [w, h] = [Math.round(width.value * ratio), Math.round(height.value * ratio)]
  if (context.canvas.width !== w || context.canvas.height !== h) Object.assign(context.canvas, { width: w, height: h })
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  drawExposures(context, scale.value, scene.value, colours.value)
}
watch([scale, scene, colours, waves], draw, { flush: 'post' })
onMounted(draw)

function onScroll() {
  // The last scroll may be told when the sheet is gone.
  const element = pane.value
  if (element === null) return
  scroll.value = { top: element.scrollTop, left: element.scrollLeft }
}
function reveal(frame: number, column = Math.max(0, selectedColumn.value)) {
  const { top, left } = scrolledTo(scale.value, column, frame)
  pane.value?.scrollTo({ top, left })
}
watch(() => desk.shotFrame, (frame) => reveal(frame))
watch(() => desk.takeId, () => {
  sheet.span = null
  sheet.typed = null
})
watch(() => desk.selectedLevelId, () => (sheet.typed = null))
onMounted(() => {
  reveal(desk.shotFrame)
  if (sheet.span === null) choose(desk.shotFrame)
  pane.value?.focus()
})

function choose(frame: number, anchor = frame) {
  sheet.typed = null
  sheet.span = { from: Math.min(frame, anchor), to: Math.max(frame, anchor) + 1, cursor: frame }
}
const goTo = (frame: number) => desk.goTo((desk.placedShot?.startFrame ?? 0) + Math.min(frames.value - 1, Math.max(0, frame)))

const local = (event: { clientX: number; clientY: number }) => {
  const box = pane.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}
function hit(event: PointerEvent): SheetHit | null {
  const { x, y } = local(event)
  const { end } = scene.value
  return hitSheet(scale.value, x, y, end === null ? null : endHandle(scale.value, end))
}
const cursor = ref('default')
function onHover(event: PointerEvent) {
  if (event.buttons !== 0) return
  const found = hit(event)
  cursor.value = found?.kind === 'end' ? 'ns-resize' : found?.kind === 'cell' ? 'cell' : 'default'
}

function onDown(event: PointerEvent) {
  // The scroll bars are the browser's.
  if (event.button !== 0 || event.offsetX > pane.value!.clientWidth + pane.value!.scrollLeft) return
  pane.value!.focus({ preventScroll: true })
  const found = hit(event)
  if (found === null) return
  event.preventDefault()
  if (found.kind === 'end') return dragEnd(event)
  if (found.kind === 'frame') {
    goTo(found.frame)
    const to = (step: PointerEvent) => goTo(frameOfY(scale.value, local(step).y))
    return followDrag(event, { move: ({ event: step }) => to(step), end: () => undefined, cancel: () => undefined }, 0)
  }
  const { id } = columns.value[found.column]!
  if (desk.selectedLevelId !== id) desk.chooseLevel(id)
  if (found.kind === 'head') return
  const anchor = event.shiftKey && sheet.span !== null ? (sheet.span.cursor === sheet.span.from ? sheet.span.to - 1 : sheet.span.from) : found.frame
  choose(found.frame, anchor)
  followDrag(event, {
    move: ({ event: step }) => choose(frameOfY(scale.value, local(step).y), anchor),
    end: () => sheet.span !== null && goTo(sheet.span.from),
    cancel: () => undefined,
    click: () => goTo(found.frame),
  })
}

/** One frame chosen: its run is ended elsewhere. Several: they go on, over and over, up to there. */
function dragEnd(event: PointerEvent) {
  const [takeId, level, span, take] = [desk.takeId, desk.selectedLevel, sheet.span, desk.take]
  if (takeId === null || level === null || span === null || take === null) return
  const fills = span.to - span.from > 1
  const run = runAt(take, level.id, span.from)
  const pattern = shownOver(take, level.id, span.from, span.to - span.from)
  let gesture: Gesture | null = null
  const close = (how: 'commit' | 'abandon') => {
    gesture?.[how]()
    endAt.value = null
  }
  followDrag(event, {
    begin: () => (gesture = film.beginGesture(fills ? `repeat ${level.name} from f ${span.from}` : `length of a drawing of ${level.name}`)),
    move: ({ event: step }) => {
      const { y } = local(step)
      const to = Math.max(span.from + 1, Math.min(frames.value, Math.round((y - HEAD_PX + scroll.value.top) / ROW_PX)))
      endAt.value = to
      gesture!.update((f) => {
        const now = f.takes[takeId]!
        if (!fills) return endRun(now, takeId, level.id, run.from, to, step.shiftKey)
        return exposeFrames(now, takeId, level.id, span.from, Array.from({ length: Math.max(pattern.length, to - span.from) }, (_, i): Shown => pattern[i % pattern.length]!))
      })
    },
    end: () => close('commit'),
    cancel: () => close('abandon'),
  })
}

const cursorFrame = computed(() => sheet.span?.cursor ?? desk.shotFrame)
function step(by: number, extends_: boolean) {
  const frame = Math.min(frames.value - 1, Math.max(0, cursorFrame.value + by))
  const { span } = sheet
  choose(frame, extends_ && span !== null ? (span.cursor === span.from ? span.to - 1 : span.from) : frame)
  if (!extends_) goTo(frame)
  reveal(frame)
}
function across(by: number) {
  const next = columns.value[Math.min(columns.value.length - 1, Math.max(0, selectedColumn.value + by))]
  if (next === undefined) return
  desk.chooseLevel(next.id)
  reveal(cursorFrame.value, columns.value.indexOf(next))
}
/** What was typed is exposed, and the cursor goes on by as many frames as each lasts. */
function commit(): boolean {
  const { typed, span } = sheet
  if (typed === null || span === null) return true
  if (!exposures.exposeNamed(typed)) return false
  sheet.typed = null
  return true
}

const TYPED = /^[\p{L}\p{N}]$/u
function onKey(event: KeyboardEvent) {
  const { key, ctrlKey, metaKey, altKey, shiftKey } = event
  const done = (act: () => void) => {
    act()
    event.preventDefault()
    event.stopPropagation()
  }
  if (sheet.typed !== null) {
    if (key === 'Escape') return done(() => (sheet.typed = null))
    if (key === 'Backspace') return done(() => (sheet.typed = sheet.typed!.length > 1 ? sheet.typed!.slice(0, -1) : null))
    if (key === 'Enter' || key === 'ArrowDown' || key === 'Tab') return done(() => commit() && step(sheet.span!.to - sheet.span!.from > 1 ? sheet.span!.to - cursorFrame.value : sheet.each, false))
  }
  if (ctrlKey || metaKey) {
    const act = { c: exposures.copy, x: () => exposures.copy() && exposures.hold(), v: exposures.paste, a: () => (sheet.span = { from: 0, to: frames.value, cursor: 0 }) }[key.toLowerCase()]
    return act === undefined || shiftKey || altKey ? undefined : done(() => void act())
  }
  const typing = sheet.typed !== null
  if (altKey) return key === 'ArrowUp' || key === 'ArrowDown' ? done(() => exposures.shift(key === 'ArrowUp' ? -1 : 1)) : undefined
  const act: (() => void) | undefined = {
    ArrowDown: () => step(1, shiftKey),
    ArrowUp: () => step(-1, shiftKey),
    ArrowRight: () => across(1),
    ArrowLeft: () => across(-1),
    Enter: () => step(sheet.each, false),
    Delete: () => (shiftKey ? exposures.cutOut() : exposures.hold()),
    Backspace: () => exposures.hold(),
    Insert: () => exposures.insert(),
  }[key]
  if (act !== undefined) return done(() => (typing && commit(), act()))
  // Letters that are commands stay commands until a drawing is being typed; digits begin one.
  if (TYPED.test(key) && (typing || /\d/.test(key) || (shiftKey && isName(key))) && (sheet.typed?.length ?? 0) < 12) done(() => (sheet.typed = (sheet.typed ?? '') + key))
}
/** A drawing of the level begins so: capital letters name drawings. */
const isName = (key: string) => desk.take !== null && desk.selectedLevelId !== null && namedDrawings(desk.take, desk.selectedLevelId).some(({ name }) => name.toLowerCase().startsWith(key.toLowerCase()))

const told = computed(() => {
  const [take, level] = [desk.take, desk.selectedLevel]
  if (take === null || level === null) return ''
  const cell = shownAt(take, level.id, cursorFrame.value)
  const name = cell === null ? 'nothing' : `drawing ${namedDrawings(take, level.id).find((each) => each.drawingId === cell.drawingId)?.name ?? ''}`
  return `${level.name}, frame ${cursorFrame.value}: ${name}`
})
const EACH = ([1, 2, 3, 4] as const).map((each) => ({ id: String(each), name: `${each}s`, title: `Each drawing ${each === 1 ? 'one frame' : `${each} frames`}: of what is chosen, and of what is typed next` }))
const where = computed(() => `shot ${desk.placedShot?.shot.label ?? ''} · panel ${(desk.placedPanel?.index ?? 0) + 1} of ${scene.value.panels.length}`)
/** What is pressed beside the sheet is done in it: typing goes on there. */
function takeUp(event: MouseEvent) {
  const pressed = event.target as HTMLElement
  if (pressed.closest('button') !== null && !(document.activeElement instanceof HTMLInputElement)) pane.value?.focus({ preventScroll: true })
}
function onFile(event: Event) {
  const field = event.target as HTMLInputElement
  const [file] = field.files ?? []
  if (file !== undefined) void exposures.bring(file)
  field.value = ''
}
</script>

<template>
  <div class="exposures" @click="takeUp">
    <header role="toolbar" aria-label="Exposures">
      <slot />
      <span class="quiet where">{{ where }}</span>
      <ChoiceRow label="Each drawing on" :choices="EACH" :model-value="String(sheet.each)" @update:model-value="(id) => exposures.setEach(Number(id) as 1 | 2 | 3 | 4)" />
      <button class="push-button" title="What is chosen, over and over to the panel’s end (or drag its dot)" @click="exposures.repeat">Repeat</button>
      <button class="push-button" title="There and back, over and over to the panel’s end" @click="exposures.backAndForth">There and back</button>
      <button class="push-button" title="The last first" @click="exposures.reverse">Reverse</button>
      <button class="push-button" title="In an order of chance to the panel’s end, none twice running" @click="exposures.shuffle">Shuffle</button>
      <span class="gap" />
      <button class="push-button" title="Nothing is shown over what is chosen (type 0)" @click="exposures.expose(null)">Blank</button>
      <button class="push-button" title="What came before is held over what is chosen (Delete)" @click="exposures.hold">Hold</button>
      <button class="push-button" title="Put in as many frames as are chosen, on this level alone (Insert)" @click="exposures.insert">Insert</button>
      <button class="push-button" title="Take the chosen frames out, on this level alone (Shift Delete)" @click="exposures.cutOut">Take out</button>
      <span class="gap" />
      <button class="push-button" title="Read exposures from CSV: frame, level, drawing. A wrong row is named, and nothing is taken" @click="picker?.click()">In…</button>
      <button class="push-button" title="Write the shot’s exposures as CSV: frame, level, drawing" @click="exposures.out">Out</button>
      <input ref="picker" type="file" accept=".csv,text/csv,text/plain" hidden data-test="sheet-file" @change="onFile" />
    </header>
    <div class="body">
      <div class="area">
        <canvas ref="canvas" :style="{ width: `${width}px`, height: `${height}px` }" aria-hidden="true" />
        <div
          ref="pane"
          class="pane"
          role="grid"
          tabindex="0"
          aria-label="Sheet: frames down, levels across. Type a drawing’s name and Enter; arrows move, Shift chooses more; Delete holds, 0 blanks; Alt with arrows shifts"
          data-test="exposure-sheet"
          :data-rows="frames"
          :style="{ cursor }"
          @scroll="onScroll"
          @pointerdown="onDown"
          @pointermove="onHover"
          @keydown="onKey"
          @blur="sheet.typed = null"
        >
          <div class="content" :style="{ width: `${contentWidth(columns.length)}px`, height: `${contentHeight(frames)}px` }" />
        </div>
        <p v-if="columns.length === 0" class="empty">This shot has no level to expose. Go to the paper and draw: the first stroke makes one.</p>
        <span class="told" role="status">{{ told }}</span>
      </div>
      <SheetDrawings v-if="desk.selectedLevel && !showsNothing(desk.selectedLevel) && pieceOf(desk.selectedLevel.id) === null" :level="desk.selectedLevel" />
    </div>
  </div>
</template>

<style scoped>
.exposures {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-width: 0;
}
header {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  align-items: center;
  gap: 5px;
  min-height: 38px;
  padding: 4px 10px;
  background: var(--paper-0);
  white-space: nowrap;
}
header .push-button {
  padding: 3px 8px;
}
.where {
  margin-right: 6px;
}
.gap {
  width: 8px;
}
.body {
  display: flex;
  flex: 1;
  min-height: 0;
}
.area {
  position: relative;
  flex: 1;
  min-width: 0;
  border-top: 1px solid var(--rule);
}
canvas {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.pane {
  position: absolute;
  inset: 0;
  overflow: auto;
  touch-action: pan-x pan-y;
}
.pane:focus-visible {
  outline: 2px solid var(--blue);
  outline-offset: -2px;
}
.content {
  pointer-events: none;
}
.empty {
  position: absolute;
  top: 80px;
  right: 20px;
  left: 20px;
  color: var(--ink-2);
  text-align: center;
}
.told {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
</style>
