<script setup lang="ts">
import { HAND_MOST, LAG_MOST, type PlacedSpan } from '@rubato/core/document'
import { SPAN_DEFAULTS } from '@rubato/core/edits'
import { computed } from 'vue'
import NumberField from '~/components/fields/NumberField.vue'
import { Trash2 } from '~/icons'
import { useSpans } from '~/composables/camera/useSpans'
import { useDeskStore } from '~/stores/desk'

/** How the camera follows, aims or is held by hand, in the span that is chosen or that the playhead is in. */
const props = defineProps<{ placed: PlacedSpan }>()
const desk = useDeskStore()
const spans = useSpans()
const span = computed(() => props.placed.span)
const follow = computed(() => (({ span: of }) => (of.kind === 'follow' ? of : null))(props.placed))
const aim = computed(() => (({ span: of }) => (of.kind === 'aim' ? of : null))(props.placed))
const hand = computed(() => (({ span: of }) => (of.kind === 'hand' ? of : null))(props.placed))
const chaser = computed(() => follow.value ?? aim.value)
const locked = computed(() => desk.cameraAtWork?.locked === true)
const shotEnd = computed(() => Math.max(0, (desk.stage?.lengthFrames ?? 1) - 1))
const half = computed(() => 0.5 / (desk.stage?.optics.aspect ?? 1.78))
const field = (label: string, settingsOf: (value: number) => object) => spans.field(span.value, label, (value) => settingsOf(value) as never)
const change = (label: string, settings: object) => spans.change(span.value, `${label} of ${spans.wordOf(span.value)}`, settings as never)
const AXES = [
  { id: 'x', name: 'x', title: 'It goes along to the left and right' },
  { id: 'y', name: 'y', title: 'It goes along up and down' },
  { id: 'depth', name: 'depth', title: 'It keeps its distance, nearer and farther' },
] as const
const toggleAxis = (id: 'x' | 'y' | 'depth') => change(`${id} ${follow.value!.axes[id] ? 'off' : 'on'}`, { axes: { ...follow.value!.axes, [id]: !follow.value!.axes[id] } })
/** Each third and the middle. */
const PLACES = computed(() => [half.value / 3, 0, -half.value / 3].flatMap((v) => [-1 / 6, 0, 1 / 6].map((u) => ({ u, v }))))
const isAt = (at: { u: number; v: number }) => chaser.value !== null && Math.abs(chaser.value.u - at.u) < 1e-6 && Math.abs(chaser.value.v - at.v) < 1e-6
const fps = computed(() => desk.fps)
const PACES = [
  { name: 'breathing', settings: { placeFw: 0.003, rollDegrees: 0.15, periodFrames: 72 } },
  { name: 'standing', settings: { placeFw: 0.006, rollDegrees: 0.35, periodFrames: 48 } },
  { name: 'walking', settings: { placeFw: 0.016, rollDegrees: 0.9, periodFrames: 24 } },
  { name: 'running', settings: { placeFw: 0.04, rollDegrees: 2.2, periodFrames: 13 } },
] as const
const isPace = (settings: (typeof PACES)[number]['settings']) => hand.value !== null && hand.value.placeFw === settings.placeFw && hand.value.periodFrames === settings.periodFrames
const another = () => change('another hand', { seed: crypto.getRandomValues(new Uint32Array(1))[0]! })
const frames = computed(() => ({
  first: { set: (value: number) => spans.place(span.value, value, props.placed.open ? null : Math.max(value, props.placed.last)), scrub: () => undefined },
  last: { set: (value: number) => spans.place(span.value, props.placed.first, value >= shotEnd.value ? null : value), scrub: () => undefined },
}))
</script>

