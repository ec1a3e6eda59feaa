<script setup lang="ts">
import { editProject } from '@rubato/core/edits'
import { canDropFrames, framesOfEntry, frameOfTimecode, timecodeOfFrame, TIME_DISPLAYS, type TimeDisplay } from '@rubato/core/time'
import { refThrottled } from '@vueuse/core'
import { computed, ref } from 'vue'
import { Pause, Play, Repeat, SkipBack, SlidersHorizontal, StepBack, StepForward } from '~/icons'
import NumberField from '~/components/fields/NumberField.vue'
import SoundMeter from '~/components/sound/SoundMeter.vue'
import MomentField from '~/components/desk/strip/MomentField.vue'
import { useFinishedFramesStore } from '~/stores/finishedFrames'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useSoundPlayerStore } from '~/stores/soundPlayer'
import { useTapTiming } from '~/composables/strip/useTapTiming'
import { useAirStore } from '~/stores/air'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { LOOPS, SPEEDS, useTimingStore, type WantedQuality } from '~/stores/timing'

const film = useFilmStore()
const desk = useDeskStore()
const air = useAirStore()
const timing = useTimingStore()
const cache = useFinishedFramesStore()
const sound = useSoundStore()
const player = useSoundPlayerStore()
const { calibrating, offsetMs } = useTapTiming()
const { toggle, stop, setSpeed, dropped, shown, fromCache, playedQuality, rateNow } = usePlayback()
const guides = ref<{ toggle: (event: Event) => void } | null>(null)
const settings = ref<{ toggle: (event: Event) => void } | null>(null)
const METER_EVERY_MS = 300
const QUALITY = { 1: 'full', 0.5: 'half', 0.25: 'quarter' } as const
const QUALITIES: readonly { readonly value: WantedQuality; readonly label: string }[] = [
  { value: 'auto', label: 'full, lower if need be' },
  { value: 1, label: 'full' },
  { value: 0.5, label: 'half' },
  { value: 0.25, label: 'quarter' },
]
const DISPLAY_NAMES: Readonly<Record<TimeDisplay, string>> = { timecode: 'timecode', frames: 'frames', seconds: 'seconds', feet: 'feet+frames' }
const source = computed(() => (fromCache.value * 2 > shown.value ? 'ready' : QUALITY[playedQuality.value]))
const meterNow = computed(() => (shown.value === 0 ? null : `${dropped.value} dropped · ${source.value}`))
// Read now and then, not with every frame.
const meter = refThrottled(meterNow, METER_EVERY_MS)
const meterTitleNow = computed(() => {
  const total = dropped.value + shown.value
  return `${dropped.value} of ${total} frames came too late to be shown; ${fromCache.value} came finished from the cache, the others were drawn at ${QUALITY[playedQuality.value]} quality.`
})
const meterTitle = refThrottled(meterTitleNow, METER_EVERY_MS)
const megabytes = computed(() => `${(cache.state.bytes / 1024 / 1024).toFixed(0)} MB`)
const cacheText = computed(() => {
  const { pictures, full, done } = cache.state
  if (cache.trouble !== null) return `Frames can’t be made ahead: ${cache.trouble} They are drawn as they are due.`
  return `${pictures === 1 ? '1 picture' : `${pictures} pictures`} ready, ${megabytes.value}${full ? '; the budget is full' : done ? '' : '; making more'}`
})
const loopName = computed(() => ({ off: 'on', shot: 'shot', sequence: 'sequence', range: 'in–out', film: 'film' })[timing.loop])

function go(frame: number) {
  stop()
  desk.goTo(frame)
}

const startText = computed(() => timecodeOfFrame(film.project?.startTimecodeFrames ?? 0, timing.base.rate, timing.base.drop))
function setStart(input: HTMLInputElement) {
  const project = film.project
  if (project === null) return
  const frame = frameOfTimecode(input.value, project.rate, timing.base.drop)
  if (frame === null || frame < 0) film.refuse('The start is timecode, such as 01:00:00:00.')
  else if (frame !== (project.startTimecodeFrames ?? 0)) film.perform('start timecode', (f) => editProject(f.outline, project.id, { startTimecodeFrames: frame === 0 ? undefined : frame }))
  input.value = startText.value
}
const defaultText = () => `${film.project?.defaultPanelFrames ?? 0} f`
function setDefault(input: HTMLInputElement) {
  const project = film.project
  if (project === null) return
  const frames = framesOfEntry(input.value, project.rate, project.defaultPanelFrames)
  if (frames === null || frames < 1 || frames > 100_000) film.refuse('New panels last from 1 to 100,000 frames: type frames, 1.5s, 2:12 or timecode.')
  else if (frames !== project.defaultPanelFrames) film.perform('length of new panels', (f) => editProject(f.outline, project.id, { defaultPanelFrames: frames }))
  input.value = defaultText()
}
function setDrop(on: boolean) {
  const project = film.project
  if (project !== null) film.perform(on ? 'drop-frame timecode' : 'timecode without drops', (f) => editProject(f.outline, project.id, { dropFrame: on ? true : undefined }))
}
</script>

