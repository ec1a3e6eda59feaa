<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'
import { useSoundPlayerStore } from '~/stores/soundPlayer'
import { vFigures } from '~/directives/figures'
import { useDeskStore } from '~/stores/desk'
import { useSoundStore } from '~/stores/sound'

/** How loud what is heard is: the highest sample of late on a bar, loudness over three seconds as a number. */
const EVERY_MS = 160
const LOWEST_DB = -48
/** At the ceiling the mix is being turned down. */
const CEILING_DB = -0.02

const desk = useDeskStore()
const sound = useSoundStore()
const player = useSoundPlayerStore()
const heard = shallowRef<ReturnType<typeof player.levels>>(null)
let highest = -Infinity
const held = shallowRef(-Infinity)

const { pause, resume } = useIntervalFn(
  () => {
    heard.value = player.levels()
    // The tick falls a decibel at a time, so that it can be read.
    highest = Math.max(heard.value?.peakDb ?? -Infinity, highest - 1)
    held.value = highest
  },
  EVERY_MS,
  { immediate: false },
)
watch(
  () => desk.playing,
  (playing) => {
    if (playing) {
      highest = -Infinity
      resume()
    } else pause()
  },
  { immediate: true },
)
const share = (db: number) => Math.max(0, Math.min(1, (db - LOWEST_DB) / -LOWEST_DB))
const loud = computed(() => held.value >= CEILING_DB)
const number = computed(() => (heard.value?.lufs === null || heard.value === null ? '−∞' : heard.value.lufs.toFixed(0).replace('-', '−')))
/** Said when one looks, so that nothing is written while it plays. */
const title = shallowRef('')
function say() {
  title.value =
    heard.value === null
      ? 'Loudness of what is heard, while it plays'
      : `Loudness over three seconds: ${number.value} LUFS. Highest sample of late: ${held.value === -Infinity ? '−∞' : held.value.toFixed(1).replace('-', '−')} dB${loud.value ? '; what would be louder is turned down' : ''}.`
}
</script>

<template>
  <span v-if="sound.placed.clips.length > 0" class="loudness" :class="{ loud }" :title="title" data-test="loudness" @pointerenter="say">
    <span class="track" aria-hidden="true">
      <span class="bar" :style="{ transform: `scaleX(${share(heard?.peakDb ?? -Infinity)})` }" />
      <span class="tick" :style="{ transform: `translateX(${share(held) * 100}%)` }" />
    </span>
    <span v-figures="number" class="mono" /><span class="unit">LUFS</span>
  </span>
</template>

<style scoped>
.loudness {
  display: inline-flex;
  flex: none;
  align-items: center;
  gap: 5px;
  margin-left: 10px;
  color: var(--ink-2);
  font-size: 11px;
}
.track {
  position: relative;
  width: 46px;
  height: 6px;
  border-radius: 3px;
  background: var(--paper-2);
  overflow: hidden;
  contain: strict;
}
.bar {
  position: absolute;
  inset: 0;
  background: var(--sea);
  transform-origin: left;
}
/* As wide as the track, and shifted by a share of that; its right edge is what is seen. */
.tick {
  position: absolute;
  top: 0;
  bottom: 0;
  left: -100%;
  width: 100%;
  border-right: 2px solid var(--ink);
}
.loud .bar {
  background: var(--vermilion);
}
.loud .tick {
  border-color: var(--vermilion);
}
.mono {
  width: 3ch;
  text-align: right;
  contain: layout style;
}
@container transport (max-width: 820px) {
  .track {
    width: 30px;
  }
  .unit {
    display: none;
  }
}
</style>
