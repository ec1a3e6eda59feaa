<script setup lang="ts">
import { editPanel, editProject, editSequence, editShot } from '@rubato/core/edits'
import { framesOfEntry } from '@rubato/core/time'
import { computed, ref } from 'vue'
import { useDeskStore } from '~/stores/desk'
import type { Make } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'
import { useTimingStore } from '~/stores/timing'

/** How long panel, shot, sequence and film run, beside what they are meant to. */
const film = useFilmStore()
const desk = useDeskStore()
const timing = useTimingStore()
const popover = ref<{ toggle: (event: Event) => void } | null>(null)

interface Row {
  readonly what: string
  readonly frames: number
  readonly target: number | null
  readonly set: (target: number | null) => Make
}
const sequence = computed(() => {
  const id = desk.placedShot?.shot.sequenceId
  return id === undefined ? null : (film.outline.sequences[id] ?? null)
})
const sequenceFrames = computed(() => {
  const span = sequence.value === null ? null : film.filmStage.spanOf(sequence.value.id)
  return span === null ? 0 : span.end - span.start
})
const rows = computed<readonly Row[]>(() => {
  const [project, shot, take, panel] = [film.project, desk.placedShot, desk.takeId, desk.placedPanel]
  if (project === null) return []
  const found: Row[] = []
  if (panel !== null && take !== null) found.push({ what: `Panel ${panel.index + 1}`, frames: panel.panel.lengthFrames, target: panel.panel.targetFrames ?? null, set: (target) => (f) => editPanel(f.takes[take]!, take, panel.panel.id, { targetFrames: target ?? undefined }) })
  if (shot !== null) found.push({ what: `Shot ${shot.shot.label}`, frames: shot.lengthFrames, target: shot.shot.targetFrames ?? null, set: (target) => (f) => editShot(f.outline, project.id, shot.shot.id, { targetFrames: target ?? undefined }) })
  if (sequence.value !== null) {
    const { id, label, targetFrames } = sequence.value
    found.push({ what: `Sequence ${label}`, frames: sequenceFrames.value, target: targetFrames, set: (target) => (f) => editSequence(f.outline, project.id, id, { targetFrames: target }) })
  }
  found.push({ what: 'Film', frames: desk.lengthFrames, target: project.targetFrames ?? null, set: (target) => (f) => editProject(f.outline, project.id, { targetFrames: target ?? undefined }) })
  return found
})
function off(row: Row): string {
  if (row.target === null) return ''
  const by = row.frames - row.target
  return by === 0 ? 'on target' : `${timing.length(Math.abs(by))} ${by > 0 ? 'over' : 'under'}`
}
function setTarget(row: Row, input: HTMLInputElement) {
  const text = input.value.trim()
  const target = text === '' ? null : framesOfEntry(text, film.project!.rate, row.target ?? row.frames)
  if (target !== null && (target < 1 || target > 10_000_000)) return film.refuse('A target is at least one frame, and at most 10,000,000.')
  if (text !== '' && target === null) {
    input.value = row.target === null ? '' : timing.length(row.target)
    return film.refuse('A target is frames, 18s, 2:12 or timecode; empty for none.')
  }
  if (target !== row.target) film.perform(`target of ${row.what.toLowerCase()}`, row.set(target))
  input.value = target === null ? '' : timing.length(target)
}
const shown = computed(() => rows.value.filter((row) => !row.what.startsWith('Panel') && !row.what.startsWith('Shot')))
</script>

<template>
  <button class="times" title="Running times and their targets" aria-haspopup="dialog" data-test="running" @click="(e) => popover?.toggle(e)">
    <span v-for="row in shown" :key="row.what"><span class="what">{{ row.what }}</span> <b class="tempo">{{ timing.length(row.frames) }}</b><span v-if="row.target !== null" class="mono off" :class="{ over: row.frames > row.target }">{{ row.frames === row.target ? ' on target' : ` ${row.frames > row.target ? '+' : '−'}${timing.length(Math.abs(row.frames - row.target))}` }}</span></span>
  </button>
  <Popover ref="popover">
    <table @keydown.stop>
      <thead><tr><th /><th>runs</th><th>target</th><th /></tr></thead>
      <tbody>
        <tr v-for="row in rows" :key="row.what">
          <th scope="row">{{ row.what }}</th>
          <td class="mono">{{ timing.length(row.frames) }}</td>
          <td><input :key="`${row.what}${row.target}${timing.display}`" class="mono" :value.attr="row.target === null ? '' : timing.length(row.target)" placeholder="none" :aria-label="`Target of ${row.what.toLowerCase()}`" title="Frames, 18s, 2:12 or timecode; empty for none" @change="(e) => setTarget(row, e.target as HTMLInputElement)" /></td>
          <td :class="{ over: row.target !== null && row.frames > row.target, meets: row.target === row.frames }">{{ off(row) }}</td>
        </tr>
      </tbody>
    </table>
  </Popover>
</template>

<style scoped>
.times {
  display: inline-flex;
  gap: 14px;
  padding: 3px 8px;
  border: 0;
  border-radius: 6px;
  background: none;
  color: var(--ink);
  font: inherit;
  white-space: nowrap;
  cursor: pointer;
}
.times:hover {
  background: var(--paper-2);
}
.what,
.off {
  color: var(--ink-2);
}
.times b {
  font-size: 15px;
}
.off {
  font-size: 11.5px;
}
.over,
.off.over {
  color: var(--vermilion-text);
  font-weight: 600;
}
.meets {
  color: var(--sea);
}
table {
  border-spacing: 10px 5px;
}
th {
  color: var(--ink-2);
  font-weight: 500;
  text-align: left;
}
tbody th {
  color: var(--ink);
  font-weight: 600;
}
input {
  width: 92px;
  padding: 3px 7px;
  border: 1px solid var(--rule);
  border-radius: 5px;
  background: var(--paper-1);
  color: var(--ink);
}
</style>
