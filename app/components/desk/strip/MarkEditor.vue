<script setup lang="ts">
import { MARK_MEANINGS, shorten } from '@rubato/core/document'
import { computed, nextTick, ref, watch } from 'vue'
import { Trash2 } from '~/icons'
import { useTiming } from '~/composables/strip/useTiming'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTimingStore } from '~/stores/timing'
import { MEANING_NAMES } from '~/text/marks'

/** The selected mark's name and meaning, over its place on the ruler. */
const props = defineProps<{ id: string; left: number; top: number }>()
const emit = defineEmits<{ close: [] }>()
const film = useFilmStore()
const desk = useDeskStore()
const timing = useTimingStore()
const { changeMark, removeMark, moveMarkTo } = useTiming()
const mark = computed(() => film.outline.rulerMarks[props.id] ?? null)
const frame = computed(() => timing.marks.find((each) => each.mark.id === props.id)?.frame ?? 0)
const input = ref<HTMLInputElement | null>(null)
const when = ref('')
const wrong = ref(false)
watch(() => props.id, async () => {
  await nextTick()
  input.value?.focus()
  input.value?.select()
}, { immediate: true })
watch([frame, () => timing.display], () => (when.value = timing.moment(frame.value)), { immediate: true })

function name(text: string) {
  if (mark.value !== null && text.trim() !== mark.value.name) changeMark(props.id, { name: shorten(text.trim(), 120) }, 'name of mark')
}
function move() {
  const to = timing.frameOf(when.value)
  wrong.value = to === null || to < 0 || to >= desk.lengthFrames
  if (!wrong.value && to !== frame.value) film.perform('move mark', (f) => moveMarkTo(f, props.id, to!))
}
function mean(meaning: (typeof MARK_MEANINGS)[number]) {
  timing.meaning = meaning
  if (meaning !== mark.value?.meaning) changeMark(props.id, { meaning }, 'meaning of mark')
}
</script>

<template>
  <div v-if="mark" class="mark-editor" role="dialog" aria-label="Mark" :style="{ left: `${left}px`, bottom: `calc(100% - ${top}px)` }" @pointerdown.stop @dblclick.stop @keydown.stop @keydown.esc.prevent="emit('close')">
    <div class="row">
      <input ref="input" :key="id" class="field" :value.attr="mark.name" maxlength="120" aria-label="Name of the mark" placeholder="What is here?" @change="(e) => name((e.target as HTMLInputElement).value)" @keydown.enter.prevent="(e) => (name((e.target as HTMLInputElement).value), emit('close'))" />
      <input v-model="when" class="field mono when" :class="{ wrong }" aria-label="Where the mark stands" :title="wrong ? 'A moment inside the film: timecode, frames, 12.5s or feet+frames' : 'Where the mark stands'" :aria-invalid="wrong" @change="move" @keydown.enter.prevent="move" />
      <button class="icon-button small" title="Delete this mark" aria-label="Delete this mark" @click="(removeMark(id), emit('close'))"><Trash2 :size="14" /></button>
    </div>
    <div class="row" role="radiogroup" aria-label="What it means">
      <button v-for="each in MARK_MEANINGS" :key="each" class="chip" role="radio" :aria-checked="mark.meaning === each" :aria-pressed="mark.meaning === each" @click="mean(each)"><i class="dot" :class="each" aria-hidden="true" />{{ MEANING_NAMES[each] }}</button>
    </div>
  </div>
</template>

<style scoped>
.mark-editor {
  position: absolute;
  z-index: 8;
  display: grid;
  gap: 7px;
  width: 372px;
  padding: 9px;
  border: 1px solid var(--rule);
  border-radius: 8px;
  background: var(--paper-0);
  box-shadow: 0 6px 24px rgb(0 0 0 / 0.18);
}
.row {
  display: flex;
  gap: 5px;
}
.field {
  flex: 1;
  min-width: 0;
  height: 26px;
  padding: 0 8px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--paper-1);
  color: var(--ink);
  font: inherit;
}
.field.wrong {
  border-color: var(--vermilion);
}
.when {
  flex: none;
  width: 104px;
  font-family: var(--mono);
  font-size: 11.5px;
}
.dot {
  display: inline-block;
  width: 8px;
  height: 8px;
  margin-right: 5px;
  border-radius: 2px;
  background: var(--ink);
}
.dot.voice {
  border-radius: 50%;
  background: var(--ochre);
}
.dot.sound {
  width: 4px;
  background: var(--sea);
}
.dot.change {
  background: var(--plum);
  clip-path: polygon(0 0, 100% 100%, 100% 0, 0 100%);
}
.dot.mend {
  border-radius: 0;
  background: var(--vermilion);
  clip-path: polygon(50% 0, 100% 100%, 0 100%);
}
</style>
