<script setup lang="ts">
import { inOrder, type Sequence } from '@rubato/core/document'
import { addSequence, editSequence, moveSequence, removeSequence, shotsOf } from '@rubato/core/edits'
import { frameAtSeconds, secondsOfFrames } from '@rubato/core/time'
import { computed, ref } from 'vue'
import { Ellipsis, Plus } from '~/icons'
import SequenceDrop from '~/components/boards/SequenceDrop.vue'
import ShotTray from '~/components/boards/ShotTray.vue'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import { useShots } from '~/composables/boards/useShots'
import { useFilmStore } from '~/stores/film'

/** The film's sequences with their running time against their targets. */
defineProps<{ seen: string }>()
const emit = defineEmits<{ go: [sequenceId: string] }>()
const film = useFilmStore()
const { look } = useShots()
const actions = useBoardActions()
const menu = ref<{ toggle: (event: Event) => void } | null>(null)
const about = ref<Sequence | null>(null)
const typing = ref<{ readonly id: string; readonly field: 'title' | 'target' } | null>(null)

const frames = computed(() => {
  const sums = new Map<string, number>()
  for (const { shot, lengthFrames } of film.filmStage.shots) sums.set(shot.sequenceId, (sums.get(shot.sequenceId) ?? 0) + lengthFrames)
  return sums
})
const sequences = computed(() => inOrder(film.outline.sequences))
const targetFrames = computed(() => (sequences.value.every((sequence) => sequence.targetFrames === null) ? null : sequences.value.reduce((sum, sequence) => sum + (sequence.targetFrames ?? frames.value.get(sequence.id) ?? 0), 0)))
const readOnly = computed(() => film.lookingAt !== null)

function clock(count: number): string {
  const seconds = film.project === null ? 0 : Math.round(secondsOfFrames(count, film.project.rate))
  const minutes = Math.floor(seconds / 60)
  const two = (value: number) => String(value).padStart(2, '0')
  return minutes < 60 ? `${minutes}:${two(seconds % 60)}` : `${Math.floor(minutes / 60)}:${two(minutes % 60)}:${two(seconds % 60)}`
}
/** `1:30`, `90`, `0:45`; empty for none; null where it is none of these. */
function framesOfClock(text: string): number | 'none' | null {
  if (text.trim() === '') return 'none'
  const parts = text.trim().split(':').map(Number)
  if (parts.length > 3 || parts.some((part) => !Number.isFinite(part) || part < 0) || film.project === null) return null
  const seconds = parts.reduce((sum, part) => sum * 60 + part, 0)
  return seconds <= 0 ? null : Math.max(1, frameAtSeconds(seconds, film.project.rate))
}

function keep(event: Event) {
  const what = typing.value
  const sequence = what === null ? undefined : film.outline.sequences[what.id]
  typing.value = null
  if (what === null || sequence === undefined) return
  const text = (event.target as HTMLInputElement).value.trim()
  const id = film.project!.id
  if (what.field === 'title') {
    if (text !== sequence.title) film.perform('sequence title', (f) => editSequence(f.outline, id, sequence.id, { title: text }))
    return
  }
  const target = framesOfClock(text)
  if (target === null) return film.refuse('A target is minutes and seconds, like 1:30, or seconds, like 45. Leave it empty for none.')
  const targetFrames = target === 'none' ? null : target
  if (targetFrames !== sequence.targetFrames) film.perform('target length', (f) => editSequence(f.outline, id, sequence.id, { targetFrames }))
}
function add() {
  const id = crypto.randomUUID()
  if (film.perform('new sequence', (f) => addSequence(f.outline, film.project!.id, id, null, 'New sequence'))) typing.value = { id, field: 'title' }
}
function move(step: 1 | -1) {
  const list = sequences.value
  const at = list.findIndex((sequence) => sequence.id === about.value?.id)
  const target = list[at + step]
  if (about.value === null || target === undefined) return
  const id = about.value.id
  film.perform('move sequence', (f) => moveSequence(f.outline, film.project!.id, id, step < 0 ? target.id : (list[at + 2]?.id ?? null)))
}
async function remove() {
  const sequence = about.value
  if (sequence === null) return
  const shots = shotsOf(film.outline, sequence.id)
  if (!(await look(shots.map((shot) => shot.id)))) return
  if (shots.length > 0 && !(await film.safeguard(`Before the sequence ${sequence.label} ${sequence.title} was deleted`))) return
  film.perform(`delete sequence ${sequence.label}`, (f) => removeSequence(f.outline, film.project!.id, sequence.id))
}
const items = computed(() => [
  { label: 'Rename', command: () => (typing.value = { id: about.value!.id, field: 'title' }) },
  { label: 'Target length…', command: () => (typing.value = { id: about.value!.id, field: 'target' }) },
  { label: 'New shot at its end', command: () => actions.newShotIn(about.value!.id) },
  { label: 'Renumber its shots from 010', command: () => void actions.renumber(about.value!.id) },
  { separator: true },
  { label: 'Move up', command: () => move(-1) },
  { label: 'Move down', command: () => move(1) },
  { separator: true },
  { label: 'Delete sequence and its shots', command: () => void remove() },
])
function openMenu(event: Event, sequence: Sequence) {
  about.value = sequence
  menu.value?.toggle(event)
}
const share = (sequence: Sequence) => {
  const now = frames.value.get(sequence.id) ?? 0
  return sequence.targetFrames === null ? null : { part: Math.min(1, now / sequence.targetFrames), over: now > sequence.targetFrames }
}
</script>