<template>
  <div class="transport">
    <button class="icon-button" title="To the shot’s first frame (Home)" aria-label="To the shot’s first frame" @click="go(desk.placedShot?.startFrame ?? 0)"><SkipBack :size="16" /></button>
    <button class="icon-button" title="One frame back (,)" aria-label="One frame back" @click="go(desk.playhead - 1)"><StepBack :size="16" /></button>
    <button class="play" :title="desk.playing ? 'Pause (Space)' : 'Play (Space)'" :aria-label="desk.playing ? 'Pause' : 'Play'" @click="toggle"><Pause v-if="desk.playing" :size="16" /><Play v-else :size="16" /></button>
    <button class="icon-button" title="One frame on (.)" aria-label="One frame on" @click="go(desk.playhead + 1)"><StepForward :size="16" /></button>
    <MomentField @go="go" />
    <span v-if="desk.playing && rateNow !== 1" class="chip blue" data-test="rate">{{ rateNow < 0 ? '◂ ' : '' }}{{ Math.abs(rateNow) }}×</span>
    <span v-if="meter" class="chip meter" :class="{ wrong: dropped > 0 }" :title="meterTitle" data-test="meter">{{ meter }}</span>
    <SoundMeter />
    <span class="grow" />
    <label class="chip choice" :class="{ on: timing.loop !== 'off' }" title="What playback goes round in (Shift Space)"><Repeat :size="12" /><span>{{ loopName }}</span><select v-model="timing.loop" aria-label="What playback goes round in"><option v-for="each in LOOPS" :key="each.value" :value="each.value">{{ each.label }}</option></select></label>
    <label class="chip choice" :class="{ on: timing.speed !== 1 }" title="Speed of playback"><span class="mono">{{ timing.speed }}×</span><select :value="timing.speed" aria-label="Speed of playback" @change="(e) => setSpeed(Number((e.target as HTMLSelectElement).value))"><option v-for="speed in SPEEDS" :key="speed" :value="speed">{{ speed }}×</option></select></label>
    <button class="chip" title="How time is written, picture and sound while playing, start timecode" aria-haspopup="dialog" @click="(e) => settings?.toggle(e)">{{ DISPLAY_NAMES[timing.display] }}</button>
    <Popover ref="settings">
      <div class="settings" @keydown.stop>
        <label>Time in <select v-model="timing.display"><option v-for="each in TIME_DISPLAYS" :key="each" :value="each">{{ DISPLAY_NAMES[each] }}</option></select></label>
        <label>Film starts at <input :key="startText" class="mono" :value.attr="startText" aria-label="Film starts at" @change="(e) => setStart(e.target as HTMLInputElement)" /></label>
        <label v-if="film.project && canDropFrames(film.project.rate)"><input type="checkbox" :checked="timing.base.drop" @change="(e) => setDrop((e.target as HTMLInputElement).checked)" /> drop-frame timecode</label>
        <label>New panels last <input :key="defaultText()" class="mono" :value.attr="defaultText()" aria-label="New panels last" title="Frames, 1.5s, 2:12 or timecode" @change="(e) => setDefault(e.target as HTMLInputElement)" /></label>
        <label>Picture while playing <select v-model="timing.wantedQuality"><option v-for="each in QUALITIES" :key="each.value" :value="each.value">{{ each.label }}</option></select></label>
        <label>Sound <input type="range" min="0" max="1" step="0.01" :value="sound.volume" aria-label="Volume" @input="(e) => player.setVolume(Number((e.target as HTMLInputElement).value))" /> {{ Math.round(sound.volume * 100) }} %</label>
        <label><input v-model="sound.scrubbing" type="checkbox" /> hear while scrubbing (Alt H)</label>
        <label>Taps are taken as <button class="push-button" title="How late you tap is taken off every tap; measure it here" @click="calibrating = true">{{ offsetMs }} ms late…</button></label>
        <p class="quiet" role="status" data-test="cache-state" :data-painted="cache.state.painted">{{ cacheText }}</p>
      </div>
    </Popover>
    <button class="chip roomy" :aria-pressed="desk.lens.matte" title="Cover what is outside the frame (Shift M)" @click="desk.lens.matte = !desk.lens.matte">Matte</button>
    <button class="chip roomy" :aria-pressed="desk.lens.thirds" title="Thirds (Shift T)" @click="desk.lens.thirds = !desk.lens.thirds">Thirds</button>
    <button class="icon-button small" title="Safe areas, framings, matte, ground" aria-label="Safe areas, framings, matte, ground" aria-haspopup="dialog" @click="(e) => guides?.toggle(e)"><SlidersHorizontal :size="14" /></button>
    <Popover ref="guides">
      <div class="settings">
        <label><input v-model="desk.lens.matte" type="checkbox" /> matte: cover what is outside the frame (Shift M)</label>
        <label><input v-model="desk.lens.thirds" type="checkbox" /> thirds (Shift T)</label>
        <label><input v-model="desk.lens.safeAreas" type="checkbox" /> safe areas: 90 % for action, 80 % for titles (Shift A)</label>
        <label><input v-model="desk.lens.ground" type="checkbox" /> ground, horizon and vanishing points; straight lines snap to them (Shift U)</label>
        <div v-if="desk.lens.ground" class="ground-fields">
          <NumberField label="ground at" unit="fw" :model-value="desk.lens.groundY" :step="0.02" :min="-1000" :max="1000" :reset-to="-0.25" title="How high the ground lies in the set; the untouched lens stands at 0" @set="(v) => (desk.lens.groundY = v)" @scrub="(v) => (desk.lens.groundY = v)" />
          <NumberField label="squares of" unit="fw" :model-value="desk.lens.groundStep" :step="0.05" :min="0.02" :max="100" :reset-to="0.5" @set="(v) => (desk.lens.groundStep = v)" @scrub="(v) => (desk.lens.groundStep = v)" />
        </div>
        <label title="Equal steps of grey are equal steps of parallax; its ends are under Air in the depth rack"><input v-model="air.distances" type="checkbox" /> distances in grey (Alt Shift J)</label>
        <label title="Figures, boxes and grids that stand in for what is not drawn yet: all of them as one">Stand-ins <input v-model.number="desk.lens.standIns" type="range" min="0" max="1" step="0.05" aria-label="How strongly stand-ins show" /> {{ Math.round(desk.lens.standIns * 100) }} %</label>
        <label><input v-model="desk.lens.framings" type="checkbox" /> outline the framings before and after</label>
        <label>Matte strength <input v-model.number="desk.lens.matteStrength" type="range" min="0.1" max="1" step="0.02" /></label>
        <label><input v-model="desk.lens.darkSurround" type="checkbox" /> darker surround</label>
      </div>
    </Popover>
  </div>
