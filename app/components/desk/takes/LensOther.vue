<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useTakePicture } from '~/composables/view/useTakePicture'
import { followDrag } from '~/gestures/drag'
import { useTakesStore } from '~/stores/takes'
import type { ViewBox } from '~/viewport/composition'

/** The other take over the lens view: all of it while the key is held, or to the right of an edge that is dragged. */
const props = defineProps<{ frame: { readonly left: number; readonly top: number; readonly width: number; readonly height: number }; viewBox: () => ViewBox | null }>()
const takes = useTakesStore()
const host = ref<HTMLElement | null>(null)
const { problem, shown } = useTakePicture(host, () => takes.other?.id ?? null, props.viewBox)

const edge = computed(() => (takes.flipped || takes.wipeAt === null ? 0 : props.frame.left + props.frame.width * takes.wipeAt))
function drag(event: PointerEvent) {
  const from = takes.wipeAt ?? 0.5
  followDrag(event, {
    move: ({ dx }) => (takes.wipeAt = Math.min(1, Math.max(0, from + dx / props.frame.width))),
    end: () => undefined,
    cancel: () => (takes.wipeAt = from),
  })
}
function nudge(event: KeyboardEvent) {
  const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key]
  if (by === undefined || takes.wipeAt === null) return
  event.preventDefault()
  event.stopPropagation()
  takes.wipeAt = Math.min(1, Math.max(0, takes.wipeAt + by))
}
useEventListener(window, ['keyup', 'blur'], (event) => {
  if (event.type === 'blur' || ['y', 'Y', 'Alt'].includes((event as KeyboardEvent).key)) takes.flipped = false
})
</script>

<template>
  <div class="other" data-test="lens-other">
    <div ref="host" class="host" :style="{ clipPath: edge > 0 ? `inset(0 0 0 ${edge}px)` : undefined }" />
    <p v-if="!takes.flipped && takes.circled" class="tag left" :style="{ right: `calc(100% - ${edge - 6}px)`, top: `${frame.top + 6}px` }">{{ takes.circled.letter }}</p>
    <p v-if="takes.other" class="tag right" :style="{ left: `${(takes.flipped ? frame.left : edge) + 6}px`, top: `${frame.top + 6}px` }">{{ takes.other.letter }}<template v-if="takes.other.name">&ensp;{{ takes.other.name }}</template><template v-if="shown === null"> …</template></p>
    <div v-if="!takes.flipped && takes.wipeAt !== null" class="edge" role="slider" tabindex="0" aria-label="Edge between the takes" :aria-valuenow="Math.round(takes.wipeAt * 100)" aria-valuemin="0" aria-valuemax="100" title="Drag: the circled take to its left, the other to its right" :style="{ left: `${edge}px`, top: `${frame.top}px`, height: `${frame.height}px` }" data-test="wipe-edge" @pointerdown.stop="drag" @keydown="nudge" />
    <p v-if="problem" class="tag" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.other,
.host {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.host :deep(.picture) {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.tag {
  position: absolute;
  max-width: 40%;
  margin: 0;
  padding: 1px 8px;
  overflow: hidden;
  border-radius: 4px;
  background: var(--ink);
  color: var(--sheet);
  font-size: 12px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.edge {
  position: absolute;
  z-index: 3;
  width: 15px;
  margin-left: -7px;
  background: linear-gradient(to right, transparent 6px, #ffffff 6px, #ffffff 7px, var(--ink) 7px, var(--ink) 8px, transparent 8px);
  cursor: ew-resize;
  pointer-events: auto;
  touch-action: none;
}
</style>
