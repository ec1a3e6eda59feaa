<script lang="ts">
import type { KeyRecord } from '@rubato/core/document'
import type { Point3 } from '@rubato/core/geometry'

/** A move from one key to the next. */
export interface ShownMove {
  /** The keys that it leaves, of several tracks at once; what is shown is the first's. */
  readonly keys: readonly [KeyRecord, ...KeyRecord[]]
  readonly title: string
  readonly name: string
  readonly frames: number
  /** The frames that its settle has. */
  readonly room: number
  /** A key before it: its path may pass this one smoothly. */
  readonly inner: boolean
  /** Where its way begins and ends; null for what has no place, and no path. */
  readonly places: readonly [Point3, Point3] | null
  /** It may be even on screen. */
  readonly onScreen: boolean
  readonly what: 'framing' | 'key'
}
</script>
<script setup lang="ts">
import { editKey, setPath, smoothKey, type Made } from '@rubato/core/edits'
import { handlesOf, type MoveSpec, type Timing } from '@rubato/core/moves'
import { computed } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useScrub } from '~/composables/view/useScrub'
import { asCustom } from '~/curves/curveScene'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { together } from '~/stores/levelHand'

/** The timing, path and evenness of a move. */
const props = defineProps<{ move: ShownMove }>()
const film = useFilmStore()
const desk = useDeskStore()
const scrub = useScrub()
const spec = computed<MoveSpec>(() => props.move.keys[0].move)
const ids = () => props.move.keys.map(({ id }) => id)

const TIMINGS = [
  { id: 'hold', name: 'Hold', title: 'Stays, then jumps at the next one' },
  { id: 'even', name: 'Even', title: 'The same speed throughout' },
  { id: 'cushioned', name: 'Cushioned', title: 'Gets up to speed and comes to rest' },
  { id: 'custom', name: 'Curve', title: 'A curve of your own; its handles are in the Curves view' },
] as const
const PATHS = [
  { id: 'straight', name: 'Straight', title: 'Straight from the one to the next' },
  { id: 'bent', name: 'Bent', title: 'Bent by handles in Table, Plan and Side; its timing stays' },
] as const
const PASSINGS = [
  { id: 'corner', name: 'Corner', title: 'The path may turn sharply where it leaves' },
  { id: 'smooth', name: 'Smooth', title: 'The path goes smoothly through where it leaves' },
] as const
const EVENNESS = [
  { id: 'set', name: 'Even in set', title: 'Equal steps through the set' },
  { id: 'screen', name: 'on screen', label: 'Even on screen', title: 'Even on screen: the subject grows by the same factor every frame' },
] as const

const takeId = () => desk.takeId!
type Takes = Parameters<Parameters<typeof film.perform>[1]>[0]
/** Each of the keys leaves so; its own path and evenness stay. */
function edit(next: MoveSpec): (f: Takes) => Made {
  const [first, id] = [ids()[0]!, takeId()]
  const moves = new Map(props.move.keys.map((key) => [key.id, key.id === first ? next : { ...key.move, timing: next.timing }]))
  return (f) => together([...moves.keys()], (each) => editKey(f.takes[id]!, id, each, { move: moves.get(each)! }))
}
function setMove(label: string, next: MoveSpec, gesture: string | null = null) {
  film.perform(label, edit(next), gesture)
}
function setTiming(kind: Timing['kind']) {
  const { timing: now } = spec.value
  if (kind === now.kind || kind === 'part') return
  const timing: Timing = kind === 'cushioned' ? { kind, leaveFrames: 6, arriveFrames: 6 } : kind === 'custom' ? { kind, ...asCustom(now, props.move.frames) } : { kind }
  setMove(kind === 'custom' ? 'timing curve' : `${kind} move`, { ...spec.value, timing })
}
type Side = 'leaveFrames' | 'arriveFrames' | 'settleFrames'
function cushioned(side: Side, value: number): MoveSpec {
  if (spec.value.timing.kind !== 'cushioned') return spec.value
  const { settleFrames, ...timing } = { ...spec.value.timing, [side]: Math.max(0, Math.round(value)) }
  return { ...spec.value, timing: settleFrames === undefined || settleFrames === 0 ? timing : { ...timing, settleFrames } }
}
const cushionField = (side: Side) => scrub.field(side === 'settleFrames' ? 'settle' : 'cushion', (value) => edit(cushioned(side, value)), `cushion:${side}`)
const custom = computed(() => (spec.value.timing.kind === 'custom' ? spec.value.timing : null))
function setCurve(field: 'x1' | 'y1' | 'x2' | 'y2', value: number) {
  if (spec.value.timing.kind === 'custom') setMove('timing curve', { ...spec.value, timing: { ...spec.value.timing, [field]: value } }, `curve:${field}`)
}
function setBent(bent: boolean) {
  const { places } = props.move
  if (places === null || bent === (spec.value.path.kind === 'bent')) return
  const [id, first] = [takeId(), ids()[0]!]
  film.perform(bent ? 'bent path' : 'straight path', (f) => setPath(f.takes[id]!, id, first, bent ? { kind: 'bent', ...handlesOf(...places, spec.value.path) } : { kind: 'straight' }))
}
function setSmooth(smooth: boolean) {
  const [id, first] = [takeId(), ids()[0]!]
  film.perform(smooth ? 'smooth path' : 'corner in the path', (f) => smoothKey(f.takes[id]!, id, first, smooth))
}
function setEvenness(kind: 'set' | 'screen') {
  if (kind === spec.value.evenness.kind) return
  if (kind === 'screen' && spec.value.path.kind === 'bent') return film.refuse('Even on screen needs a straight path. Make the path straight first.')
  setMove(kind === 'screen' ? 'even on screen' : 'even in the set', { ...spec.value, evenness: kind === 'screen' ? { kind, subjectDepth: desk.keptPlane } : { kind } })
}
function setSubject(value: number) {
  setMove('subject depth', { ...spec.value, evenness: { kind: 'screen', subjectDepth: value } }, 'subject-depth')
}
</script>

