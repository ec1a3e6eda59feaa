<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'
import { useSoundPlayer } from '~/composables/useSoundPlayer'
import { useDeskStore } from '~/stores/desk'
import { useSoundStore } from '~/stores/sound'

/** How loud what is heard is: the highest sample of late on a bar, loudness over three seconds as a number. */
const EVERY_MS = 120
const LOWEST_DB = -48
/** At the ceiling the mix is being turned down. */
const CEILING_DB = -0.02

const desk = useDeskStore()
const sound = useSoundStore()
const player = useSoundPlayer()
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
const share = (db: number) => Math.max(0, Math.min(1, (db - LOWEST_DB) / -LOWEST_DB)) * 100
const loud = computed(() => held.value >= CEILING_DB)
const number = computed(() => (heard.value?.lufs === null || heard.value === null ? '−∞' : heard.value.lufs.toFixed(0).replace('-', '−')))
const title = computed(() =>
  heard.value === null
    ? 'Loudness of what is heard, while it plays'
    : `Loudness over three seconds: ${number.value} LUFS. Highest sample of late: ${held.value === -Infinity ? '−∞' : held.value.toFixed(1).replace('-', '−')} dB${loud.value ? '; what would be louder is turned down' : ''}.`,
)
</script>

<template>
  <span v-if="sound.placed.clips.length > 0" class="loudness" :class="{ loud }" :title="title" data-test="loudness">
    <span class="track" aria-hidden="true">
      <span class="bar" :style="{ width: `${share(heard?.peakDb ?? -Infinity)}%` }" />
      <span v-if="held > LOWEST_DB" class="tick" :style="{ left: `${share(held)}%` }" />
    </span>
    <span class="mono">{{ number }}<span class="unit"> LUFS</span></span>
  </span>
</template>

<style scoped>
.loudness {
  display: inline-flex;
  align-items: center;
  gap: 5px;
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
}
.bar {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--sea);
}
.tick {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  margin-left: -2px;
  background: var(--ink);
}
.loud .bar,
.loud .tick {
  background: var(--vermilion);
}
.mono {
  min-width: 3ch;
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
