<script setup lang="ts">
import { computed } from 'vue'
import { followDrag } from '~/gestures/drag'
import { useSpreadStore } from '~/stores/spread'

/** The horizon that drawn things stand under while their depths are worked out from it; it is dragged up and down. */
const props = defineProps<{
  frame: { readonly left: number; readonly top: number; readonly width: number; readonly height: number }
  width: number
  toPane: (u: number, v: number) => { readonly x: number; readonly y: number }
}>()
const spread = useSpreadStore()
const y = computed(() => props.toPane(0, spread.form.horizon).y)

function drag(down: PointerEvent) {
  if (down.button !== 0) return
  const before = spread.form.horizon
  followDrag(down, {
    move: ({ dy, event }) => (spread.form.horizon = Number((before - (dy / props.frame.width) * (event.altKey ? 0.1 : 1)).toFixed(4))),
    end: () => undefined,
    cancel: () => (spread.form.horizon = before),
  })
}
function step(event: KeyboardEvent) {
  if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
  event.preventDefault()
  const by = (event.key === 'ArrowUp' ? 1 : -1) * 0.01 * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1)
  spread.form.horizon = Number((spread.form.horizon + by).toFixed(4))
}
</script>

<template>
  <div
    class="horizon"
    :style="{ top: `${y - 12}px`, width: `${width}px` }"
    role="slider"
    tabindex="0"
    aria-orientation="vertical"
    aria-label="Horizon"
    :aria-valuenow="spread.form.horizon"
    title="The horizon: drag it to where the drawing’s ground ends (Alt: fine)"
    data-test="horizon"
    @pointerdown.stop="drag"
    @keydown.stop="step"
  >
    <i /><span :style="{ left: `${frame.left + 6}px` }">horizon</span>
  </div>
</template>

<style scoped>
.horizon {
  position: absolute;
  left: 0;
  height: 24px;
  cursor: ns-resize;
  touch-action: none;
}
i {
  position: absolute;
  top: 11px;
  right: 0;
  left: 0;
  height: 2px;
  background: var(--blue);
  box-shadow: 0 0 0 1px rgb(255 255 255 / 60%);
}
span {
  position: absolute;
  top: 13px;
  padding: 0 5px;
  border-radius: 0 0 4px 4px;
  background: var(--blue);
  color: var(--paper-0);
  font-size: 11px;
}
</style>
