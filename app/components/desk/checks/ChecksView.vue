<script setup lang="ts">
import ChoiceRow from '~/components/fields/ChoiceRow.vue'
import CutsView from '~/components/desk/checks/CutsView.vue'
import EdgesView from '~/components/desk/checks/EdgesView.vue'
import NeededView from '~/components/desk/checks/NeededView.vue'
import SpeedView from '~/components/desk/checks/SpeedView.vue'
import { useShownCheck, type Check } from '~/composables/checks/useCheckCommands'

/** What is looked after while one works. */
const check = useShownCheck()
const CHECKS: readonly { readonly id: Check; readonly name: string; readonly title: string }[] = [
  { id: 'edges', name: 'Edges', title: 'Does the art suffice? Where it ends inside the frame, in this shot and in the film (Alt Shift I)' },
  { id: 'needed', name: 'Art needed', title: 'How large the art of the chosen levels has to be for the moves of all shots (Alt Shift R)' },
  { id: 'speed', name: 'Speed', title: 'How fast the camera and the levels go over the screen, and what strobes (Alt Shift M)' },
  { id: 'cuts', name: 'Cuts', title: 'How one picture follows another: eye, size, direction, line of action, camera, length (Alt 9; Alt 8: the next to look at)' },
]
</script>

<template>
  <div class="checks">
    <ChoiceRow v-model="check" class="which" label="Which check" :choices="CHECKS" fill />
    <div class="body">
      <NeededView v-if="check === 'needed'" />
      <SpeedView v-else-if="check === 'speed'" />
      <CutsView v-else-if="check === 'cuts'" />
      <EdgesView v-else />
    </div>
  </div>
</template>

<style scoped>
.checks {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: var(--paper-1);
}
.which {
  flex: none;
  margin: 7px 10px 0;
}
.body {
  flex: 1;
  min-height: 0;
}
</style>
