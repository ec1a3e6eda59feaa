<script setup lang="ts">
import { ref } from 'vue'
import { useOperateStore } from '~/stores/operate'

/** Stands in for a box with two cranks and a slide: one crank pans, the other tilts, the slide trucks while it is off its middle. */
const operate = useOperateStore()
/** So much of the picture's width goes by in a whole turn. */
const TURN_FW = 0.5
const cranks = [
  { name: 'Pan', does: 'turnU', angle: ref(0) },
  { name: 'Tilt', does: 'turnV', angle: ref(0) },
] as const
type Crank = (typeof cranks)[number]

function turn(crank: Crank, byDegrees: number, stamp: number) {
  crank.angle.value += byDegrees
  operate.move({ [crank.does]: (byDegrees / 360) * TURN_FW }, stamp)
}
function onCrank(event: PointerEvent, crank: Crank) {
  const target = event.currentTarget as HTMLElement
  target.setPointerCapture(event.pointerId)
  const box = target.getBoundingClientRect()
  const angleOf = (at: PointerEvent) => (Math.atan2(at.clientY - box.top - box.height / 2, at.clientX - box.left - box.width / 2) * 180) / Math.PI
  let last = angleOf(event)
  target.onpointermove = (move) => {
    for (const step of move.getCoalescedEvents?.() ?? [move]) {
      const angle = angleOf(step)
      turn(crank, ((angle - last + 540) % 360) - 180, step.timeStamp)
      last = angle
    }
  }
  target.onpointerup = target.onpointercancel = () => (target.onpointermove = null)
}
function onKey(event: KeyboardEvent, crank: Crank) {
  const by = { '+': 12, '=': 12, '-': -12 }[event.key]
  if (by === undefined) return
  event.preventDefault()
  event.stopPropagation()
  turn(crank, by, event.timeStamp)
}

const slide = ref(0)
let sliding = 0
/** Off its middle it trucks, the farther the quicker; let go it springs back. */
function run(before: number) {
  sliding = requestAnimationFrame((now) => {
    if (slide.value === 0) return
    operate.move({ truck: slide.value * Math.abs(slide.value) * ((now - before) / 1000) })
    run(now)
  })
}
function onSlide(event: Event) {
  const was = slide.value
  slide.value = Number((event.target as HTMLInputElement).value)
  if (was === 0 && slide.value !== 0) run(performance.now())
}
function letGo(event: Event) {
  cancelAnimationFrame(sliding)
  slide.value = 0
  ;(event.target as HTMLInputElement).value = '0'
}
</script>

<template>
  <div class="box" role="group" aria-label="Hand-wheel" data-test="hand-wheel" @pointerdown.stop>
    <label v-for="crank in cranks" :key="crank.name" class="part">
      <button class="crank" :aria-label="`${crank.name} crank`" :title="`Turn it: a whole turn ${crank.name === 'Pan' ? 'pans' : 'tilts'} half a picture (with + and − when it has the focus)`" @pointerdown.prevent.stop="(event) => onCrank(event, crank)" @keydown="(event) => onKey(event, crank)"><i :style="{ transform: `rotate(${crank.angle.value}deg)` }" /></button>
      <span>{{ crank.name }}</span>
    </label>
    <label class="part">
      <input class="slide" type="range" min="-1" max="1" step="0.02" value="0" aria-label="Truck slide" title="Off its middle it trucks, the farther the quicker; let go it springs back" @input="onSlide" @change="letGo" @pointerup="letGo" @pointercancel="letGo" />
      <span>Truck</span>
    </label>
  </div>
</template>

<style scoped>
.box {
  display: flex;
  align-items: flex-end;
  gap: 10px;
  flex: none;
}
.part {
  display: flex;
  flex-direction: column;
  align-items: center;
  color: var(--ink-2);
  font-size: 11px;
}
.crank {
  position: relative;
  width: 46px;
  height: 46px;
  border: 2px solid var(--ink-2);
  border-radius: 50%;
  background: var(--sheet);
  cursor: grab;
  touch-action: none;
}
.crank i {
  position: absolute;
  inset: 0;
}
.crank i::after {
  content: '';
  position: absolute;
  top: calc(50% - 4px);
  right: 3px;
  width: 9px;
  height: 9px;
  border-radius: 50%;
  background: var(--blue);
}
.slide {
  width: 96px;
  height: 46px;
  accent-color: var(--ink-2);
}
</style>
