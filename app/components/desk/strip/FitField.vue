<script setup lang="ts">
import { framesOfEntry } from '@rubato/core/time'
import { computed, ref } from 'vue'
import { ChevronDown } from '~/icons'
import { useTiming } from '~/composables/strip/useTiming'
import { useBoardsStore } from '~/stores/boards'
import { useFilmStore } from '~/stores/film'
import { useTimingStore } from '~/stores/timing'

/** The length of what is chosen. Typing another fits it to that; the arrow offers quick lengths. */
const film = useFilmStore()
const boards = useBoardsStore()
const timing = useTimingStore()
const { targetPanels, targetFrames, unloaded, fitTo, step, quickFrames, quickSeconds, quick } = useTiming()
const typing = ref<string | null>(null)
const wrong = ref(false)
const menu = ref<{ toggle: (event: Event) => void; hide: () => void } | null>(null)
const count = computed(() => targetPanels.value.length + unloaded.value.length)
const name = computed(() => {
  if (boards.shots.length > 0) return boards.shots.length === 1 ? 'Shot' : `${boards.shots.length} shots`
  return count.value > 1 ? `${count.value} panels` : 'Panel'
})
const label = computed(() => (count.value > 1 ? 'Fit to' : 'Length'))
const title = computed(() => `${count.value > 1 ? `Scales ${name.value.toLowerCase()} to a length together; fermatas keep theirs.` : 'How long the panel is.'} Frames, 1.5s, 2:12, timecode, 3+08 (feet), +6 or *1.2. ↑ ↓ change each panel by a frame, Shift by ten.`)

function take(input: HTMLInputElement) {
  const text = typing.value
  if (text === null || text.trim() === '') return void (typing.value = null)
  wrong.value = !fitTo(text)
  if (wrong.value) return
  typing.value = null
  input.select()
}
function onKey(event: KeyboardEvent) {
  if (event.key === 'Enter') take(event.target as HTMLInputElement)
  else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
    event.preventDefault()
    typing.value = null
    step((event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 10 : 1))
  } else if (event.key === 'Escape') {
    typing.value = null
    wrong.value = false
    ;(event.target as HTMLInputElement).blur()
  }
}
function onBlur(event: FocusEvent) {
  if (!wrong.value) take(event.target as HTMLInputElement)
  typing.value = null
  wrong.value = false
}
/** A quick length is set as any other is typed. */
function setQuick(index: number, text: string) {
  const frames = framesOfEntry(text, film.project!.rate, quickFrames.value[index]!)
  if (frames === null || frames < 1) return film.refuse('A quick length is a number of frames, 1.5s, 2:12 or timecode.')
  quickSeconds.value = quickSeconds.value.map((seconds, i) => (i === index ? frames / (film.project!.rate.numerator / film.project!.rate.denominator) : seconds))
}
</script>

<template>
  <span v-if="count > 0" class="fit" role="group" :aria-label="`${name}, ${targetFrames} frames`">
    <span class="name">{{ name }}</span>
    <span class="box" :class="{ wrong }">
      <label>
        <span>{{ label }}</span>
        <input :value="typing ?? `${targetFrames}`" :data-kept="typing === null ? '' : undefined" :title="title" :aria-invalid="wrong" data-test="fit" spellcheck="false" @focus="(e) => (e.target as HTMLInputElement).select()" @input="(e) => ((typing = (e.target as HTMLInputElement).value), (wrong = false))" @keydown.stop="onKey" @blur="onBlur" />
        <i>f</i>
      </label>
      <button class="more" title="Quick lengths (Alt 4 to Alt 9)" aria-label="Quick lengths" aria-haspopup="dialog" @click="(e) => menu?.toggle(e)"><ChevronDown :size="13" /></button>
    </span>
    <span v-if="wrong" class="hint" role="alert">Frames, 1.5s, 2:12, +6 or *1.2</span>
    <span v-else class="quiet mono">{{ timing.length(targetFrames) }}</span>
    <Popover ref="menu">
      <div class="quick" @keydown.stop>
        <b>Quick lengths</b>
        <div v-for="(frames, i) in quickFrames" :key="i" class="quick-row">
          <button class="push-button" :title="`Gives ${name.toLowerCase()} this length (Alt ${i + 4})`" @click="(quick(i), menu?.hide())">{{ frames }} f</button>
          <kbd>Alt {{ i + 4 }}</kbd>
          <input :value="frames" :aria-label="`Quick length ${i + 1}`" @change="(e) => setQuick(i, (e.target as HTMLInputElement).value)" />
        </div>
      </div>
    </Popover>
  </span>
</template>

<style scoped>
.fit {
  position: relative;
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.name {
  color: var(--ink-2);
}
.box {
  display: inline-flex;
  align-items: stretch;
  height: 26px;
  border: 1px solid var(--rule);
  border-radius: 6px;
  background: var(--paper-0);
}
.box:focus-within {
  border-color: var(--blue);
}
.box.wrong {
  border-color: var(--vermilion);
}
label {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  padding-left: 8px;
  color: var(--ink-2);
}
input {
  width: 58px;
  border: 0;
  background: none;
  color: var(--ink);
  font: 500 12.5px var(--mono);
  text-align: right;
  outline: none;
}
i {
  color: var(--ink-2);
  font-style: normal;
}
.more {
  display: grid;
  place-items: center;
  width: 24px;
  border: 0;
  background: none;
  color: var(--ink-2);
  cursor: pointer;
}
.hint {
  padding: 2px 8px;
  border-radius: 4px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
  white-space: nowrap;
}
.quick {
  display: grid;
  gap: 5px;
}
.quick-row {
  display: flex;
  align-items: center;
  gap: 8px;
}
.quick-row .push-button {
  width: 74px;
}
.quick-row input {
  padding: 3px 6px;
  border: 1px solid var(--rule);
  border-radius: 5px;
}
kbd {
  width: 42px;
  color: var(--ink-2);
  font: 11px var(--mono);
}
</style>
