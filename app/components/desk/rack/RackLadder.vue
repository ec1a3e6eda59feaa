<script setup lang="ts">
import { dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import type { Level } from '@rubato/core/document'
import { onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import { DEEPEST_FW, depthText, INDENT_PX, ladderTicks, NEAREST_FW, type Ladder, type LiveDepth, type ShownRow } from '~/components/desk/rack/ladder'
import { useFastening } from '~/composables/levels/useFastening'
import { useLevelFields, type DepthChange } from '~/composables/levels/useLevelFields'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'

/** The scale from the lens into the set, a rung on it for each level, and threads to their rows. */
const props = defineProps<{ rows: readonly ShownRow[]; ladder: Ladder; heightPx: number }>()
const emit = defineEmits<{ depth: [told: LiveDepth | null] }>()
const desk = useDeskStore()
const fields = useLevelFields()
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

function dragRung(down: PointerEvent, level: Level) {
  if (down.button !== 0 || desk.takeId === null) return
  down.stopPropagation()
  desk.selectedLevelId = level.id
  const scale = props.ladder
  const from = desk.read.pose?.depth ?? 0
  const startY = scale.y(Math.max(NEAREST_FW, desk.placeOf(level.id).depth - from))
  let change: DepthChange | null = null
  followDrag(down, {
    begin: () => (change = fields.beginDepth(level)),
    move: ({ dy, event }) => {
      const fine = event.altKey ? 0.1 : 1
      const raw = from + Math.min(DEEPEST_FW, Math.max(NEAREST_FW, scale.distance(startY + dy * fine)))
      const depth = Math.abs(raw) < 0.02 ? 0 : Math.round(raw * 1000) / 1000
      if (change!.update(depth)) emit('depth', { id: level.id, depth })
    },
    end: () => {
      change?.end()
      emit('depth', null)
    },
    cancel: () => {
      change?.abandon()
      emit('depth', null)
    },
  })
}

function stepDepth(event: KeyboardEvent, level: Level) {
  if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
  event.preventDefault()
  const by = (event.key === 'ArrowDown' ? 1 : -1) * 0.05 * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1)
  fields.depth(level).set(Number((desk.placeOf(level.id).depth + by).toFixed(6)))
}
</script>

<template>
  <div ref="lens" class="lens" :class="{ over: overLens }" title="Drop a level’s row here: it travels with the camera" data-test="rack-lens" />
  <svg class="ladder" :height="heightPx" width="100%" aria-hidden="true">
    <path class="lens-mark" d="M20 3h12v9l-6 6-6-6z" />
    <line class="rail" x1="26" x2="26" y1="20" :y2="heightPx - 14" />
    <g v-for="tick in ladderTicks(ladder)" :key="tick">
      <line class="tick" x1="21" x2="31" :y1="ladder.y(tick)" :y2="ladder.y(tick)" />
      <text class="mono tick-text" x="17" text-anchor="end" :y="ladder.y(tick) + 3.5">{{ String(tick).replace('0.', '.') }}</text>
    </g>
    <path
      v-for="row in rows"
      :key="row.level.id"
      class="thread"
      :class="{ selected: row.level.id === desk.selectedLevelId }"
      :d="`M32 ${row.rung} C 54 ${row.rung}, 48 ${row.top + 20}, ${70 + row.indent * INDENT_PX} ${row.top + 20}`"
    />
    <template v-for="row in rows" :key="`on ${row.level.id}`">
      <path v-if="row.carrierTop !== null" class="hangs" :class="{ selected: row.level.id === desk.selectedLevelId }" :d="`M${62 + row.indent * INDENT_PX} ${row.carrierTop + 43} V${row.top + 16} q0 5 5 5 h3`" />
    </template>
  </svg>
  <button
    v-for="row in rows"
    :key="`rung-${row.level.id}`"
    class="rung"
    :class="{ selected: row.level.id === desk.selectedLevelId, behind: row.behind }"
    :style="{ top: `${row.rung - 12}px` }"
    :data-rung="row.level.id"
    :aria-label="`Depth of ${row.level.name}: ${depthText(row)}`"
    :title="`${row.level.name}: drag to change its depth`"
    @pointerdown="dragRung($event, row.level)"
    @keydown="stepDepth($event, row.level)"
  >
    <i />
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
</style>
