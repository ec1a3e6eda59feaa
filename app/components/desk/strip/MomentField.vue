<script setup lang="ts">
import { ref } from 'vue'
import { vFigures } from '~/directives/figures'
import { useDeskStore } from '~/stores/desk'
import { useTimingStore } from '~/stores/timing'

/** The playhead's moment, which can be typed, and its frame in the shot: what changes with every frame that plays. */
const emit = defineEmits<{ go: [frame: number] }>()
const desk = useDeskStore()
const timing = useTimingStore()
const typed = ref<string | null>(null)
const wrong = ref(false)

function goTyped(input: HTMLInputElement) {
  if (typed.value === null) return
  const frame = timing.frameOf(typed.value)
  wrong.value = frame === null
  if (frame === null) return
  typed.value = null
  emit('go', frame)
  input.blur()
}
function leaveTyped() {
  typed.value = null
  wrong.value = false
}
</script>

<template>
  <input
    class="mono timecode"
    :class="{ wrong }"
    :value="typed ?? timing.moment(desk.playhead)"
    :size="timing.display === 'timecode' ? 11 : 9"
    aria-label="Playhead"
    :aria-invalid="wrong"
    :title="wrong ? 'A moment: timecode, frames, 12.5s or 3+08 (feet)' : 'Where the playhead stands; type a moment to go there'"
    data-test="timecode"
    spellcheck="false"
    @focus="(e) => (e.target as HTMLInputElement).select()"
    @input="(e) => ((typed = (e.target as HTMLInputElement).value), (wrong = false))"
    @keydown.stop
    @keydown.enter="(e) => goTyped(e.target as HTMLInputElement)"
    @keydown.esc="(e) => (leaveTyped(), (e.target as HTMLInputElement).blur())"
    @blur="leaveTyped"
  />
  <span v-figures="`${desk.shotFrame} / ${desk.placedShot?.lengthFrames ?? 0} f`" class="mono quiet" data-test="shot-frame" />
</template>

<style scoped>
.timecode {
  width: 122px;
  margin-left: 4px;
  padding: 2px 4px;
  border: 1px solid transparent;
  border-radius: 5px;
  background: none;
  color: var(--ink);
  font-size: 16px;
}
.timecode:hover {
  border-color: var(--rule);
}
.timecode:focus {
  border-color: var(--blue);
  outline: none;
}
.timecode.wrong {
  border-color: var(--vermilion);
}
</style>
