<script setup lang="ts">
import { rateName, secondsOfFrames } from '@rubato/core/time'
import { computed, nextTick, ref } from 'vue'
import { Ellipsis } from '~/icons'
import { api } from '~/api/client'
import { wordBytes } from '~/text/differences'
import CoverPicture from '~/components/CoverPicture.vue'
import { TRASH_DAYS, type ProjectCard as Card, type Shelf } from '#shared/projects'

/** A film on Home: its picture, its figures, and what can be done with it. */
const props = defineProps<{ card: Card; shelf: Shelf; waiting: number }>()
const emit = defineEmits<{ open: []; rename: [title: string]; duplicate: []; putAway: [away: boolean]; archive: []; remove: []; restore: []; deleteForGood: [] }>()
const project = computed(() => props.card.project)

const runningTime = computed(() => {
  const seconds = Math.round(secondsOfFrames(props.card.lengthFrames, project.value.rate))
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
})
const day = (iso: string) => new Date(iso).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' })
const daysLeft = computed(() => (props.card.trashedAt === null ? 0 : Math.max(0, Math.ceil(TRASH_DAYS - (Date.now() - Date.parse(props.card.trashedAt)) / 86_400_000))))

const menu = ref<{ toggle(event: Event): void } | null>(null)
const items = computed(() =>
  props.shelf === 'trash'
    ? [
        { label: 'Bring back', command: () => emit('restore') },
        { label: 'Delete for good…', command: () => emit('deleteForGood') },
      ]
    : [
        { label: 'Rename', command: beginRename },
        { label: 'Duplicate', command: () => emit('duplicate') },
        { label: 'Save as one file…', command: () => emit('archive') },
        props.shelf === 'desk' ? { label: 'Put away', command: () => emit('putAway', true) } : { label: 'Back on the desk', command: () => emit('putAway', false) },
        { separator: true },
        { label: 'To the trash', command: () => emit('remove') },
      ],
)
/** All of the card opens the film, but for what does something of its own and for words that are being marked. */
function openFromCard(event: MouseEvent) {
  const own = (event.target as Element).closest('button, input, a, [role="menu"]') !== null
  if (props.shelf !== 'trash' && !own && (getSelection()?.isCollapsed ?? true)) emit('open')
}
const draft = ref<string | null>(null)
const field = ref<HTMLInputElement | null>(null)
function beginRename() {
  draft.value = project.value.title
  void nextTick(() => field.value?.select())
}
function endRename(keep: boolean) {
  const title = draft.value?.trim() ?? ''
  draft.value = null
  if (keep && title !== '' && title !== project.value.title) emit('rename', title)
}
</script>

<template>
  <article class="card" :class="{ openable: shelf !== 'trash' }" :data-project="project.id" @click="openFromCard">
    <button class="open" :disabled="shelf === 'trash'" :title="shelf === 'trash' ? 'Bring it back to open it' : `Open ${project.title}`" :aria-label="`Open ${project.title}`" @click.stop="emit('open')">
      <CoverPicture v-if="shelf !== 'trash'" :project="project" :load="() => api.cover(project.id)" />
      <span v-else class="binned quiet">in the trash, {{ daysLeft === 1 ? '1 more day' : `${daysLeft} more days` }}</span>
    </button>
    <div class="words">
      <div>
        <input v-if="draft !== null" ref="field" v-model="draft" class="rename" maxlength="200" aria-label="Name of the film" @keydown.enter="endRename(true)" @keydown.escape.stop="endRename(false)" @blur="endRename(true)" />
        <h2 v-else :title="project.title">{{ project.title }}</h2>
        <p class="quiet line">{{ card.shotCount === 1 ? '1 shot' : `${card.shotCount} shots` }} · {{ project.widthPx }} × {{ project.heightPx }} · {{ rateName(project.rate) }} fps</p>
        <p class="quiet line">changed {{ day(card.updatedAt) }}</p>
        <p class="quiet line">{{ wordBytes(card.bytes) }}</p>
        <p v-if="waiting > 0" class="waiting" title="Made in this browser while the server could not be reached. They are sent when the film is opened.">{{ waiting === 1 ? '1 change' : `${waiting} changes` }} waiting here: open to send</p>
      </div>
      <span class="tempo time">{{ runningTime }}</span>
      <button class="icon-button small" :title="`More for ${project.title}`" :aria-label="`More for ${project.title}`" aria-haspopup="menu" @click="menu?.toggle($event)"><Ellipsis :size="15" /></button>
      <Menu ref="menu" :model="items" popup />
    </div>
  </article>
</template>

<style scoped>
.card {
  overflow: hidden;
  border: 1px solid var(--rule);
  border-radius: 9px;
  background: var(--paper-0);
}
.openable {
  cursor: pointer;
}
.open {
  position: relative;
  display: block;
  width: 100%;
  padding: 0;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: #ffffff;
  cursor: pointer;
}
.open:hover {
  box-shadow: inset 0 0 0 2px var(--blue);
}
.words {
  display: flex;
  align-items: flex-start;
  gap: 10px;
  padding: 9px 8px 10px 12px;
}
.words > div {
  flex: 1;
  min-width: 0;
}
h2 {
  margin: 0 0 2px;
  overflow: hidden;
  font-size: 15px;
  font-weight: 650;
  text-overflow: ellipsis;
  white-space: nowrap;
}
p {
  margin: 0;
}
.line {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.rename {
  width: 100%;
  border: 1px solid var(--blue);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 15px;
  font-weight: 650;
}
.binned {
  display: grid;
  place-content: center;
  aspect-ratio: 16 / 9;
  background: var(--paper-1);
}
.open:disabled {
  cursor: default;
  box-shadow: none;
}
.waiting {
  color: var(--vermilion-text);
  font-weight: 600;
}
.time {
  font-size: 22px;
}
</style>
