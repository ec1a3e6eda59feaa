<script setup lang="ts">
import { computed } from 'vue'
import { MOST_GHOSTS, usePenStore } from '~/stores/pen'

/** Which neighbouring panels show through the paper, and how. */
const emit = defineEmits<{ flip: [] }>()
const pen = usePenStore()
const counts = Array.from({ length: MOST_GHOSTS + 1 }, (_, n) => n)
const strength = computed({ get: () => Math.round(pen.ghosts.strength * 100), set: (value: number) => (pen.ghosts.strength = Number(value) / 100) })
const fade = computed({ get: () => Math.round(pen.fade * 100), set: (value: number) => (pen.fade = Number(value) / 100) })
</script>

<template>
  <div class="ghosts" role="toolbar" aria-label="Ghost panels">
    <button class="chip" :aria-pressed="pen.ghosts.on" title="Neighbouring panels show through; of a level with exposures of its own, the drawings around (J)" @click="pen.ghosts.on = !pen.ghosts.on">Ghosts</button>
    <span class="side before" role="group" aria-label="Panels before, blue and whole" title="Panels before show in blue, whole">
      <button v-for="n in counts" :key="n" :aria-pressed="pen.ghosts.before === n" :disabled="!pen.ghosts.on" :aria-label="`${n} before`" @click="pen.ghosts.before = n">{{ n }}</button>
      <span class="word">before</span>
    </span>
    <span class="side after" role="group" aria-label="Panels after, ochre and dashed" title="Panels after show in ochre, dashed">
      <button v-for="n in counts" :key="n" :aria-pressed="pen.ghosts.after === n" :disabled="!pen.ghosts.on" :aria-label="`${n} after`" @click="pen.ghosts.after = n">{{ n }}</button>
      <span class="word">after</span>
    </span>
    <input v-model.number="strength" type="range" min="10" max="100" :disabled="!pen.ghosts.on" aria-label="Strength of the ghosts" :title="`Strength of the ghosts: ${strength} %`" />
    <button class="chip" :aria-pressed="pen.ghosts.all" :disabled="!pen.ghosts.on" title="Ghosts of all levels, or of the one you draw on" @click="pen.ghosts.all = !pen.ghosts.all">{{ pen.ghosts.all ? 'all levels' : 'this level' }}</button>
    <button class="chip" :aria-pressed="pen.ghosts.halfway" title="Both neighbours at half strength, for the drawing between (H)" @click="pen.ghosts.halfway = !pen.ghosts.halfway">Halfway</button>
    <button class="chip" title="Hold F: this and the drawing before change about. Hold Shift F: those around run through at the film’s rate" @click="emit('flip')">Flip <kbd>F</kbd></button>
    <button class="chip" :aria-pressed="pen.silhouette" title="Figures flat black on white: do the poses read? (S)" @click="pen.silhouette = !pen.silhouette">Silhouette <kbd>S</kbd></button>
    <label class="fade" :title="`Other levels fade towards white: ${fade} %`"><span class="fade-word">Fade others</span> <input v-model.number="fade" type="range" min="0" max="90" step="5" aria-label="Fade other levels" /></label>
  </div>
</template>

<style scoped>
.ghosts {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
}
.side {
  display: inline-flex;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 6px;
  overflow: hidden;
}
.side button {
  width: 24px;
  min-height: 24px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
.side button[aria-pressed='true'] {
  background: var(--paper-3);
  font-weight: 700;
}
.side button:disabled {
  color: var(--ink-3);
  cursor: default;
}
.word {
  padding: 0 7px 0 3px;
}
.before {
  border-bottom: 2px solid var(--blue);
}
.after {
  border-bottom: 2px dashed var(--ochre);
}
input[type='range'] {
  width: 64px;
  accent-color: var(--blue);
}
.fade {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  color: var(--ink-2);
  white-space: nowrap;
}
/* What it does is told by its title as well. */
@container bar (max-width: 1130px) {
  .fade-word {
    display: none;
  }
}
kbd {
  color: inherit;
  font: inherit;
  opacity: 0.7;
}
</style>
