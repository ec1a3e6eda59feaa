<script setup lang="ts">
import { dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { hazeAt } from '@rubato/core/depth'
import type { Level } from '@rubato/core/document'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import { DEEPEST_FW, depthText, INDENT_PX, ladderTicks, NEAREST_FW, signedDepth, type FoldedRow, type Ladder, type ShownRow } from '~/components/desk/rack/ladder'
import { useFastening } from '~/composables/levels/useFastening'
import { useDepths, type DepthChange } from '~/composables/levels/useDepths'
import { followDrag, type DragStep } from '~/gestures/drag'
import { useAir } from '~/composables/levels/useAir'
import { useAirStore } from '~/stores/air'
import { useDeskStore } from '~/stores/desk'
import { useSpreadStore } from '~/stores/spread'

/** The scale from the lens into the set, a rung on it for each level, and threads to their rows. */
const props = defineProps<{ rows: readonly ShownRow[]; folds: readonly FoldedRow[]; ladder: Ladder; heightPx: number }>()
const desk = useDeskStore()
const depths = useDepths()
const spread = useSpreadStore()
const airStore = useAirStore()
const air = useAir()
const fastening = useFastening()

const lens = useTemplateRef('lens')
const overLens = ref(false)
let detach = () => {}
onMounted(() => {
  detach = dropTargetForElements({
    element: lens.value!,
    canDrop: ({ source }) => Array.isArray(source.data.levels),
    onDragEnter: () => (overLens.value = true),
    onDragLeave: () => (overLens.value = false),
    onDrop: ({ source }) => {
      overLens.value = false
      fastening.fasten(source.data.levels as string[], { kind: 'camera' })
    },
  })
})
onBeforeUnmount(() => detach())

/** A depth that is dragged along the ladder from where it was; Alt: fine. Near the picture plane it is that. */
function depthDrag(start: number): (step: DragStep) => number {
  const [scale, from] = [props.ladder, desk.read.pose?.depth ?? 0]
  const startY = scale.y(Math.max(NEAREST_FW, start - from))
  return ({ dy, event }) => {
    const raw = from + Math.min(DEEPEST_FW, Math.max(NEAREST_FW, scale.distance(startY + dy * (event.altKey ? 0.1 : 1))))
    return Math.abs(raw) < 0.02 ? 0 : Math.round(raw * 1000) / 1000
  }
}
/** What an arrow key makes of a depth; null for any other key. */
function depthStep(event: KeyboardEvent, depth: number): number | null {
  if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return null
  event.preventDefault()
  return Number((depth + (event.key === 'ArrowDown' ? 1 : -1) * 0.05 * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1)).toFixed(6))
}

function dragRung(down: PointerEvent, level: Level) {
  if (down.button !== 0 || desk.takeId === null) return
  down.stopPropagation()
  const [many, was] = [down.ctrlKey || down.metaKey || down.shiftKey, desk.chosenLevelIds.includes(level.id)]
  if (!was) desk.chooseLevel(level.id, down)
  const depthOf = depthDrag(desk.placeOf(level.id).depth)
  let change: DepthChange | null = null
  followDrag(down, {
    begin: () => (change = depths.begin(depths.along(level.id))),
    move: (step) => change!.update(depthOf(step)),
    end: () => change?.end(),
    cancel: () => change?.abandon(),
    click: () => was && desk.chooseLevel(level.id, many ? down : null),
  })
}

function stepDepth(event: KeyboardEvent, level: Level) {
  const depth = depthStep(event, desk.placeOf(level.id).depth)
  if (depth === null) return
  const change = depths.begin(depths.along(level.id), undefined, `depth:${level.id}`)
  if (change.update(depth)) change.end()
  else change.abandon()
}

const rungs = computed(() => [
  ...props.rows.map(({ level, depth, behind, rung: y }) => ({ level, depth, behind, y })),
  ...props.folds.flatMap(({ levels, depths: stand, rungs: ys }) => levels.map((level, i) => ({ level, depth: stand[i]!, behind: stand[i]! - (desk.read.pose?.depth ?? 0) < NEAREST_FW, y: ys[i]! }))),
])

