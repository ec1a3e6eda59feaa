<script setup lang="ts">
import FitField from '~/components/desk/strip/FitField.vue'
import RunningTimes from '~/components/desk/strip/RunningTimes.vue'
import TapCalibration from '~/components/desk/strip/TapCalibration.vue'
import TapBar from '~/components/desk/strip/TapBar.vue'
import { Blend, Combine, Copy, Plus, Scissors, Trash2 } from '~/icons'
import { usePanels } from '~/composables/boards/usePanels'
import { useTapTiming } from '~/composables/strip/useTapTiming'
import { useTransitions } from '~/composables/strip/useTransitions'
import { useTiming } from '~/composables/strip/useTiming'
import { useBoardsStore } from '~/stores/boards'
import { useTimingStore } from '~/stores/timing'
import { computed } from 'vue'

/** The head of the strip: how time is given, what is chosen and how long it is, and how long all runs. */
const timing = useTimingStore()
const boards = useBoardsStore()
const tap = useTapTiming()
const transitions = useTransitions()
const { newPanel, deletePanel } = usePanels()
const { splitHere, joinTargets, toggleFermata, targetPanels, removeTargets } = useTiming()
const held = computed(() => targetPanels.value.length > 0 && targetPanels.value.every((panel) => panel.lengthLocked))
const several = computed(() => boards.panels.length > 1 || boards.shots.length > 0)
const MODES = [
  { value: 'push', label: 'Push', title: 'Push: later time moves. Hold Alt while you drag for Steal.' },
  { value: 'steal', label: 'Steal', title: 'Steal: the panel after gives or takes, the total stays. Hold Alt while you drag for Push.' },
] as const
</script>

<template>
  <TapBar v-if="tap.phase.value !== 'idle'" />
  <template v-else>
    <span class="modes" role="radiogroup" aria-label="How time is given">
      <button v-for="mode in MODES" :key="mode.value" role="radio" :aria-checked="timing.modeNow === mode.value" :title="`${mode.title} (Shift V)`" @click="timing.mode = mode.value">{{ mode.label }}</button>
    </span>
    <button class="push-button" title="Tap timing: play, and each tap ends a panel (T)" @click="tap.start">Tap timing</button>
    <button class="chip" :aria-pressed="timing.snap" title="Snap to panels, keys, marks and the playhead; hold Ctrl to suspend it (Alt S)" @click="timing.snap = !timing.snap">snap</button>
    <i class="rule" />
    <button class="icon-button" title="New panel after this one (N)" aria-label="New panel" @click="newPanel(false)"><Plus :size="16" /></button>
    <button class="icon-button" title="Duplicate this panel (Shift N)" aria-label="Duplicate this panel" @click="newPanel(true)"><Copy :size="15" /></button>
    <button class="icon-button" title="Split the panel at the playhead (Y)" aria-label="Split the panel at the playhead" @click="splitHere"><Scissors :size="15" /></button>
    <button class="icon-button" title="Join the chosen panels or shots (Shift Y)" aria-label="Join the chosen panels or shots" :disabled="!several" @click="joinTargets"><Combine :size="15" /></button>
    <button class="icon-button fermata" :aria-pressed="held" title="Fermata: the panel keeps its length (Shift F)" aria-label="Fermata" @click="toggleFermata"><svg width="18" height="12" viewBox="0 0 18 12" aria-hidden="true"><path d="M2 10a7 7 0 0 1 14 0" fill="none" stroke="currentColor" stroke-width="2" /><circle cx="9" cy="9.5" r="1.7" fill="currentColor" /></svg></button>
    <button class="icon-button" :title="several ? 'Delete what is chosen (Delete)' : 'Delete this panel (Ctrl Shift Delete)'" :aria-label="several ? 'Delete what is chosen' : 'Delete this panel'" @click="several ? removeTargets() : deletePanel()"><Trash2 :size="15" /></button>
    <button class="icon-button" title="Transition at the cut nearest to the playhead (Shift C)" aria-label="Transition" @click="transitions.putHere"><Blend :size="15" /></button>
    <i class="rule" />
    <FitField />
    <span class="grow" />
    <RunningTimes />
  </template>
  <TapCalibration v-if="tap.calibrating.value" @close="tap.calibrating.value = false" />
</template>

<style scoped>
.modes {
  display: inline-flex;
  border: 1px solid var(--rule);
  border-radius: 6px;
  overflow: hidden;
}
.modes button {
  height: 26px;
  padding: 0 10px;
  border: 0;
  background: var(--paper-0);
  color: var(--ink-2);
  font: inherit;
  cursor: pointer;
}
.modes button[aria-checked='true'] {
  background: var(--paper-3);
  color: var(--ink);
  font-weight: 600;
}
.rule {
  width: 1px;
  height: 20px;
  background: var(--rule);
}
.grow {
  flex: 1;
}
</style>
