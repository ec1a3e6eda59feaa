<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed } from 'vue'
import { useDeskStore } from '~/stores/desk'
import { useOperateStore } from '~/stores/operate'

/** How a change of the camera is kept here, Key, and Auto-key: beside whatever view the camera is moved in. */
const desk = useDeskStore()
const operate = useOperateStore()
useEventListener(window, 'keydown', (event) => {
  if (event.key === 'Escape' && desk.trial !== null) desk.trial = null
})
const MODE_TEXT = {
  reframes: 'reframes the shot',
  'changes-framing': 'changes this framing',
  looking: 'looking only',
  'auto-key': 'Auto-key',
  locked: 'locked',
} as const
/** Where there is little room. */
const SHORT_TEXT = {
  reframes: 'reframes',
  'changes-framing': 'changes',
  looking: 'looking',
  'auto-key': 'Auto-key',
  locked: 'locked',
} as const
/** Whether what is seen is only being looked at. */
const tried = computed(() => desk.trialHere !== null)
const modeTitle = computed(
  () =>
    ({
      reframes: 'The shot is locked off: moving the camera reframes the whole shot. Key (Q) at another frame makes a move.',
      'changes-framing': 'The playhead stands on a framing: moving the camera changes it.',
      looking: 'Between framings, moving the camera only looks. Key (Q) keeps it; Esc or moving the playhead drops it.',
      'auto-key': 'Every camera change writes a framing at the playhead.',
      locked: 'The camera or this framing is locked.',
    })[desk.cameraMode],
)
</script>

<template>
  <div class="camera-bar" :class="{ tried }">
    <span class="chip mode" :class="[desk.cameraMode, { blue: desk.cameraMode === 'looking', wrong: desk.cameraMode === 'auto-key' }]" :title="modeTitle" :data-short="tried ? 'not kept' : SHORT_TEXT[desk.cameraMode]" data-test="camera-mode"><span class="long">{{ tried ? 'not kept yet' : MODE_TEXT[desk.cameraMode] }}</span></span>
    <template v-if="tried">
      <button class="chip" title="Drop this look (Esc)" @click="desk.trial = null">Drop</button>
    </template>
    <span class="grow" />
    <button class="push-button key" title="Keep what the lens shows as a framing here (Q)" @click="desk.key()">Key</button>
    <button class="push-button auto" :aria-pressed="desk.autoKey" title="Key every camera change by itself (Shift Q)" @click="desk.autoKey = !desk.autoKey">Auto-key</button>
    <button class="push-button operate" :aria-pressed="operate.phase !== 'idle'" title="Work the camera by hand while the film plays (Alt Shift A)" @click="operate.open()">Operate…</button>
  </div>
</template>

<style scoped>
.camera-bar {
  display: flex;
  flex: 1;
  align-items: center;
  gap: 7px;
  min-width: 0;
  overflow: hidden;
  container-type: inline-size;
}
/* What has no room here is there by its key, and by name; the chip says what is lit. */
@container (max-width: 203px) {
  .auto {
    display: none;
  }
}
@container (max-width: 250px) {
  .tried .auto {
    display: none;
  }
}
@container (max-width: 278px) {
  .operate {
    display: none;
  }
}
@container (max-width: 324px) {
  .tried .operate {
    display: none;
  }
}
@container (max-width: 380px) {
  .operate {
    padding: 1px 6px;
  }
}
@container (max-width: 334px) {
  .long {
    display: none;
  }
  .mode::before {
    content: attr(data-short);
  }
}
@container (max-width: 341px) {
  .tried .long {
    display: none;
  }
  .tried .mode::before {
    content: attr(data-short);
  }
}
.mode {
  display: block;
  flex: 0 1 auto;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
.push-button {
  flex: none;
}
.grow {
  flex: 1;
}
</style>