<template>
  <div class="group" data-test="move-panel">
    <h3>{{ move.title }} <span class="quiet">{{ move.frames }} f · {{ (move.frames / desk.fps).toFixed(1) }} s</span></h3>
    <p class="tempo name" data-test="move-name">{{ move.name }}</p>
    <ChoiceRow class="whole" fill label="Timing" :choices="TIMINGS" :model-value="spec.timing.kind" @update:model-value="setTiming" />
    <div v-if="spec.timing.kind === 'cushioned'" class="pair three">
      <NumberField label="Leaves" :model-value="spec.timing.leaveFrames" :step="1" :min="0" :decimals="0" :reset-to="6" title="Frames to get up to speed" v-on="cushionField('leaveFrames')" />
      <NumberField label="Arrives" :model-value="spec.timing.arriveFrames" :step="1" :min="0" :decimals="0" :reset-to="6" title="Frames to come to rest" v-on="cushionField('arriveFrames')" />
      <NumberField label="Settles" :model-value="spec.timing.settleFrames ?? 0" :step="1" :min="0" :decimals="0" :reset-to="0" title="Frames the arrival tails off past its end, without overshoot" data-test="settle" v-on="cushionField('settleFrames')" />
    </div>
    <p v-if="spec.timing.kind === 'cushioned' && (spec.timing.settleFrames ?? 0) > move.room" class="quiet small">settles in {{ move.room }} f: the next {{ move.what }} leaves no more</p>
    <p v-if="spec.timing.kind === 'part'" class="quiet small" data-test="move-part">What is left of a longer move, as fast as it was. Choose a timing to give it one of its own.</p>
    <div v-if="custom" class="curve">
      <svg viewBox="-4 -14 108 128" aria-hidden="true">
        <path class="box" d="M0 0H100V100H0Z" />
        <path class="arm" :d="`M0 100L${custom.x1 * 100} ${100 - custom.y1 * 100}M100 0L${custom.x2 * 100} ${100 - custom.y2 * 100}`" />
        <path class="line" :d="`M0 100C${custom.x1 * 100} ${100 - custom.y1 * 100} ${custom.x2 * 100} ${100 - custom.y2 * 100} 100 0`" />
      </svg>
      <div class="pair">
        <NumberField v-for="field in ['x1', 'y1', 'x2', 'y2'] as const" :key="field" :label="{ x1: 'leave in', y1: 'by', x2: 'arrive from', y2: 'at' }[field]" :model-value="custom[field]" :step="0.05" :min="field.startsWith('x') ? 0 : -10" :max="field.startsWith('x') ? 1 : 10" :decimals="2" @set="(v) => setCurve(field, v)" @scrub="() => undefined" />
      </div>
    </div>
    <div v-if="move.places" class="pair">
      <ChoiceRow fill label="Path" :choices="PATHS" :model-value="spec.path.kind" @update:model-value="(kind) => setBent(kind === 'bent')" />
      <ChoiceRow fill :label="`Where the path passes ${move.what}`" :choices="PASSINGS" :disabled="!move.inner" :model-value="move.keys[0].smooth === true ? 'smooth' : 'corner'" @update:model-value="(id) => setSmooth(id === 'smooth')" />
    </div>
    <div v-if="move.onScreen" class="pair" :class="{ wide: spec.evenness.kind !== 'screen' }">
      <ChoiceRow fill label="Evenness" :choices="EVENNESS" :model-value="spec.evenness.kind" @update:model-value="setEvenness" />
      <NumberField v-if="spec.evenness.kind === 'screen'" label="Subject at" unit="fw" :model-value="spec.evenness.subjectDepth" :step="0.05" :reset-to="0" @set="setSubject" @scrub="() => undefined" />
    </div>
  </div>
</template>

<style scoped src="./panel.css"></style>
<style scoped>
.name {
  margin: 0 0 6px;
  font-size: 15px;
}
.curve {
  display: grid;
  grid-template-columns: 74px 1fr;
  gap: 6px;
  margin-bottom: 5px;
}
.curve svg {
  width: 74px;
}
.curve path {
  fill: none;
  stroke: var(--rule);
  stroke-width: 1.5;
}
.curve .arm {
  stroke: var(--ink-3);
}
.curve .line {
  stroke: var(--blue);
  stroke-width: 3;
}
.pair.wide {
  grid-template-columns: 1fr;
}
</style>
