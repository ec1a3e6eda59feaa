<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed } from 'vue'
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import { useDeskStore } from '~/stores/desk'
import { useLevelToolStore } from '~/stores/levelTool'

/** How a change of the level in hand is kept here, and what dragging it does. */
const { pulls } = defineProps<{ pulls: boolean }>()
const desk = useDeskStore()
const tool = useLevelToolStore()
useEventListener(window, 'keydown', (event) => {
  if (event.key === 'Escape' && desk.levelTrial !== null) desk.levelTrial = null
})
const mode = computed(() => (desk.selectedLevel === null ? null : desk.levelModeOf(desk.selectedLevel.id)))
const WORDS = { 'whole-shot': 'whole shot', 'changes-key': 'changes key', looking: 'looking only', 'auto-key': 'Auto-key', locked: 'locked' } as const
const TITLES = {
  'whole-shot': 'It has no keys of its place: moving it moves it for the whole shot. Key (Q), or pulling a travel (W), makes it move.',
  'changes-key': 'The playhead stands on a key, or there is only one: moving it changes that key.',
  looking: 'Between keys, moving it only looks. Key (Q) keeps it; Esc or moving the playhead drops it.',
  'auto-key': 'Every change of a level writes a key at the playhead.',
  locked: 'The level or this key is locked.',
} as const
const DRAGS = [
  { id: 'move', name: 'Move', title: 'A drag moves the level at this frame (hold W to pull a travel)' },
  { id: 'pull', name: 'Travel', title: 'A drag leaves it where it stands at the panel’s first frame, and where it is let go at its last (W held does the same)' },
  { id: 'draw', name: 'Draw way', title: 'A drag draws the way that it goes: few smooth keys' },
] as const
const TIMINGS = [
  { id: 'even', name: 'evenly', title: 'It goes the drawn way evenly, over the panel' },
  { id: 'drawn', name: 'as drawn', title: 'It goes as fast as the hand did, from the playhead on' },
] as const
</script>

<template>
  <div class="level-bar">
    <span class="chip mode" :class="{ blue: mode === 'looking', wrong: mode === 'auto-key' }" :title="mode === null ? 'Click a figure in the lens view, or choose a level in the depth rack' : TITLES[mode]" data-test="level-mode">{{ mode === null ? 'no level' : desk.triedHere ? 'not kept yet' : WORDS[mode] }}</span>
    <button v-if="desk.triedHere" class="chip" title="Drop this look (Esc)" @click="desk.levelTrial = null">Drop</button>
    <ChoiceRow label="What a drag does" :choices="DRAGS" :model-value="pulls ? 'pull' : tool.drag" @update:model-value="(id) => (tool.drag = id)" />
    <ChoiceRow v-if="tool.drag === 'draw'" label="Timing of a drawn way" :choices="TIMINGS" :model-value="tool.drawnTiming" @update:model-value="(id) => (tool.drawnTiming = id)" />
    <span class="grow" />
    <button class="push-button" title="Keep the chosen levels as they are as keys here (Q)" @click="desk.key()">Key</button>
    <button class="push-button" :aria-pressed="desk.autoKey" title="Key every change by itself (Shift Q)" @click="desk.autoKey = !desk.autoKey">Auto-key</button>
  </div>
</template>

<style scoped>
.level-bar {
  display: flex;
  flex: 1;
  align-items: center;
  gap: 6px;
  min-width: 208px;
  overflow: hidden;
}
.mode {
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