<template>
  <aside class="list" aria-label="Sequences">
    <h2>Sequences <button v-if="!readOnly" class="icon-button small" title="New sequence" aria-label="New sequence" @click="add"><Plus :size="14" /></button></h2>
    <ul>
      <li v-for="sequence in sequences" :key="sequence.id" :class="{ here: sequence.id === seen }" data-test="sequence">
        <SequenceDrop :sequence-id="sequence.id">
          <div class="line" @click="emit('go', sequence.id)">
            <b class="mono">{{ sequence.label }}</b>
            <input v-if="typing?.id === sequence.id && typing.field === 'title'" class="field" aria-label="Sequence title" maxlength="200" :value="sequence.title" @click.stop @keydown.stop.enter="keep" @keydown.stop.escape="typing = null" @blur="keep" @vue:mounted="({ el }: any) => (el.focus(), el.select())" />
            <button v-else class="name" :title="`${sequence.title}. Click goes there; double-click renames`" @dblclick="!readOnly && (typing = { id: sequence.id, field: 'title' })">{{ sequence.title || 'untitled' }}</button>
            <input v-if="typing?.id === sequence.id && typing.field === 'target'" class="field target mono" aria-label="Target length" placeholder="1:30" :value="sequence.targetFrames === null ? '' : clock(sequence.targetFrames)" @click.stop @keydown.stop.enter="keep" @keydown.stop.escape="typing = null" @blur="keep" @vue:mounted="({ el }: any) => (el.focus(), el.select())" />
            <button v-else class="time mono" :class="{ over: share(sequence)?.over }" :title="readOnly ? 'Running time' : 'Running time / target. Double-click to set the target'" @dblclick="!readOnly && (typing = { id: sequence.id, field: 'target' })">{{ frames.get(sequence.id) === undefined ? '—' : clock(frames.get(sequence.id)!) }}<template v-if="sequence.targetFrames !== null">/{{ clock(sequence.targetFrames) }}</template></button>
            <button v-if="!readOnly" class="icon-button small more" :aria-label="`More for sequence ${sequence.label}`" title="More" aria-haspopup="menu" @click.stop="openMenu($event, sequence)"><Ellipsis :size="14" /></button>
          </div>
          <div class="bar" role="img" :aria-label="share(sequence) === null ? 'No target' : share(sequence)!.over ? 'Over its target' : 'Within its target'"><span :class="{ over: share(sequence)?.over }" :style="{ width: `${(share(sequence)?.part ?? 0) * 100}%` }" /></div>
        </SequenceDrop>
      </li>
    </ul>
    <Menu ref="menu" :model="items" popup />
    <h2>Running time</h2>
    <p class="tempo running" data-test="running-time">{{ clock(film.filmStage.lengthFrames) }} <small v-if="targetFrames !== null">of {{ clock(targetFrames) }}</small></p>
    <ShotTray />
  </aside>
</template>

<style scoped>
.list {
  height: 100%;
  padding: 8px;
  overflow-y: auto;
  border-right: 1px solid var(--rule);
}
h2 {
  display: flex;
  align-items: center;
  justify-content: space-between;
  min-height: 28px;
  margin: 0 0 2px;
  padding: 0 4px;
  color: var(--ink-2);
  font-size: 12px;
  font-weight: 500;
}
ul {
  margin: 0 0 18px;
  padding: 0;
  list-style: none;
}
li {
  border: 1px solid transparent;
  border-radius: 6px;
}
li.here {
  border-color: var(--rule);
  background: var(--paper-0);
}
.line {
  display: flex;
  align-items: center;
  gap: 7px;
  min-height: 28px;
  padding: 3px 4px 0 7px;
  cursor: pointer;
}
button {
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  cursor: pointer;
}
.name {
  flex: 1;
  min-width: 0;
  min-height: 24px;
  padding: 0;
  overflow: hidden;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.time {
  min-height: 24px;
  padding: 0;
  color: var(--ink-2);
  font-family: var(--mono);
  font-size: 12px;
}
.time.over {
  color: var(--vermilion-text);
}
.more {
  width: 24px;
  margin-left: -4px;
  opacity: 0;
}
li:hover .more,
.more:focus-visible {
  opacity: 1;
}
.bar {
  height: 4px;
  margin: 1px 8px 6px 30px;
  overflow: hidden;
  border-radius: 2px;
  background: var(--paper-3);
}
.bar span {
  display: block;
  height: 100%;
  background: var(--sea);
}
.bar span.over {
  background: var(--vermilion);
}
.field {
  flex: 1;
  min-width: 0;
  border: 1px solid var(--blue);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
.field.target {
  flex: none;
  width: 64px;
  text-align: right;
}
.running {
  margin: 0;
  padding: 0 4px;
  font-size: 34px;
  line-height: 1.1;
}
.running small {
  color: var(--ink-2);
  font-size: 20px;
}
</style>