/** Haze along the ladder, as much of it as lies over what stands there. */
const hazeBands = computed(() => {
  const { haze } = air.values.value
  if (!airStore.open || haze === null) return []
  const [from, to] = [props.ladder.y(Math.max(NEAREST_FW, haze.start)), props.heightPx - 14]
  return Array.from({ length: HAZE_BANDS }, (_, i) => {
    const y = from + ((to - from) * i) / HAZE_BANDS
    return { y, height: (to - from) / HAZE_BANDS + 0.5, colour: haze.colour, share: hazeAt(haze, props.ladder.distance(y + (to - from) / HAZE_BANDS / 2)) }
  }).filter(({ height }) => height > 0.5)
})
const HAZE_BANDS = 24
/** What is sharp, on the ladder. */
const sharp = computed(() => {
  const { focus } = air.values.value
  return !airStore.open || focus === null ? null : { distance: focus.sharp, y: props.ladder.y(Math.max(NEAREST_FW, focus.sharp)) }
})
const sharpField = air.field('focus', 'sharp distance', (distance, now) => ({ ...now, sharp: distance }))
function dragSharp(down: PointerEvent) {
  if (down.button !== 0 || sharp.value === null) return
  down.stopPropagation()
  const [scale, startY] = [props.ladder, sharp.value.y]
  followDrag(down, {
    begin: () => sharpField.begin(),
    move: ({ dy, event }) => sharpField.scrub(Math.round(Math.min(DEEPEST_FW, Math.max(NEAREST_FW, scale.distance(startY + dy * (event.altKey ? 0.1 : 1)))) * 1000) / 1000),
    end: () => sharpField.commit(),
    cancel: () => sharpField.cancel(),
  })
}
function stepSharp(event: KeyboardEvent) {
  const distance = sharp.value === null ? null : depthStep(event, sharp.value.distance)
  if (distance !== null) sharpField.set(Math.max(NEAREST_FW, distance))
}

/** The ends that levels are spread between. */
const ends = computed(() => {
  if (!spread.open || spread.form.by !== 'ends') return []
  const from = desk.read.pose?.depth ?? 0
  return (['near', 'far'] as const).map((end) => ({ end, y: props.ladder.y(Math.max(NEAREST_FW, spread.form[end] - from)), depth: spread.form[end] }))
})
function setEnd(end: 'near' | 'far', depth: number) {
  const { form } = spread
  form[end] = end === 'near' ? Math.min(depth, form.far) : Math.max(depth, form.near)
}
function dragEnd(down: PointerEvent, end: 'near' | 'far') {
  if (down.button !== 0) return
  down.stopPropagation()
  const before = spread.form[end]
  const depthOf = depthDrag(before)
  followDrag(down, {
    move: (step) => setEnd(end, depthOf(step)),
    end: () => undefined,
    cancel: () => setEnd(end, before),
  })
}
function stepEnd(event: KeyboardEvent, end: 'near' | 'far') {
  const depth = depthStep(event, spread.form[end])
  if (depth !== null) setEnd(end, depth)
}
</script>

