<script setup lang="ts">
import { shotsOf } from '@rubato/core/edits'
import { inOrder } from '@rubato/core/document'
import { computed } from 'vue'
import { History, Moon, Plus, Redo2, Search, Sun, Undo2 } from '~/icons'
import { NuxtLink } from '#components'
import TakesPopover from '~/components/desk/takes/TakesPopover.vue'
import PeopleHere from '~/components/desk/PeopleHere.vue'
import { useShots } from '~/composables/boards/useShots'
import { useTheme } from '~/composables/view/useTheme'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useRendersStore } from '~/stores/renders'

/** The closed list would keep the keys, which are the view's again. */
function giveKeysBack() {
  requestAnimationFrame(() => document.activeElement instanceof HTMLElement && document.activeElement.closest('.shot-select') !== null && document.activeElement.blur())
}
const emit = defineEmits<{ handOver: []; versions: []; palette: []; aside: [] }>()
const film = useFilmStore()
const desk = useDeskStore()
const renders = useRendersStore()
const { choice, night } = useTheme()
const { newShot } = useShots()
const VIEWS = [
  { view: 'boards', name: 'Boards', keys: 'Alt 1' },
  { view: 'draw', name: 'Draw', keys: 'Alt 2; D goes there and back' },
  { view: 'desk', name: 'Desk', keys: 'Alt 3' },
  { view: 'sets', name: 'Sets', keys: 'Alt 0' },
  { view: 'breakdown', name: 'Breakdown', keys: 'Ctrl B' },
] as const

const sequence = computed(() => {
  const id = desk.placedShot?.shot.sequenceId
  return id === undefined ? null : (film.outline.sequences[id] ?? null)
})
const shots = computed(() =>
  inOrder(film.outline.sequences).map((seq) => ({
    label: `${seq.label} ${seq.title}`.trim(),
    items: shotsOf(film.outline, seq.id).map((shot) => ({ id: shot.id, name: `${shot.label} ${shot.title}`.trim() })),
  })),
)
const savedText = computed(() => {
  const { kind, waiting, kept, savedAt, problem } = film.saving
  const changes = waiting === 1 ? '1 change' : `${waiting} changes`
  const safe = kept ? 'They are kept in this browser until the server has them, even if you close it.' : 'This browser can’t keep them: leave this window open until it says Saved.'
  if (kind === 'offline') return { text: `Offline: ${changes} waiting`, wrong: true, title: `${problem} Trying again. ${safe}` }
  if (kind === 'failed') return { text: `Not saved: ${changes} waiting`, wrong: true, title: `${problem} The server is asked again all the same. ${safe}` }
  if (kind === 'saving') return { text: 'Saving…', wrong: false, title: `${changes} on the way. ${safe}` }
  if (!film.connected) return { text: 'Offline', wrong: true, title: 'The server can’t be reached. Go on working: changes are kept in this browser and sent when it is back.' }
  if (savedAt === null) return { text: 'Saved', wrong: false, title: 'Everything is saved.' }
  return { text: `Saved ${new Date(savedAt).toTimeString().slice(0, 5)}`, wrong: false, title: 'Everything is saved.' }
})
</script>

