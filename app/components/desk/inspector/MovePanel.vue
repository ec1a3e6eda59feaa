<script setup lang="ts">
import { editKey, settleRoom, setPath, type Made } from '@rubato/core/edits'
import { handlesOf, type MoveSpec, type Timing } from '@rubato/core/moves'
import { computed } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import { asCustom } from '~/curves/curveScene'
import { useCameraMoves } from '~/composables/camera/useCameraMoves'
import { useScrub } from '~/composables/view/useScrub'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { moveName } from '~/text/moves'

/** The move that the playhead is in: its timing, path and evenness. */
const film = useFilmStore()
const desk = useDeskStore()
const scrub = useScrub()
const moves = useCameraMoves()

const move = computed(() => {
  const here = desk.moveHere
  if (here === null) return null
  const frames = here.to.frame - here.from.frame
  const { framing } = here.from
  return {
    framing,
    to: here.to.framing,
    title: `Move ${here.index + 1} → ${here.index + 2}`,
    frames,
    seconds: (frames / desk.fps).toFixed(1),
    name: moveName(framing.pose, here.to.framing.pose, framing.move, frames),
    spec: framing.move as MoveSpec,
    room: desk.take === null ? 0 : settleRoom(desk.take, framing.id),
    inner: here.index > 0,
  }
})
const TIMINGS = [
  { id: 'hold', name: 'Hold', title: 'Stays, then jumps at the next framing' },
  { id: 'even', name: 'Even', title: 'The same speed throughout' },
  { id: 'cushioned', name: 'Cushioned', title: 'Gets up to speed and comes to rest' },
  { id: 'custom', name: 'Curve', title: 'A curve of your own; its handles are in the Curves view' },
] as const
const PATHS = [
  { id: 'straight', name: 'Straight', title: 'Straight from the one framing to the next' },
  { id: 'bent', name: 'Bent', title: 'Bent by handles in Table, Plan and Side; its timing stays' },
] as const
const PASSINGS = [
  { id: 'corner', name: 'Corner', title: 'The path may turn sharply at the framing it leaves' },
  { id: 'smooth', name: 'Smooth', title: 'The path goes smoothly through the framing it leaves' },
] as const
const EVENNESS = [
  { id: 'set', name: 'Even in set', title: 'Equal steps through the set' },
  { id: 'screen', name: 'on screen', label: 'Even on screen', title: 'Even on screen: the subject grows by the same factor every frame' },
] as const

const takeId = () => desk.takeId!
type Takes = Parameters<Parameters<typeof film.perform>[1]>[0]
const edit = (spec: MoveSpec, id = move.value!.framing.id) => (f: Takes): Made => editKey(f.takes[takeId()]!, takeId(), id, { move: spec })
function setMove(label: string, spec: MoveSpec, gesture: string | null = null) {
  film.perform(label, edit(spec), gesture)
}
function setTiming(kind: Timing['kind']) {
  const { spec, frames } = move.value!
  if (kind === spec.timing.kind || kind === 'part') return
  const timing: Timing = kind === 'cushioned' ? { kind, leaveFrames: 6, arriveFrames: 6 } : kind === 'custom' ? { kind, ...asCustom(spec.timing, frames) } : { kind }
  setMove(kind === 'custom' ? 'timing curve' : `${kind} move`, { ...spec, timing })
}
type Side = 'leaveFrames' | 'arriveFrames' | 'settleFrames'
function cushioned(side: Side, value: number): MoveSpec | null {
  const { spec } = move.value!
  if (spec.timing.kind !== 'cushioned') return null
  const { settleFrames, ...timing } = { ...spec.timing, [side]: Math.max(0, Math.round(value)) }
  return { ...spec, timing: settleFrames === undefined || settleFrames === 0 ? timing : { ...timing, settleFrames } }
}
const cushionField = (side: Side) => scrub.field(side === 'settleFrames' ? 'settle' : 'cushion', (value) => edit(cushioned(side, value) ?? move.value!.spec), `cushion:${side}`)
const custom = computed(() => (move.value?.spec.timing.kind === 'custom' ? move.value.spec.timing : null))
function setCurve(field: 'x1' | 'y1' | 'x2' | 'y2', value: number) {
  const { spec } = move.value!
  if (spec.timing.kind === 'custom') setMove('timing curve', { ...spec, timing: { ...spec.timing, [field]: value } }, `curve:${field}`)
}
function setBent(bent: boolean) {
  const { framing, to, spec } = move.value!
  if (bent === (spec.path.kind === 'bent')) return
  film.perform(bent ? 'bent path' : 'straight path', (f) => setPath(f.takes[takeId()]!, takeId(), framing.id, bent ? { kind: 'bent', ...handlesOf(framing.pose, to.pose, spec.path) } : { kind: 'straight' }))
}
function setEvenness(kind: 'set' | 'screen') {
  const { spec } = move.value!
  if (kind === spec.evenness.kind) return
  if (kind === 'screen' && spec.path.kind === 'bent') return film.refuse('Even on screen needs a straight path. Make the path straight first.')
  setMove(kind === 'screen' ? 'even on screen' : 'even in the set', { ...spec, evenness: kind === 'screen' ? { kind, subjectDepth: desk.keptPlane } : { kind } })
}
function setSubject(value: number) {
  setMove('subject depth', { ...move.value!.spec, evenness: { kind: 'screen', subjectDepth: value } }, 'subject-depth')
}
</script>