<template>
  <div ref="lens" class="lens" :class="{ over: overLens }" title="Drop a level’s row here: it travels with the camera" data-test="rack-lens" />
  <svg class="ladder" :height="heightPx" width="100%" aria-hidden="true">
    <path class="lens-mark" d="M20 3h12v9l-6 6-6-6z" />
    <line class="rail" x1="26" x2="26" y1="20" :y2="heightPx - 14" />
    <rect v-for="band in hazeBands" :key="band.y" x="28" width="7" :y="band.y" :height="band.height" :fill="band.colour" :opacity="band.share" />
    <g v-for="tick in ladderTicks(ladder)" :key="tick">
      <line class="tick" x1="21" x2="31" :y1="ladder.y(tick)" :y2="ladder.y(tick)" />
      <text class="mono tick-text" x="17" text-anchor="end" :y="ladder.y(tick) + 3.5">{{ String(tick).replace('0.', '.') }}</text>
    </g>
    <path
      v-for="row in rows"
      :key="row.level.id"
      class="thread"
      :class="{ selected: desk.chosenLevelIds.includes(row.level.id) }"
      :d="`M32 ${row.rung} C 54 ${row.rung}, 48 ${row.top + 20}, ${70 + row.indent * INDENT_PX} ${row.top + 20}`"
    />
    <template v-for="fold in folds" :key="`fold ${fold.group}`">
      <path v-for="(rung, i) in fold.rungs" :key="fold.levels[i]!.id" class="thread" :class="{ selected: desk.chosenLevelIds.includes(fold.levels[i]!.id) }" :d="`M32 ${rung} C 54 ${rung}, 48 ${fold.top + 20}, 70 ${fold.top + 20}`" />
    </template>
    <template v-if="ends.length > 0">
      <line class="between" x1="26" x2="26" :y1="ends[0]!.y" :y2="ends[1]!.y" />
    </template>
    <template v-for="row in rows" :key="`on ${row.level.id}`">
      <path v-if="row.carrierTop !== null" class="hangs" :class="{ selected: row.level.id === desk.selectedLevelId }" :d="`M${62 + row.indent * INDENT_PX} ${row.carrierTop + 43} V${row.top + 16} q0 5 5 5 h3`" />
    </template>
  </svg>
  <button
    v-for="rung in rungs"
    :key="`rung-${rung.level.id}`"
    class="rung"
    :class="{ selected: desk.chosenLevelIds.includes(rung.level.id), behind: rung.behind }"
    :style="{ top: `${rung.y - 12}px` }"
    :data-rung="rung.level.id"
    :aria-label="`Depth of ${rung.level.name}: ${depthText(rung)}`"
    :title="`${rung.level.name}: drag to change its depth${desk.chosenLevelIds.length > 1 && desk.chosenLevelIds.includes(rung.level.id) ? '; the chosen levels go along' : ''} (Alt: fine)`"
    @pointerdown="dragRung($event, rung.level)"
    @keydown="stepDepth($event, rung.level)"
  >
    <i />
  </button>
  <button
    v-if="sharp"
    class="end sharp"
    :style="{ top: `${sharp.y - 10}px` }"
    role="slider"
    aria-orientation="vertical"
    aria-label="What is sharp"
    :aria-valuenow="sharp.distance"
    :aria-valuetext="`${sharp.distance.toFixed(2)} fw off`"
    :title="`Sharp at ${sharp.distance.toFixed(2)} fw from the lens: drag (Alt: fine)`"
    data-test="sharp-mark"
    @pointerdown="dragSharp"
    @keydown="stepSharp"
  >
    sharp
  </button>
  <button
    v-for="each in ends"
    :key="each.end"
    class="end"
    :class="each.end"
    :style="{ top: `${each.y - (each.end === 'near' ? 20 : 0)}px` }"
    role="slider"
    aria-orientation="vertical"
    :aria-label="each.end === 'near' ? 'Nearest of the spread' : 'Farthest of the spread'"
    :aria-valuenow="each.depth"
    :aria-valuetext="signedDepth(each.depth, 3)"
    :title="`${each.end === 'near' ? 'The nearest' : 'The farthest'} of the spread, ${signedDepth(each.depth, 3)}: drag (Alt: fine)`"
    :data-test="`spread-${each.end}`"
    @pointerdown="dragEnd($event, each.end)"
    @keydown="stepEnd($event, each.end)"
  >
    {{ each.end }}
  </button>
</template>

<style scoped>
.ladder {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.lens-mark {
  fill: var(--ink);
}
.rail,
.tick {
  stroke: var(--rule);
}
.tick-text {
  fill: var(--ink-2);
  font-size: 9px;
}
.thread {
  fill: none;
  stroke: var(--rule);
}
.hangs {
  fill: none;
  stroke: var(--blue);
  stroke-width: 1.5;
}
.thread.selected,
.hangs.selected {
  stroke: var(--blue);
  stroke-width: 2;
}
.lens {
  position: absolute;
  top: 0;
  left: 12px;
  width: 28px;
  height: 24px;
  border-radius: 5px;
}
.lens.over {
  outline: 2px dashed var(--blue);
}
.rung {
  position: absolute;
  left: 14px;
  width: 28px;
  height: 24px;
  padding: 0;
  border: 0;
  background: none;
  cursor: ns-resize;
  touch-action: none;
}
.rung i {
  display: block;
  width: 13px;
  height: 7px;
  margin: 8px auto 0 5px;
  border-radius: 3px;
  background: var(--ink-2);
}
.rung.selected {
  z-index: 2;
}
.rung.selected i {
  width: 17px;
  background: var(--blue);
}
.rung.behind i {
  background: var(--vermilion);
}
.between {
  stroke: var(--blue);
  stroke-width: 3;
}
.end {
  position: absolute;
  z-index: 3;
  left: 3px;
  width: 46px;
  height: 20px;
  padding: 0;
  border: 0;
  border-radius: 4px;
  background: var(--blue);
  color: var(--paper-0);
  font-size: 11px;
  cursor: ns-resize;
  touch-action: none;
}
.end.sharp {
  height: 18px;
  border: 1.5px solid var(--ink);
  background: var(--sheet);
  color: var(--ink);
}
.end.near {
  border-bottom: 2px solid var(--ink);
}
.end.far {
  border-top: 2px solid var(--ink);
}
</style>