<template>
  <div class="group" data-test="span-panel">
    <h3>
      {{ spans.wordOf(span) }} <span class="quiet">f {{ placed.first }}–{{ placed.last }}{{ placed.open ? ', to the shot’s end' : '' }}</span>
      <button class="icon-button small end" title="Take it out (Delete)" :aria-label="`Take out ${spans.wordOf(span)}`" :disabled="locked" @click="spans.remove(span.id)"><Trash2 :size="13" /></button>
    </h3>
    <template v-if="chaser">
      <div class="labelled">
        <span class="quiet">In the frame</span>
        <div class="placed">
          <div class="pair">
            <NumberField label="u" unit="fw" :model-value="chaser.u" :step="0.01" :min="-0.5" :max="0.5" :reset-to="0" :disabled="locked" title="From the frame’s middle to the right" data-test="span-u" v-on="field('place', (u) => ({ u }))" />
            <NumberField label="v" unit="fw" :model-value="chaser.v" :step="0.01" :min="-half" :max="half" :reset-to="0" :disabled="locked" title="From the frame’s middle upwards" v-on="field('place', (v) => ({ v }))" />
          </div>
          <div class="thirds" role="group" aria-label="A third, or the middle"><button v-for="(at, i) in PLACES" :key="i" :aria-pressed="isAt(at)" :title="`${['upper', 'middle', 'lower'][Math.floor(i / 3)]} ${['left', 'middle', 'right'][i % 3]}`" :aria-label="`${['upper', 'middle', 'lower'][Math.floor(i / 3)]} ${['left', 'middle', 'right'][i % 3]}`" :disabled="locked" @click="change('place', at)" /></div>
        </div>
      </div>
      <div v-if="follow" class="labelled">
        <span class="quiet">Lead room</span>
        <div class="pair">
          <NumberField label="up to" unit="fw" :model-value="follow.lead.mostFw" :step="0.01" :min="0" :max="0.5" :reset-to="0" :disabled="locked" title="So far back from where it goes the figure is kept" data-test="span-lead" v-on="field('lead room', (mostFw) => ({ lead: { ...follow!.lead, mostFw } }))" />
          <NumberField label="at" unit="fw/s" :model-value="follow.lead.atFwPerFrame * fps" :step="0.05" :min="0.01" :max="100" :decimals="2" :reset-to="0.24" :disabled="locked" title="At this speed on screen it is all there; slower, less of it" v-on="field('lead room', (value) => ({ lead: { ...follow!.lead, atFwPerFrame: value / fps } }))" />
        </div>
      </div>
      <div v-if="follow" class="labelled">
        <span class="quiet">Still zone</span>
        <div class="pair">
          <NumberField label="w" unit="fw" :model-value="follow.still.widthFw" :step="0.01" :min="0" :max="1" :reset-to="0.06" :disabled="locked" title="Within it the camera does not move" data-test="span-still" v-on="field('still zone', (widthFw) => ({ still: { ...follow!.still, widthFw } }))" />
          <NumberField label="h" unit="fw" :model-value="follow.still.heightFw" :step="0.01" :min="0" :max="1" :reset-to="0.06" :disabled="locked" title="Within it the camera does not move" v-on="field('still zone', (heightFw) => ({ still: { ...follow!.still, heightFw } }))" />
        </div>
      </div>
      <div class="labelled">
        <span class="quiet">Lag</span>
        <div class="with">
          <NumberField label="behind" unit="f" :model-value="chaser.lagFrames" :step="1" :min="0" :max="LAG_MOST" :decimals="1" :reset-to="SPAN_DEFAULTS[chaser.kind].lagFrames" :disabled="locked" title="So far it trails behind what goes evenly" data-test="span-lag" v-on="field('lag', (lagFrames) => ({ lagFrames }))" />
          <template v-if="follow"><button v-for="axis in AXES" :key="axis.id" class="chip" :class="{ blue: follow.axes[axis.id] }" :aria-pressed="follow.axes[axis.id]" :title="axis.title" :disabled="locked" @click="toggleAxis(axis.id)">{{ axis.name }}</button></template>
        </div>
      </div>
    </template>
    <template v-if="hand">
      <div class="paces" role="group" aria-label="How it is held"><button v-for="pace in PACES" :key="pace.name" class="chip" :class="{ blue: isPace(pace.settings) }" :aria-pressed="isPace(pace.settings)" :disabled="locked" @click="change(pace.name, pace.settings)">{{ pace.name }}</button></div>
      <div class="labelled">
        <span class="quiet">Drifts</span>
        <div class="pair">
          <NumberField label="to" unit="fw" :model-value="hand.placeFw" :step="0.001" :min="0" :max="HAND_MOST.placeFw" :reset-to="0.006" :disabled="locked" title="To each side, up and down, at most" v-on="field('drift', (placeFw) => ({ placeFw }))" />
          <NumberField label="pace" unit="f" :model-value="hand.periodFrames" :step="1" :min="2" :max="10000" :decimals="0" :reset-to="48" :disabled="locked" title="Frames there and back" v-on="field('pace', (periodFrames) => ({ periodFrames }))" />
        </div>
      </div>
      <div class="labelled">
        <span class="quiet">Turns</span>
        <div class="pair">
          <NumberField label="roll" unit="°" :model-value="hand.rollDegrees" :step="0.05" :min="0" :max="HAND_MOST.degrees" :decimals="2" :reset-to="0.35" :disabled="locked" v-on="field('roll', (rollDegrees) => ({ rollDegrees }))" />
          <NumberField label="pan, tilt" unit="°" :model-value="hand.turnDegrees" :step="0.05" :min="0" :max="HAND_MOST.degrees" :decimals="2" :reset-to="0" :disabled="locked" title="For a camera that turns on the spot" v-on="field('turning', (turnDegrees) => ({ turnDegrees }))" />
        </div>
      </div>
    </template>
    <div class="labelled">
      <span class="quiet">Cushions</span>
      <div class="pair">
        <NumberField label="in" unit="f" :model-value="span.inFrames" :step="1" :min="0" :max="100000" :decimals="0" :reset-to="12" :disabled="locked" title="Frames over which the framings go over into it" v-on="field('cushion', (inFrames) => ({ inFrames }))" />
        <NumberField label="out" unit="f" :model-value="span.outFrames" :step="1" :min="0" :max="100000" :decimals="0" :reset-to="12" :disabled="locked || placed.open" :title="placed.open ? 'It ends with the shot, so there is nothing to go over into' : 'Frames over which it goes over into the framings'" v-on="field('cushion', (outFrames) => ({ outFrames }))" />
      </div>
    </div>
    <div class="labelled">
      <span class="quiet">Frames</span>
      <div class="with">
        <NumberField label="from" unit="f" :model-value="placed.first" :step="1" :min="0" :max="shotEnd" :decimals="0" :disabled="locked" data-test="span-first" @set="frames.first.set" @scrub="frames.first.scrub" />
        <NumberField label="to" unit="f" :model-value="placed.last" :step="1" :min="placed.first" :max="shotEnd" :decimals="0" :disabled="locked" data-test="span-last" @set="frames.last.set" @scrub="frames.last.scrub" />
        <button class="chip" :class="{ blue: placed.open }" :aria-pressed="placed.open" title="It ends with the shot, however long that gets" :disabled="locked" @click="spans.place(span, placed.first, placed.open ? shotEnd : null)">to the end</button>
      </div>
    </div>
    <div class="buttons">
      <button v-if="chaser" class="push-button" title="Point at what it is to go after, in the lens view" :disabled="locked" @click="spans.ask({ spanId: span.id })">Other point…</button>
      <button v-if="follow" class="push-button" title="Turn to the same point as well" :disabled="locked" @click="spans.startAt('aim', follow.target)">Aim too</button>
      <button v-if="chaser" class="push-button" :aria-pressed="chaser.holdsSize === true" title="The lens grows and shrinks, so that the figure keeps the size it begins with; with depth on, the distance does" :disabled="locked" @click="change('hold size', { holdsSize: chaser.holdsSize === true ? undefined : true })">Hold size</button>
      <button v-if="hand" class="push-button" title="Held another way, as much" :disabled="locked" @click="another">Another hand</button>
      <button class="push-button" title="Write what it does as framings (Alt Shift F)" :disabled="locked" @click="spans.bake()">To framings…</button>
    </div>
  </div>
</template>

<style scoped src="./panel.css"></style>
<style scoped>
.labelled {
  display: grid;
  grid-template-columns: 66px 1fr;
  align-items: center;
}
.with {
  display: flex;
  gap: 4px;
  margin-bottom: 5px;
}
.with :deep(.number-field) {
  flex: 1;
  min-width: 0;
}
.placed {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 6px;
}
.thirds {
  display: grid;
  grid-template-columns: repeat(3, 12px);
  gap: 1px;
  height: 26px;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--rule);
  overflow: hidden;
}
.thirds button {
  padding: 0;
  border: 0;
  background: var(--sheet);
  cursor: pointer;
}
.thirds button:hover {
  background: var(--paper-2);
}
.thirds button[aria-pressed='true'] {
  background: var(--blue);
}
.paces {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-bottom: 6px;
}
</style>