</template>

<style scoped>
.transport {
  container: transport / inline-size;
  display: flex;
  align-items: center;
  gap: 4px;
  height: 36px;
  padding: 0 8px;
  border-top: 1px solid var(--rule);
  background: var(--paper-0);
  overflow: hidden;
  white-space: nowrap;
}
.play {
  display: grid;
  place-items: center;
  width: 30px;
  height: 30px;
  border: 0;
  border-radius: 50%;
  background: var(--ink);
  color: var(--paper-0);
  cursor: pointer;
}
.grow {
  flex: 1;
}
.choice {
  position: relative;
  gap: 4px;
  cursor: pointer;
}
.choice.on {
  background: var(--blue-wash);
  color: var(--blue);
}
.choice:focus-within {
  outline: 2px solid var(--blue);
}
.choice select {
  position: absolute;
  inset: 0;
  opacity: 0;
  cursor: pointer;
}
.settings {
  display: grid;
  gap: 8px;
}
.settings label {
  display: flex;
  align-items: center;
  gap: 8px;
}
.settings input.mono {
  width: 112px;
  padding: 3px 7px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--paper-1);
  color: var(--ink);
}
.ground-fields {
  display: flex;
  gap: 6px;
}
.settings p {
  max-width: 290px;
  margin: 0;
  white-space: normal;
}
.meter {
  margin-left: 4px;
}
/* In a narrow lens view these are in the popover beside them. */
@container transport (max-width: 820px) {
  .roomy {
    display: none;
  }
}
</style>
