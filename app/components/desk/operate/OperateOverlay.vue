<script setup lang="ts">
import { useEventListener, useRafFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import { isTyping } from '~/commands/command'
import { useFilmStore } from '~/stores/film'
import { useOperateStore } from '~/stores/operate'

/** Over the lens view while a camera is worked by hand: what is dragged, turned and pressed becomes what the camera does. */
const props = defineProps<{ frame: { readonly left: number; readonly top: number; readonly width: number; readonly height: number } }>()
const film = useFilmStore()
const operate = useOperateStore()
const held = ref(false)

function onDown(event: PointerEvent) {
  if (operate.phase === 'review') return film.refuse('A try is being looked at. Write it as framings, or close it, and then move the camera.')
  if (event.button !== 0) return
  const target = event.currentTarget as HTMLElement
  target.setPointerCapture(event.pointerId)
  held.value = true
  let [x, y] = [event.clientX, event.clientY]
  const onMove = (move: PointerEvent) => {
    if (move.pointerId !== event.pointerId) return
    // All that the pointer said since the last frame, each at its own time.
    const steps = move.getCoalescedEvents?.() ?? []
    for (const step of steps.length > 0 ? steps : [move]) {
      const [du, dv] = [(step.clientX - x) / props.frame.width, (y - step.clientY) / props.frame.width]
      ;[x, y] = [step.clientX, step.clientY]
      if (du !== 0 || dv !== 0) operate.move(step.shiftKey ? { turnU: du, turnV: dv } : { slideU: du, slideV: dv }, step.timeStamp)
    }
  }
  const onUp = (up: PointerEvent) => {
    if (up.pointerId !== event.pointerId) return
    held.value = false
    for (const kind of ['pointerup', 'pointercancel', 'lostpointercapture'] as const) target.removeEventListener(kind, onUp)
    target.removeEventListener('pointermove', onMove)
  }
  target.addEventListener('pointermove', onMove)
  for (const kind of ['pointerup', 'pointercancel', 'lostpointercapture'] as const) target.addEventListener(kind, onUp)
}
function onWheel(event: WheelEvent) {
  if (!operate.isLive) return
  const growth = -(event.deltaMode === 1 ? event.deltaY * 16 : event.deltaY || event.deltaX) * 0.0012
  operate.move(event.altKey ? { zoom: growth } : { truck: growth }, event.timeStamp)
}

/** What a key does while it is held: each comes up to its full speed, a second, and dies away. */
const KEYS: Readonly<Record<string, readonly [what: 'truck' | 'zoom' | 'rollDegrees' | 'slideU' | 'slideV' | 'turnU' | 'turnV', speed: number]>> = {
  ArrowUp: ['truck', 0.5],
  ArrowDown: ['truck', -0.5],
  ArrowRight: ['rollDegrees', 20],
  ArrowLeft: ['rollDegrees', -20],
  PageUp: ['zoom', 0.5],
  PageDown: ['zoom', -0.5],
  d: ['slideU', 0.35],
  a: ['slideU', -0.35],
  w: ['slideV', 0.35],
  s: ['slideV', -0.35],
  // The cranks.
  l: ['turnU', 0.35],
  j: ['turnU', -0.35],
  i: ['turnV', 0.35],
  k: ['turnV', -0.35],
}
/** How quickly it comes up and dies away, a second. */
const EASES = 7
const pressed = new Set<string>()
const speeds = new Map<string, number>()
const keyName = (event: KeyboardEvent) => (event.key.length === 1 ? event.key.toLowerCase() : event.key)
useEventListener(
  window,
  'keydown',
  (event) => {
    if (event.ctrlKey || event.metaKey || isTyping(event.target)) return
    const run = operate.isLive ? { ' ': operate.phase === 'running' ? operate.finish : undefined, Escape: operate.giveUp }[event.key] : { Escape: operate.close }[event.key]
    const key = keyName(event)
    const turns = operate.isLive && !event.altKey && KEYS[key] !== undefined
    if (run === undefined && !turns) return
    event.preventDefault()
    event.stopImmediatePropagation()
    if (run !== undefined) run()
    else pressed.add(key)
  },
  { capture: true },
)
useEventListener(window, 'keyup', (event) => pressed.delete(keyName(event)))
useEventListener(window, 'blur', () => pressed.clear())
watch(() => operate.phase, () => (pressed.clear(), speeds.clear()))

/** Below this a stick is at rest. */
const STICK_REST = 0.12
const stick = (value: number | undefined) => (value === undefined || Math.abs(value) < STICK_REST ? 0 : Math.sign(value) * ((Math.abs(value) - STICK_REST) / (1 - STICK_REST)) ** 2)
useRafFn(({ delta }) => {
  if (!operate.isLive) return
  const seconds = Math.min(0.1, delta / 1000)
  const step: Record<string, number> = {}
  for (const key of new Set([...pressed, ...speeds.keys()])) {
    const [what, most] = KEYS[key]!
    const wanted = pressed.has(key) ? most : 0
    const speed = (speeds.get(key) ?? 0) + (wanted - (speeds.get(key) ?? 0)) * Math.min(1, EASES * seconds)
    if (wanted === 0 && Math.abs(speed) < Math.abs(most) / 100) speeds.delete(key)
    else speeds.set(key, speed)
    step[what] = (step[what] ?? 0) + speed * seconds
  }
  // A gamepad: the left stick goes, the right one turns, the triggers truck.
  const pad = navigator.getGamepads?.().find((each) => each !== null && each.connected)
  if (pad) {
    const add = (what: string, by: number) => by !== 0 && (step[what] = (step[what] ?? 0) + by * seconds)
    add('slideU', 0.5 * stick(pad.axes[0]))
    add('slideV', -0.5 * stick(pad.axes[1]))
    add('turnU', 0.5 * stick(pad.axes[2]))
    add('turnV', -0.5 * stick(pad.axes[3]))
    add('truck', 0.6 * (stick(pad.buttons[7]?.value) - stick(pad.buttons[6]?.value)))
  }
  if (Object.keys(step).length > 0) operate.move(step)
})
</script>

<template>
  <div class="operate" :class="{ live: operate.isLive, held }" data-test="operate" @pointerdown.stop="onDown" @wheel.stop.prevent="onWheel">
    <p v-if="operate.phase === 'count'" class="count tempo" role="status" :style="{ top: `${frame.top + frame.height / 2}px` }">{{ operate.beats }}</p>
    <p v-if="operate.phase === 'running'" class="on" role="status" :style="{ left: `${frame.left + 8}px`, top: `${frame.top + 8}px` }">operating</p>
  </div>
</template>

<style scoped>
.operate {
  position: absolute;
  z-index: 2;
  inset: 0;
  cursor: default;
  touch-action: none;
}
.live {
  box-shadow: inset 0 0 0 3px var(--blue);
  cursor: grab;
}
.held {
  cursor: grabbing;
}
.count {
  position: absolute;
  left: 50%;
  margin: 0;
  color: var(--ink);
  font-size: 96px;
  line-height: 1;
  paint-order: stroke;
  -webkit-text-stroke: 6px var(--paper-0);
  transform: translate(-50%, -50%);
  pointer-events: none;
}
.on {
  position: absolute;
  margin: 0;
  padding: 1px 9px;
  border-radius: 4px;
  background: var(--blue);
  color: #ffffff;
  pointer-events: none;
}
</style>
