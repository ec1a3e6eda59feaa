<script setup lang="ts">
import { computed } from 'vue'
import { Pause, Play, Trash2 } from '~/icons'
import HandWheel from '~/components/desk/operate/HandWheel.vue'
import NumberField from '~/components/fields/NumberField.vue'
import { useCameras } from '~/composables/camera/useCameras'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useDeskStore } from '~/stores/desk'
import { SMOOTH_MOST, useOperateStore } from '~/stores/operate'
import { wordRefusal } from '~/text/refusals'

/** Under the lens view while a camera is worked by hand, and after: the tries, how smooth, and the framings that one becomes. */
const desk = useDeskStore()
const operate = useOperateStore()
const { letterOf } = useCameras()
const playback = usePlayback()

const seconds = (frames: number) => `${(frames / desk.fps).toFixed(1)} s`
const first = computed(() => operate.part?.first ?? operate.chosen?.from ?? 0)
const last = computed(() => operate.part?.last ?? (operate.chosen === null ? 0 : operate.chosen.from + operate.chosen.lastFrame))
function setPart(from: number, to: number) {
  const now = operate.chosen
  if (now === null) return
  const [a, b] = [Math.max(now.from, Math.min(from, to)), Math.min(now.from + now.lastFrame, Math.max(from, to))]
  operate.part = a === now.from && b === now.from + now.lastFrame ? null : { first: a, last: b }
}
function playTry() {
  if (desk.playing) return playback.stop()
  if (operate.chosen !== null) desk.goTo((desk.placedShot?.startFrame ?? 0) + operate.chosen.from)
  void playback.play()
}
const words = computed(() => {
  const baked = operate.found
  if (baked === null) return ''
  if (!baked.made.ok) return ''
  const locked = baked.locked === 0 ? '' : `, ${baked.locked} locked kept`
  return `${baked.framings} framings, ${baked.mostPx.toFixed(1)} px off at most${locked}`
})
const refusal = computed(() => (operate.found !== null && !operate.found.made.ok ? wordRefusal(operate.found.made.refusal) : operate.problem))
</script>