<template>
  <header class="bar">
    <NuxtLink to="/" class="wordmark tempo" title="All films">Rubato</NuxtLink>
    <nav class="crumbs" aria-label="Where you are">
      <span class="project" :title="film.project?.title">{{ film.project?.title }}</span>
      <span class="quiet">/</span>
      <span class="sequence">{{ sequence?.label }} {{ sequence?.title }}</span>
      <span class="quiet">/</span>
      <Select
        class="shot-select"
        :model-value="desk.shotId"
        :options="shots"
        option-label="name"
        option-value="id"
        option-group-label="label"
        option-group-children="items"
        aria-label="Shot"
        size="small"
        @update:model-value="desk.goToShot"
        @hide="giveKeysBack"
      >
        <template #value>
          <span v-if="desk.placedShot" class="shot-name"><b>Shot {{ desk.placedShot.shot.label }}</b></span>
          <span v-else>No shot</span>
        </template>
      </Select>
      <button v-if="film.lookingAt === null" class="icon-button small" title="New shot after this one" aria-label="New shot after this one" @click="newShot"><Plus :size="15" /></button>
      <TakesPopover />
    </nav>
    <span class="grow" />
    <nav class="views" aria-label="Views">
      <button v-for="each in VIEWS" :key="each.view" :aria-current="desk.view === each.view ? 'page' : undefined" :title="`${each.name} (${each.keys})`" @click="desk.view = each.view">{{ each.name }}</button>
    </nav>
    <span class="grow" />
    <button class="icon-button" :disabled="film.undoLabel === null" :title="film.undoLabel ? `Undo ${film.undoLabel} (Ctrl Z)` : 'Nothing to undo'" :aria-label="film.undoLabel ? `Undo ${film.undoLabel}` : 'Undo'" @click="film.undo()"><Undo2 :size="16" /></button>
    <button class="icon-button" :disabled="film.redoLabel === null" :title="film.redoLabel ? `Redo ${film.redoLabel} (Ctrl Shift Z)` : 'Nothing to redo'" :aria-label="film.redoLabel ? `Redo ${film.redoLabel}` : 'Redo'" @click="film.redo()"><Redo2 :size="16" /></button>
    <button v-if="film.lookingAt === null" class="icon-button" title="Versions" aria-label="Versions" @click="emit('versions')"><History :size="16" /></button>
    <button class="icon-button" title="Commands and shortcuts (Ctrl K)" aria-label="Commands and shortcuts" @click="emit('palette')"><Search :size="16" /></button>
    <button class="icon-button" :title="night ? 'Day desk' : 'Night desk'" :aria-label="night ? 'Day desk' : 'Night desk'" @click="choice = night ? 'day' : 'night'"><Sun v-if="night" :size="16" /><Moon v-else :size="16" /></button>
    <PeopleHere v-if="film.lookingAt === null" />
    <span v-if="film.lookingAt !== null" class="looking" role="status" :title="`The version “${film.lookingAt.name}”: to look at, not to change`">version “{{ film.lookingAt.name }}”</span>
    <span v-else class="saved" :class="{ wrong: savedText.wrong }" :title="savedText.title" role="status" data-test="save-state">{{ savedText.text }}</span>
    <button v-if="film.aside.length > 0" class="push-button aside" title="Changes that the server could not keep: try them again, save them as a file, or throw them away" data-test="aside-open" @click="emit('aside')">{{ film.aside.length }} set aside</button>
    <button class="push-button hand-over" :title="renders.share === null ? 'Make the movie, or numbered pictures (Ctrl E)' : `The server is making ${renders.running.length === 1 ? 'a render' : `${renders.running.length} renders`}: ${Math.round(renders.share * 100)} %`" @click="emit('handOver')">
      Hand over…<span v-if="renders.share !== null" class="share" :style="{ width: `${renders.share * 100}%` }" data-test="render-share" />
    </button>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 40px;
  padding: 0 12px;
  border-bottom: 1px solid var(--rule);
  background: var(--paper-0);
}
button.aside {
  border-color: var(--vermilion);
  color: var(--vermilion-text);
}
.hand-over {
  position: relative;
}
.share {
  position: absolute;
  bottom: 0;
  left: 0;
  height: 3px;
  background: var(--sea);
}
.wordmark {
  margin-right: 8px;
  color: var(--ink);
  font-size: 23px;
  font-weight: 500;
  text-decoration: none;
}
.crumbs {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
}
.project {
  max-width: 220px;
  overflow: hidden;
  color: var(--ink-2);
  text-overflow: ellipsis;
  white-space: nowrap;
}
.sequence,
.shot-name {
  font-weight: 600;
  white-space: nowrap;
}
.shot-select {
  --p-select-sm-padding-y: 2px;
  --p-select-sm-padding-x: 8px;
  background: transparent;
  box-shadow: none;
}
.views {
  display: flex;
  gap: 2px;
}
.views button {
  min-height: 26px;
  padding: 2px 14px;
  border: 0;
  border-radius: 13px;
  background: none;
  color: var(--ink-2);
  font: inherit;
  cursor: pointer;
}
.views button:hover {
  background: var(--paper-2);
}
.views button[aria-current] {
  background: var(--ink);
  color: var(--paper-0);
  font-weight: 600;
}
.grow {
  flex: 1;
}
.saved {
  min-width: 84px;
  margin: 0 4px;
  color: var(--ink-2);
  text-align: right;
  white-space: nowrap;
}
.looking {
  max-width: 260px;
  margin: 0 4px;
  padding: 3px 10px;
  overflow: hidden;
  border-radius: 12px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
  font-weight: 600;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.saved.wrong {
  color: var(--vermilion-text);
  font-weight: 600;
}
</style>
