<script setup lang="ts">
import { computed } from 'vue'
import { Mic, Plus } from '~/icons'
import { useSound } from '~/composables/sound/useSound'
import { useSoundStore } from '~/stores/sound'

/** Where sound comes from, what is on its way, and what waits in the tray. */
const sound = useSoundStore()
const { bringing, pick, answerSplits } = useSound()
const tray = computed(() => sound.placed.tray.length)
const proposals = computed(() => sound.proposals)
const PHASES = { reading: 'reading', sending: 'sending' } as const
</script>

<template>
  <div class="sound-bar">
    <p v-if="bringing" class="state" role="status" data-test="bringing-sound">
      {{ PHASES[bringing.phase] }} {{ bringing.name }}<template v-if="bringing.of > 1"> ({{ bringing.number }} of {{ bringing.of }})</template>
      <progress :value="bringing.share" max="1" />
      <button class="push-button" title="Stop bringing these recordings in" @click="bringing.cancel()">Cancel</button>
    </p>
    <p v-else-if="proposals" class="state" role="status" data-test="splits">
      <template v-if="proposals.atSeconds.length === 0">No pause was found to split at. <button class="push-button" @click="sound.proposals = null">Close</button></template>
      <template v-else>
        Split at {{ proposals.atSeconds[0]!.toFixed(2) }} s? {{ proposals.atSeconds.length === 1 ? 'the last pause' : `the first of ${proposals.atSeconds.length} pauses` }}
        <button class="push-button strong" title="Split here, and go on to the next" @click="answerSplits([proposals.atSeconds[0]!], true)">Split</button>
        <button class="push-button" title="Leave this pause, and go on to the next" @click="answerSplits([proposals.atSeconds[0]!], false)">Leave</button>
        <button v-if="proposals.atSeconds.length > 1" class="push-button" @click="answerSplits(proposals.atSeconds, true)">All {{ proposals.atSeconds.length }}</button>
        <button class="push-button" @click="sound.proposals = null">Close</button>
      </template>
    </p>
    <template v-else>
      <button class="chip" title="Recordings (WAV, FLAC, Ogg, Opus, MP3) at the playhead; they can also be dropped on the strip (Shift I)" @click="pick()"><Plus :size="12" /> Sound…</button>
      <button class="chip" title="A line in a made-up voice, or from a microphone, under its panel (Shift R)" @click="sound.voicing = 'words'"><Mic :size="12" /> Scratch line…</button>
      <button v-if="tray > 0" class="chip" :aria-pressed="sound.trayOpen" title="Clips whose shot is gone: none is lost" data-test="tray" @click="sound.trayOpen = !sound.trayOpen">Tray {{ tray }}</button>
    </template>
  </div>
</template>

<style scoped>
.sound-bar,
.state {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
  height: 22px;
  margin: 0;
  white-space: nowrap;
}
.chip {
  height: 18px;
  padding: 0 8px;
  font-size: 11.5px;
  display: inline-flex;
  align-items: center;
  gap: 4px;
}
.push-button {
  min-height: 20px;
  padding: 0 8px;
  font-size: 11.5px;
}
progress {
  width: 120px;
  accent-color: var(--ink);
}
</style>