<template>
  <div class="operate-bar" :class="{ live: operate.isLive }" role="region" aria-label="Operate" data-test="operate-bar">
    <template v-if="operate.phase === 'count'">
      <b>Camera {{ letterOf(desk.cameraAtWorkId) }}</b>
      <span class="quiet how">Take hold of the picture: the camera goes where you drag. Shift turns it, the wheel trucks, Alt and the wheel zoom; W A S D go, I J K L turn, ↑ ↓ truck, ← → roll, Page keys zoom.</span>
      <HandWheel />
      <button class="push-button" title="As it was (Esc)" @click="operate.giveUp">Cancel</button>
    </template>
    <template v-else-if="operate.phase === 'running'">
      <b>Operating camera {{ letterOf(desk.cameraAtWorkId) }}</b>
      <label class="smooth" title="How much of a tremble is taken off what is kept; it can be changed after, too">Smooth <input v-model.number="operate.smoothFrames" type="range" min="0" :max="SMOOTH_MOST" step="1" aria-label="Smoothing, frames" /> <span class="mono">{{ operate.smoothFrames }} f</span></label>
      <span class="grow" />
      <HandWheel />
      <button class="push-button strong" title="Keep this try (Space)" @click="operate.finish">Done</button>
      <button class="push-button" title="Throw this try away (Esc)" @click="operate.giveUp">Give up</button>
    </template>
    <template v-else>
      <span class="tries" role="group" aria-label="Tries">
        <button v-for="each in operate.tries" :key="each.id" class="chip" :aria-pressed="each.id === operate.chosen?.id" :title="`Try ${each.number}: frames ${each.from} to ${each.from + each.lastFrame}, camera ${letterOf(each.cameraId)}`" data-test="try" @click="operate.choose(each.id)">try {{ each.number }} <small>{{ seconds(each.lastFrame) }}</small></button>
        <button class="push-button" :title="operate.part ? `Count in and work the camera again over frames ${first} to ${last}; the rest stays` : 'Count in and work the camera again from this try’s first frame'" @click="operate.begin(operate.chosen ? first : undefined, operate.part ? last : null)">Again</button>
      </span>
      <template v-if="operate.chosen">
        <button class="icon-button" :title="desk.playing ? 'Pause (Space)' : 'Play this try as it would be (Space)'" :aria-label="desk.playing ? 'Pause' : 'Play this try'" @click="playTry"><Pause v-if="desk.playing" :size="15" /><Play v-else :size="15" /></button>
        <label class="smooth" title="How much of a tremble is taken off; nothing comes later than the hand did it">Smooth <input v-model.number="operate.smoothFrames" type="range" min="0" :max="SMOOTH_MOST" step="1" aria-label="Smoothing, frames" /> <span class="mono">{{ operate.smoothFrames }} f</span></label>
        <NumberField class="number" label="from" :model-value="first" :step="1" :min="operate.chosen.from" :max="last" :decimals="0" :reset-to="operate.chosen.from" title="The first of its frames that is written, or worked again" @set="(v) => setPart(v, last)" @scrub="(v) => setPart(v, last)" />
        <NumberField class="number" label="to" :model-value="last" :step="1" :min="first" :max="operate.chosen.from + operate.chosen.lastFrame" :decimals="0" :reset-to="operate.chosen.from + operate.chosen.lastFrame" title="The last of its frames that is written, or worked again" @set="(v) => setPart(first, v)" @scrub="(v) => setPart(first, v)" />
        <NumberField class="number" label="off by" unit="px" :model-value="operate.tolerancePx" :step="0.5" :min="0.1" :max="50" :decimals="1" :reset-to="2" title="Of the output, at any frame; more leaves fewer framings" @set="(v) => (operate.tolerancePx = v)" @scrub="(v) => (operate.tolerancePx = v)" />
        <span v-if="refusal" class="wrong" role="alert" :title="refusal">{{ refusal }}</span>
        <span v-else-if="operate.found === null" class="progress" role="progressbar" :aria-valuenow="Math.round(operate.share * 100)" aria-label="Finding framings"><i :style="{ width: `${operate.share * 100}%` }" /></span>
        <span v-else class="mono found" data-test="operated" :title="words">{{ words }}</span>
        <span class="grow" />
        <button class="icon-button" :title="`Throw try ${operate.chosen.number} away`" :aria-label="`Throw try ${operate.chosen.number} away`" @click="operate.remove(operate.chosen.id)"><Trash2 :size="15" /></button>
        <button class="push-button" :disabled="!operate.found?.made.ok" :aria-pressed="operate.isShown" title="See the framings in every view before they are written" @click="operate.show(!operate.isShown)">Preview</button>
        <button class="push-button strong" :disabled="!operate.found?.made.ok" title="In the place of this camera's framings over those frames" @click="operate.write">Write framings</button>
      </template>
      <button class="push-button" title="Leave the tries (Esc); they are kept with the shot" @click="operate.close">Close</button>
    </template>
  </div>
</template>

<style scoped>
.operate-bar {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
  padding: 5px 10px;
  border-top: 1px solid var(--rule);
  background: var(--paper-0);
}
.live {
  flex-wrap: nowrap;
}
.operate-bar {
  min-height: 76px;
}
.how {
  flex: 1;
  min-width: 0;
  font-size: 12px;
}
.grow {
  flex: 1;
}
.tries {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.smooth {
  display: flex;
  align-items: center;
  gap: 5px;
}

.smooth input {
  width: 90px;
  accent-color: var(--ink-2);
}
.number {
  width: 92px;
}
.found {
  font-size: 12px;
}
.wrong {
  max-width: 320px;
  overflow: hidden;
  color: var(--vermilion-text);
  text-overflow: ellipsis;
  white-space: nowrap;
}
.progress {
  width: 90px;
  height: 6px;
  border-radius: 3px;
  background: var(--paper-2);
  overflow: hidden;
}
.progress i {
  display: block;
  height: 100%;
  background: var(--blue);
}
small {
  font-size: 11px;
}
</style>
