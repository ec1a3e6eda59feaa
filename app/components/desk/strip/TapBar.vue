<script setup lang="ts">
import { computed } from 'vue'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useTapTiming } from '~/composables/strip/useTapTiming'
import { useDeskStore } from '~/stores/desk'
import { useTimingStore } from '~/stores/timing'

/** What stands in the strip's head while panels are timed by tapping, and after. */
const desk = useDeskStore()
const timing = useTimingStore()
const playback = usePlayback()
const { phase, beat, calibrating, offsetMs, progress, tap, finish, keep, discard, retake } = useTapTiming()
const told = computed(() => `${progress.value.ended} of ${progress.value.of} ${progress.value.of === 1 ? 'panel' : 'panels'}`)
</script>

<template>
  <div class="tap-bar" role="status" data-test="tap-bar">
    <template v-if="phase === 'running'">
      <b>Tap timing</b>
      <button :key="beat" class="push-button strong pad" title="End the panel here (T)" data-test="tap" @pointerdown.prevent="tap">Tap <kbd>T</kbd></button>
      <span>{{ told }}</span>
      <span class="quiet">A tap ends the panel that is on. Fermatas pass by themselves.</span>
      <span class="grow" />
      <button class="push-button" title="Stop and look at it (Space)" @click="finish">Stop</button>
      <button class="push-button" title="Throw it away (Esc)" @click="discard">Discard</button>
    </template>
    <template v-else>
      <b>Tapped {{ told }}</b>
      <span class="mono quiet">{{ timing.length(progress.frames) }}</span>
      <button class="push-button" :title="desk.playing ? 'Pause (Space)' : 'Play it as it was tapped (Space)'" @click="playback.toggle">{{ desk.playing ? 'Pause' : 'Play it' }}</button>
      <span class="quiet">Whatever else you change keeps it.</span>
      <span class="grow" />
      <button class="link" title="How late you tap is taken off every tap" @click="calibrating = true">reaction {{ offsetMs }} ms</button>
      <button class="push-button" title="Play it again and tap anew (T)" @click="retake">Retake</button>
      <button class="push-button" title="Put the lengths back (Esc)" @click="discard">Discard</button>
      <button class="push-button strong" title="Keep these lengths (Enter)" @click="keep">Keep</button>
    </template>
  </div>
</template>

<style scoped>
.tap-bar {
  display: flex;
  flex: 1;
  align-items: center;
  gap: 10px;
  min-width: 0;
  white-space: nowrap;
}
.grow {
  flex: 1;
}
.pad {
  min-width: 92px;
  animation: struck 180ms ease-out;
}
.quiet {
  overflow: hidden;
  text-overflow: ellipsis;
}
kbd {
  margin-left: 4px;
  font: 11px var(--mono);
  opacity: 0.75;
}
@keyframes struck {
  from {
    transform: scale(0.93);
  }
}
@media (prefers-reduced-motion: reduce) {
  .pad {
    animation: none;
  }
}
</style>