<template>
  <div v-if="move" class="group" data-test="move-panel">
    <h3>{{ move.title }} <span class="quiet">{{ move.frames }} f · {{ move.seconds }} s</span></h3>
    <p class="tempo name" data-test="move-name">{{ move.name }}</p>
    <ChoiceRow class="whole" fill label="Timing" :choices="TIMINGS" :model-value="move.spec.timing.kind" @update:model-value="setTiming" />
    <div v-if="move.spec.timing.kind === 'cushioned'" class="pair three">
      <NumberField label="Leaves" :model-value="move.spec.timing.leaveFrames" :step="1" :min="0" :decimals="0" :reset-to="6" title="Frames to get up to speed" v-on="cushionField('leaveFrames')" />
      <NumberField label="Arrives" :model-value="move.spec.timing.arriveFrames" :step="1" :min="0" :decimals="0" :reset-to="6" title="Frames to come to rest" v-on="cushionField('arriveFrames')" />
      <NumberField label="Settles" :model-value="move.spec.timing.settleFrames ?? 0" :step="1" :min="0" :decimals="0" :reset-to="0" title="Frames the arrival tails off past its framing, without overshoot" data-test="settle" v-on="cushionField('settleFrames')" />
    </div>
    <p v-if="move.spec.timing.kind === 'cushioned' && (move.spec.timing.settleFrames ?? 0) > move.room" class="quiet small">settles in {{ move.room }} f: the next framing leaves no more</p>
    <p v-if="move.spec.timing.kind === 'part'" class="quiet small" data-test="move-part">What is left of a longer move, as fast as it was. Choose a timing to give it one of its own.</p>
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
    <div class="pair">
      <ChoiceRow fill label="Path" :choices="PATHS" :model-value="move.spec.path.kind" @update:model-value="(kind) => setBent(kind === 'bent')" />
      <ChoiceRow fill label="Where the path passes framing" :choices="PASSINGS" :disabled="!move.inner" :model-value="move.framing.smooth === true ? 'smooth' : 'corner'" @update:model-value="(id) => moves.smooth(move!.framing.id, id === 'smooth')" />
    </div>
    <div class="pair" :class="{ wide: move.spec.evenness.kind !== 'screen' }">
      <ChoiceRow fill label="Evenness" :choices="EVENNESS" :model-value="move.spec.evenness.kind" @update:model-value="setEvenness" />
      <NumberField v-if="move.spec.evenness.kind === 'screen'" label="Subject at" unit="fw" :model-value="move.spec.evenness.subjectDepth" :step="0.05" :reset-to="0" @set="setSubject" @scrub="() => undefined" />
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
