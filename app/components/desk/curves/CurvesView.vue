<script setup lang="ts">
import { editKey } from '@rubato/core/edits'
import { keyIn } from '@rubato/core/document'
import type { MoveSpec } from '@rubato/core/moves'
import { useElementSize, useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { CURVE_FIELDS, curveOf, frameOf, hitCurves, movingFields, timingFromHandle, valueOf, xOf, type Curve, type CurveField, type CurveHandle, type CurveScene } from '~/curves/curveScene'
import { drawCurves, SPEED_BAND_PX } from '~/curves/drawCurves'
import { useCameraMoves } from '~/composables/camera/useCameraMoves'
import { useThinning } from '~/composables/camera/useThinning'
import { useCurveSource } from '~/composables/view/useCurveSource'
import { useInkColours } from '~/composables/draw/useInkColours'
import { usePanels } from '~/composables/boards/usePanels'
import PlayheadLine from '~/components/desk/strip/PlayheadLine.vue'
import { vFigures } from '~/directives/figures'
import { followDrag } from '~/gestures/drag'
import { drawTold } from '~/plan/drawSet'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** Every value of the camera, or of the level in hand, over the shot's time, in one graph. */
const film = useFilmStore()
const desk = useDeskStore()
const { colours } = useInkColours()
const { thin } = useCameraMoves()
const { go } = usePanels()
const source = useCurveSource()
const canvas = ref<HTMLCanvasElement | null>(null)
const pane = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(pane)
const live = ref<string | null>(null)
/** Values the artist wants to see, or not, whatever moves. */
const wished = ref<Partial<Record<CurveField, boolean>>>({})
const active = ref<CurveField>('x')
const tolerancePx = useLocalStorage('rubato.thinPx', 0.5)
const thinning = ref(false)
const frozen = shallowRef<ReadonlyMap<CurveField, Curve['range']> | null>(null)

const isEmpty = computed(() => source.value.keys.length === 0 && source.value.worked.length === 0)
const shown = computed(() => {
  const { keys, fields, worked } = source.value
  const moving = movingFields(keys, fields)
  return fields.filter((field) => wished.value[field] ?? (worked.includes(field) || (moving.includes(field) && (worked.length === 0 || moving.length > 1 || keys.length > 1))))
})
watch(shown, (now) => !now.includes(active.value) && now[0] !== undefined && (active.value = now[0]), { immediate: true })
watch([() => desk.takeId, () => source.value.name], () => ((wished.value = {}), (thinning.value = false)))
const bumps = computed(() => (frozen.value !== null ? [] : source.value.bumps()))
const { found } = useThinning(thinning, tolerancePx)

const scene = computed<CurveScene>(() => {
  const { values, keys, speeds, selectedIds, beside, worked } = source.value
  const curves = shown.value.map((field) => curveOf(values, field, worked.includes(field) ? beside : null)).map((curve) => ({ ...curve, range: frozen.value?.get(curve.field) ?? curve.range }))
  return {
    area: { left: 46, top: 18, width: Math.max(20, width.value - 58), height: Math.max(20, height.value - 26 - SPEED_BAND_PX) },
    lengthFrames: values.length,
    curves,
    keys,
    speeds,
    bumps: bumps.value,
    going: new Set(found.value?.remove.map(({ id }) => id) ?? []),
    selectedIds,
    active: active.value,
  }
})
function draw() {
  const context = canvas.value?.getContext('2d')
  if (!context || width.value === 0) return
  const ratio = window.devicePixelRatio || 1
  const [w, h] = [Math.round(width.value * ratio), Math.round(height.value * ratio)]
  if (context.canvas.width !== w || context.canvas.height !== h) Object.assign(context.canvas, { width: w, height: h })
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  if (isEmpty.value) return context.clearRect(0, 0, width.value, height.value)
  drawCurves(context, scene.value, width.value, height.value, desk.fps, colours.value)
  if (live.value !== null) drawTold(context, live.value, height.value, colours.value)
}
watch(() => [scene.value, colours.value, live.value, height.value], draw, { flush: 'post' })
const playheadX = () => xOf(scene.value, desk.shotFrame)

const local = (event: { clientX: number; clientY: number }) => {
  const box = pane.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}
const start = () => desk.placedShot?.startFrame ?? 0
const told = (field: CurveField, value: number) => `${CURVE_FIELDS[field].name} ${value.toFixed(CURVE_FIELDS[field].decimals)} ${CURVE_FIELDS[field].unit}`

function onDown(event: PointerEvent) {
  if (event.button !== 0 || desk.playing || isEmpty.value) return
  const at = local(event)
  const hit = hitCurves(scene.value, at.x, at.y)
  if (hit.kind === 'curve') return void (active.value = hit.field)
  if (hit.kind === 'bead') return dragBead(event, hit.keyId, hit.field)
  if (hit.kind === 'handle') return dragHandle(event, hit.handle)
  desk.chooseNoKeys()
  scrub(event)
}

function scrub(event: PointerEvent) {
  const before = desk.playhead
  const to = (step: PointerEvent) => go(start() + Math.round(Math.min(scene.value.lengthFrames - 1, Math.max(0, frameOf(scene.value, local(step).x)))))
  to(event)
  followDrag(event, { move: ({ event: step }) => to(step), end: () => undefined, cancel: () => go(before) }, 0)
}

function begin(label: string): Gesture {
  frozen.value = new Map(scene.value.curves.map(({ field, range }) => [field, range]))
  return film.beginGesture(label)
}
function over() {
  frozen.value = null
  live.value = null
}

/** Up and down changes the value, along changes the time: whichever the hand sets out for. */
function dragBead(event: PointerEvent, keyId: string, field: CurveField) {
  const from = source.value
  const entry = from.keys.find((key) => key.id === keyId)
  if (desk.takeId === null || entry === undefined) return
  active.value = field
  const many = event.shiftKey || event.ctrlKey || event.metaKey
  const choose = () => {
    from.choose(!many ? [keyId] : from.selectedIds.includes(keyId) ? from.selectedIds.filter((id) => id !== keyId) : [...from.selectedIds, keyId])
    if (!many) go(start() + entry.frame)
  }
  const ids = from.selectedIds.includes(keyId) ? from.selectedIds : [keyId]
  let gesture: Gesture | null = null
  let way: 'time' | 'value' | null = null
  const { range } = scene.value.curves.find((curve) => curve.field === field)!
  const { area } = scene.value
  followDrag(event, {
    begin: () => {
      if (!from.selectedIds.includes(keyId)) from.choose([keyId])
      gesture = begin(ids.length === 1 ? `${CURVE_FIELDS[field].name} of a ${from.what}` : `${from.what}s`)
    },
    move: ({ dx, dy }) => {
      way ??= Math.abs(dx) > Math.abs(dy) ? 'time' : 'value'
      if (way === 'time') {
        gesture!.update(from.retime(ids, { kind: 'shift', byFrames: Math.round((dx / area.width) * (scene.value.lengthFrames - 1)) }))
        live.value = `frame ${source.value.keys.find((key) => key.id === keyId)!.frame}`
        return
      }
      gesture!.update(from.shift(ids, field, valueOf(area, range, dy) - valueOf(area, range, 0)))
      live.value = told(field, source.value.keys.find((key) => key.id === keyId)!.numbers[field]!)
    },
    end: () => (gesture?.commit(), over()),
    cancel: () => (gesture?.abandon(), over()),
    click: choose,
  })
}

function dragHandle(event: PointerEvent, handle: CurveHandle) {
  const takeId = desk.takeId
  if (takeId === null) return
  let gesture: Gesture | null = null
  // As it stood when the hand took hold of it.
  const base = scene.value
  followDrag(event, {
    begin: () => (gesture = begin('timing curve')),
    move: ({ event: step }) => {
      const at = local(step)
      const timing = timingFromHandle(base, handle, at.x, at.y)
      if (timing === null) return
      gesture!.update((f) => {
        const { move } = keyIn(f.takes[takeId]!, handle.keyId)!.record
        return editKey(f.takes[takeId]!, takeId, handle.keyId, { move: { ...move, timing } as MoveSpec })
      })
      live.value = 'custom timing'
    },
    end: () => (gesture?.commit(), over()),
    cancel: () => (gesture?.abandon(), over()),
  })
}

const chosenOne = computed(() => (source.value.selectedIds.length === 1 ? (source.value.keys.find(({ id }) => id === source.value.selectedIds[0]) ?? null) : null))
function setFrame(frame: number) {
  const entry = chosenOne.value
  if (entry !== null) film.perform(`time of a ${source.value.what}`, source.value.retime([entry.id], { kind: 'shift', byFrames: Math.round(frame) - entry.frame }))
}
function setValue(value: number) {
  const entry = chosenOne.value
  if (entry !== null && entry.numbers[active.value] !== undefined) film.perform(`${CURVE_FIELDS[active.value].name} of a ${source.value.what}`, source.value.set(entry.id, active.value, value))
}
const values = computed(() => Object.fromEntries(source.value.fields.map((field) => [field, source.value.read?.[field]?.toFixed(CURVE_FIELDS[field].decimals).replace('-', '−') ?? ''])))
function press(field: CurveField, event: MouseEvent) {
  if (event.altKey || (active.value === field && shown.value.includes(field) && shown.value.length > 1)) wished.value = { ...wished.value, [field]: !shown.value.includes(field) }
  else {
    if (!shown.value.includes(field)) wished.value = { ...wished.value, [field]: true }
    active.value = field
  }
}
function nextBump() {
  const next = bumps.value.find(({ frame }) => frame > desk.shotFrame) ?? bumps.value[0]
  if (next === undefined) return
  go(start() + next.frame)
  if (!shown.value.includes(next.field)) wished.value = { ...wished.value, [next.field]: true }
  active.value = next.field
}
function takeOut() {
  if (found.value !== null) thin(found.value)
  thinning.value = false
}
</script>

<template>
  <section class="curves" aria-label="Curves">
    <div class="fields" role="group" aria-label="Values">
      <button v-for="field in source.fields" :key="field" class="chip" :class="{ active: field === active && shown.includes(field), off: !shown.includes(field) }" :aria-pressed="shown.includes(field)" :title="`${CURVE_FIELDS[field].name}: click to take it in hand; again to hide it`" @click="press(field, $event)">
        <svg width="16" height="6" aria-hidden="true"><line x1="0" x2="16" y1="3" y2="3" :stroke-dasharray="CURVE_FIELDS[field].dash.join(' ')" /></svg>
        {{ CURVE_FIELDS[field].name }} <span v-figures="values[field] ?? ''" class="mono" />
      </button>
    </div>
    <div ref="pane" class="pane" @pointerdown="onDown">
      <canvas ref="canvas" data-test="curves" :data-active="active" />
      <PlayheadLine v-if="!isEmpty" :at="playheadX" />
      <p v-if="isEmpty && source.what === 'key'" class="empty">{{ source.name }} has no key yet. Key it (Q), or pull a travel out of it with W held: what changes is drawn here.</p>
      <p v-else-if="isEmpty" class="empty">No framing yet. Key one (Q), move the playhead, frame again and key: what changes is drawn here.</p>
    </div>
    <footer>
      <template v-if="chosenOne">
        <NumberField label="frame" unit="f" :model-value="chosenOne.frame" :step="1" :min="0" :max="scene.lengthFrames - 1" :decimals="0" data-test="curve-frame" @set="setFrame" @scrub="() => undefined" />
        <NumberField :label="CURVE_FIELDS[active].name" :unit="CURVE_FIELDS[active].unit" v-if="chosenOne.numbers[active] !== undefined" :model-value="chosenOne.numbers[active]!" :step="active === 'focalLengthMm' ? 1 : active.endsWith('Degrees') ? 0.5 : 0.01" :decimals="CURVE_FIELDS[active].decimals" data-test="curve-value" @set="setValue" @scrub="() => undefined" />
      </template>
      <span v-else class="quiet">{{ source.selectedIds.length > 1 ? `${source.selectedIds.length} ${source.what}s chosen` : `Choose a bead of ${source.name}` }}</span>
      <span class="grow" />
      <template v-if="thinning">
        <NumberField label="within" unit="px" :model-value="tolerancePx" :step="0.1" :min="0" :max="100" :decimals="1" data-test="thin-px" @set="(v) => (tolerancePx = v)" @scrub="(v) => (tolerancePx = v)" />
        <span v-if="found" class="quiet" role="status" data-test="thin-found">{{ found.remove.length === 0 ? `every ${source.what} is needed` : `${found.remove.length} of ${source.keys.length} crossed out; ${found.mostPx.toFixed(2)} px at most` }}</span>
        <span v-else class="quiet" role="status">looking…</span>
        <button class="push-button strong" :disabled="!found || found.remove.length === 0" @click="takeOut">Take out</button>
        <button class="push-button" @click="thinning = false">Cancel</button>
      </template>
      <template v-else>
        <button class="chip" :class="{ wrong: bumps.length > 0 }" :disabled="bumps.length === 0" title="Where a value turns back on itself in a move; click for the next" data-test="bumps" @click="nextBump">{{ bumps.length === 1 ? '1 bump' : `${bumps.length} bumps` }}</button>
        <button class="push-button" :disabled="source.keys.length < 2" :title="`Take out ${source.what}s that change nothing; shown first`" @click="thinning = true">Thin…</button>
      </template>
    </footer>
  </section>
</template>

<style scoped>
.curves {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-width: 0;
  background: var(--paper-1);
  container-type: inline-size;
}
@container (max-width: 430px) {
  .curves .fields {
    flex-wrap: nowrap;
    overflow: auto hidden;
    scrollbar-width: none;
  }
  .curves .fields .chip {
    flex: none;
    min-width: 30px;
    padding: 0 6px;
  }
  .fields svg,
  .fields .mono {
    display: none;
  }
}
.fields,
footer {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px;
  padding: 4px 6px;
}
.fields line {
  stroke: currentcolor;
  stroke-width: 1.6;
}
.chip.off {
  opacity: 0.6;
  background: none;
}
.fields .chip[aria-pressed='true'] {
  border-color: transparent;
  background: var(--paper-2);
  color: var(--ink-2);
}
.fields .chip.active {
  border-color: var(--blue);
  background: var(--blue-wash);
  color: var(--blue);
}
.pane {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden;
  touch-action: none;
}
canvas {
  display: block;
  width: 100%;
  height: 100%;
}
.empty {
  position: absolute;
  inset: 30% 12% auto;
  margin: 0;
  color: var(--ink-2);
  text-align: center;
  pointer-events: none;
}
.grow {
  flex: 1;
}
footer :deep(.number-field) {
  width: 118px;
}
</style>
