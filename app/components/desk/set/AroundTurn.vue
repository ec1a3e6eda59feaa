<script setup lang="ts">
import { turnedInSet } from '@rubato/core/depth'
import { add, scale, type Point3 } from '@rubato/core/geometry'
import { computed, ref } from 'vue'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { followDrag } from '~/gestures/drag'
import { useDeskStore } from '~/stores/desk'
import type { LevelChange } from '~/stores/levelHand'

/** Three rings around the level in hand, in Around: about the set's upright it is panned, about what goes across it is tilted, about its own axis it is rolled. */
const props = defineProps<{
  width: number
  height: number
  /** Where the view shows a point of the set; null behind it. */
  px: (point: Point3) => { readonly x: number; readonly y: number } | null
  /** How large the rings are, fw of the set. */
  radius: number
}>()
const desk = useDeskStore()
const fields = useLevelFields()

const RINGS = ['pan', 'tilt', 'roll'] as const
type Ring = (typeof RINGS)[number]
const NAMES: Record<Ring, string> = { pan: 'pan: about the set’s upright', tilt: 'tilt: about what goes across the set', roll: 'roll: about its own axis' }
const STEPS = 72
/** Where the pointer is on a ring is looked for this finely, degrees. */
const FINE = 0.25
const told = ref<string | null>(null)

const level = computed(() => (desk.playing || desk.selectedLevel === null || !desk.selectedLevel.visible || desk.selectedLevel.locked || desk.selectedLevel.facing !== undefined ? null : desk.selectedLevel))

/** Where on a ring, degrees on from the knob the way that a turn goes. */
function ringOf(id: string, ring: Ring): (degrees: number) => Point3 {
  const { place, right, up } = desk.standOf(id)
  const [from, to]: readonly [Point3, Point3] =
    ring === 'roll' ? [up, right] : ring === 'pan' ? [{ x: 0, y: 0, depth: -1 }, { x: -1, y: 0, depth: 0 }] : [{ x: 0, y: -1, depth: 0 }, { x: 0, y: 0, depth: 1 }]
  const radius = props.radius
  return (degrees) => {
    const angle = (degrees * Math.PI) / 180
    return add(place, add(scale(from, radius * Math.cos(angle)), scale(to, radius * Math.sin(angle))))
  }
}
const rings = computed(() => {
  const { value: own } = level
  if (own === null) return []
  return RINGS.flatMap((ring) => {
    const at = ringOf(own.id, ring)
    const points = Array.from({ length: STEPS }, (_, i) => props.px(at((i * 360) / STEPS)))
    const knob = props.px(at(0))
    if (knob === null || points.some((point) => point === null)) return []
    return [{ ring, knob, d: `M${points.map((point) => `${point!.x.toFixed(1)} ${point!.y.toFixed(1)}`).join('L')}Z` }]
  })
})

function turn(event: PointerEvent, ring: Ring) {
  const own = level.value
  if (event.button !== 0 || own === null) return
  const box = (event.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect()
  const at = ringOf(own.id, ring)
  /** Where on the ring the pointer is nearest, by way of where it was. */
  const degreesAt = (step: PointerEvent, near: number) => {
    let [best, least] = [near, Infinity]
    for (let by = -60; by <= 60; by += FINE) {
      const point = props.px(at(near + by))
      const off = point === null ? Infinity : Math.hypot(point.x - (step.clientX - box.left), point.y - (step.clientY - box.top))
      if (off < least - 1e-9) [best, least] = [near + by, off]
    }
    return best
  }
  const carriage = desk.carriageOf(own.id)
  const label = `${ring} ${own.name}`
  let now = 0
  let change: LevelChange | null = null
  const over = () => (told.value = null)
  followDrag(event, {
    begin: () => (change = fields.aboutMiddle(label, (joins) => desk.beginLevels([own.id], ['turn'], label, joins))),
    move: ({ event: step }) => {
      now = degreesAt(step, now)
      const degrees = step.shiftKey ? Math.round(now / 15) * 15 : now
      change!.update((_, start) => ({ turn: ring === 'roll' ? { ...start.turn, rollDegrees: start.turn.rollDegrees + degrees } : turnedInSet(carriage, start.turn, ring === 'pan' ? 'y' : 'x', degrees) }))
      told.value = `${ring} by ${degrees.toFixed(1)}°`
    },
    end: () => (change?.end(), over()),
    cancel: () => (change?.abandon(), over()),
    click: over,
  })
}
</script>

<template>
  <svg v-if="rings.length > 0" class="rings" :width="width" :height="height" role="group" aria-label="Turn the level in hand">
    <g v-for="each in rings" :key="each.ring" :class="each.ring">
      <path :d="each.d" />
      <circle class="knob" :cx="each.knob.x" :cy="each.knob.y" r="5.5" :data-test="`ring-${each.ring}`" @pointerdown.stop="turn($event, each.ring)"><title>{{ NAMES[each.ring] }} (Shift: by 15°)</title></circle>
    </g>
  </svg>
  <p v-if="told" class="told" role="status">{{ told }}</p>
</template>

<style scoped>
.rings {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
path {
  fill: none;
  stroke-opacity: 0.75;
  stroke-width: 1.2;
}
.pan {
  stroke: #dcecf7;
}
.tilt {
  stroke: #f1e2c0;
}
.roll {
  stroke: #ffffff;
}
.pan path {
  stroke-dasharray: none;
}
.tilt path {
  stroke-dasharray: 7 3;
}
.roll path {
  stroke-dasharray: 2 3;
}
.knob {
  fill: #2b2a27;
  stroke-width: 1.8;
  cursor: grab;
  pointer-events: all;
  touch-action: none;
}
.told {
  position: absolute;
  bottom: 8px;
  left: 50%;
  margin: 0;
  padding: 2px 10px;
  border-radius: 5px;
  background: #1b1813;
  color: #ffffff;
  font: 12px var(--mono, monospace);
  transform: translateX(-50%);
  pointer-events: none;
}
</style>
