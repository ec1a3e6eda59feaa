<script setup lang="ts">
import { computed, ref } from 'vue'
import { Pause, Play, Repeat, SkipBack, SlidersHorizontal, StepBack, StepForward } from '~/icons'
import { usePlayback } from '~/composables/usePlayback'
import { useDeskStore } from '~/stores/desk'

const desk = useDeskStore()
const { toggle, stop, dropped, shown, quality } = usePlayback()
const settings = ref<{ toggle: (event: Event) => void } | null>(null)
const QUALITY = { 1: 'full', 0.5: 'half', 0.25: 'quarter' } as const
const meter = computed(() => (shown.value === 0 ? null : `${dropped.value} dropped · ${QUALITY[quality.value]}`))

function go(frame: number) {
  stop()
  desk.goTo(frame)
}
</script>

<template>
  <div class="transport">
    <button class="icon-button" title="To the shot’s first frame (Home)" aria-label="To the shot’s first frame" @click="go(desk.placedShot?.startFrame ?? 0)"><SkipBack :size="16" /></button>
    <button class="icon-button" title="One frame back (,)" aria-label="One frame back" @click="go(desk.playhead - 1)"><StepBack :size="16" /></button>
    <button class="play" :title="desk.playing ? 'Pause (Space)' : 'Play (Space)'" :aria-label="desk.playing ? 'Pause' : 'Play'" @click="toggle"><Pause v-if="desk.playing" :size="16" /><Play v-else :size="16" /></button>
    <button class="icon-button" title="One frame on (.)" aria-label="One frame on" @click="go(desk.playhead + 1)"><StepForward :size="16" /></button>
    <span class="mono timecode" data-test="timecode">{{ desk.timecode }}</span>
    <span class="mono quiet" data-test="shot-frame">{{ desk.shotFrame }} / {{ desk.placedShot?.lengthFrames ?? 0 }} f</span>
    <span v-if="meter" class="chip meter" :class="{ wrong: dropped > 0 }" :title="`${dropped} of ${dropped + shown} frames came too late to be shown; picture at ${QUALITY[quality]} quality`" data-test="meter">{{ meter }}</span>
    <span class="grow" />
    <button class="chip" :aria-pressed="desk.loopShot" title="Loop the shot; off plays on" @click="desk.loopShot = !desk.loopShot"><Repeat :size="12" /> Loop</button>
    <button class="chip" :aria-pressed="desk.lens.matte" title="Cover what is outside the frame" @click="desk.lens.matte = !desk.lens.matte">Matte</button>
    <button class="icon-button small" title="Matte and surround" aria-label="Matte and surround" aria-haspopup="dialog" @click="(e) => settings?.toggle(e)"><SlidersHorizontal :size="14" /></button>
    <Popover ref="settings"><div class="settings"><label>Matte strength <input v-model.number="desk.lens.matteStrength" type="range" min="0.1" max="1" step="0.02" /></label><label><input v-model="desk.lens.darkSurround" type="checkbox" /> darker surround</label></div></Popover>
    <button class="chip" :aria-pressed="desk.lens.thirds" title="Thirds" @click="desk.lens.thirds = !desk.lens.thirds">Thirds</button>
    <button class="chip" :aria-pressed="desk.lens.safeAreas" title="Safe areas: 90 % for action, 80 % for titles" @click="desk.lens.safeAreas = !desk.lens.safeAreas">Safe</button>
    <button class="chip" :aria-pressed="desk.lens.framings" title="Outline the framings before and after" @click="desk.lens.framings = !desk.lens.framings">Framings</button>
  </div>
</template>

<style scoped>
.transport {
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
.timecode {
  margin-left: 6px;
  margin-right: 8px;
  font-size: 16px;
}
.grow {
  flex: 1;
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
.meter {
  margin-left: 4px;
}
</style>
