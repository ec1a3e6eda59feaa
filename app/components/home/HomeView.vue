<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { useToast } from 'primevue/usetoast'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { Moon, Plus, Sun } from '~/icons'
import { api } from '~/api/client'
import { CUT_FILES, sortOf } from '~/boards/droppedFiles'
import NewProjectDialog from '~/components/home/NewProjectDialog.vue'
import ProjectCard from '~/components/home/ProjectCard.vue'
import { useArchive } from '~/composables/handover/useArchive'
import { useTheme } from '~/composables/view/useTheme'
import { useFilmStore } from '~/stores/film'
import type { ProjectCard as Card, Shelf } from '#shared/projects'

const router = useRouter()
const toast = useToast()
const film = useFilmStore()
const { choice, night } = useTheme()
const shelf = ref<Shelf>('desk')
const cards = shallowRef<readonly Card[] | null>(null)
const trouble = ref<string | null>(null)
const creating = ref(false)
/** A list of a cut that is to become a film. */
const cut = shallowRef<File | null>(null)
watch(creating, (now) => !now && (cut.value = null))
/** The last step that Home can take back, and how. */
const lastStep = shallowRef<{ readonly text: string; readonly undo: () => Promise<unknown> } | null>(null)
const search = ref('')
const sort = useLocalStorage<'changed' | 'name' | 'length' | 'size'>('rubato.homeSort', 'changed')
const waiting = shallowRef<ReadonlyMap<string, number>>(new Map())
const archive = useArchive()
const picker = ref<HTMLInputElement | null>(null)

const SHELF_NAMES: readonly { readonly id: Shelf; readonly name: string; readonly empty: string }[] = [
  { id: 'desk', name: 'On the desk', empty: 'No films yet.' },
  { id: 'archive', name: 'Put away', empty: 'Nothing is put away.' },
  { id: 'trash', name: 'Trash', empty: 'The trash is empty.' },
]
const SORTS = [
  { id: 'changed', name: 'last changed' },
  { id: 'name', name: 'name' },
  { id: 'length', name: 'running time' },
  { id: 'size', name: 'size' },
]
const seconds = (card: Card) => (card.lengthFrames * card.project.rate.denominator) / card.project.rate.numerator
const ORDERS: Readonly<Record<string, (a: Card, b: Card) => number>> = {
  changed: (a, b) => b.updatedAt.localeCompare(a.updatedAt),
  name: (a, b) => a.project.title.localeCompare(b.project.title, undefined, { numeric: true, sensitivity: 'base' }),
  length: (a, b) => seconds(b) - seconds(a),
  size: (a, b) => b.bytes - a.bytes,
}
const shown = computed(() => {
  const words = search.value.toLocaleLowerCase().split(/\s+/).filter(Boolean)
  return (cards.value ?? []).filter((card) => words.every((word) => card.project.title.toLocaleLowerCase().includes(word))).sort(ORDERS[sort.value])
})

async function load() {
  trouble.value = null
  try {
    const wanted = shelf.value
    const loaded = await api.projects(wanted)
    if (wanted === shelf.value) cards.value = loaded
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
onMounted(async () => {
  void load()
  waiting.value = await film.leftBehind().catch(() => new Map<string, number>())
})
watch(shelf, () => {
  cards.value = null
  void load()
})

/** Does something to a film, tells when it could not be done, and shows the shelf as it is then. */
async function doTo(card: Card, what: string, work: () => Promise<unknown>, undo?: { readonly text: string; readonly work: () => Promise<unknown> }) {
  try {
    await work()
    lastStep.value = undo === undefined ? null : { text: undo.text, undo: undo.work }
  } catch (error) {
    toast.add({ severity: 'error', detail: `“${card.project.title}” was not ${what}. ${(error as Error).message}`, life: 7000 })
  }
  await load()
}
const idOf = (card: Card) => card.project.id
const rename = (card: Card, title: string) =>
  doTo(card, 'renamed', () => api.patchProject(idOf(card), { title, author: film.artist }), { text: `“${card.project.title}” is now “${title}”.`, work: () => api.patchProject(idOf(card), { title: card.project.title, author: film.artist }) })
const duplicate = (card: Card) => doTo(card, 'duplicated', () => api.duplicateProject(idOf(card)))
const putAway = (card: Card, archived: boolean) =>
  doTo(card, archived ? 'put away' : 'put back', () => api.patchProject(idOf(card), { archived }), { text: archived ? `“${card.project.title}” is put away.` : `“${card.project.title}” is back on the desk.`, work: () => api.patchProject(idOf(card), { archived: !archived }) })
const remove = (card: Card) => doTo(card, 'deleted', () => api.trashProject(idOf(card)), { text: `“${card.project.title}” is in the trash.`, work: () => api.restoreProject(idOf(card)) })
const restore = (card: Card) => doTo(card, 'brought back', () => api.restoreProject(idOf(card)), { text: `“${card.project.title}” is back.`, work: () => api.trashProject(idOf(card)) })
const deleteForGood = (card: Card) =>
  window.confirm(`Delete “${card.project.title}” for good? Its drawings, versions and history go with it, and can’t be had back.`) ? doTo(card, 'deleted', () => api.deleteForGood(idOf(card))) : undefined

async function undoLast() {
  const step = lastStep.value
  lastStep.value = null
  try {
    await step?.undo()
  } catch (error) {
    toast.add({ severity: 'error', detail: `That could not be undone. ${(error as Error).message}`, life: 7000 })
  }
  await load()
}
async function takeIn(files: FileList | null) {
  const [file] = files ?? []
  if (picker.value !== null) picker.value.value = ''
  if (file === undefined) return
  if (sortOf(file) === 'cut') {
    cut.value = file
    creating.value = true
    return
  }
  const made = await archive.takeIn(file)
  if (made !== null) await load()
}
function made(id: string, notes: readonly string[]) {
  for (const detail of notes) toast.add({ severity: 'info', detail, life: 12_000 })
  open(id)
}
const open = (id: string) => void router.push(`/film/${id}`)
</script>

<template>
  <main class="home" @dragover.prevent @drop.prevent="takeIn($event.dataTransfer?.files ?? null)">
    <header>
      <h1 class="tempo">Rubato</h1>
      <nav class="shelves" aria-label="Shelves">
        <button v-for="each in SHELF_NAMES" :key="each.id" class="shelf" :class="{ on: shelf === each.id }" :aria-pressed="shelf === each.id" @click="shelf = each.id">{{ each.name }}</button>
      </nav>
      <span class="grow" />
      <InputText v-model="search" class="search" size="small" type="search" placeholder="Find a film" aria-label="Find a film" />
      <label class="quiet sort">by <Select v-model="sort" :options="SORTS" option-label="name" option-value="id" size="small" aria-label="Sort films by" /></label>
      <button class="icon-button" :title="night ? 'Day desk' : 'Night desk'" :aria-label="night ? 'Day desk' : 'Night desk'" @click="choice = night ? 'day' : 'night'"><Sun v-if="night" :size="16" /><Moon v-else :size="16" /></button>
      <button class="push-button" title="Take in a film that was saved as one file (.rubato), or a cut (.otio, .edl) as a new film; or drop it here" @click="picker?.click()">Take in…</button>
      <input ref="picker" class="hidden" type="file" :accept="['.rubato', 'application/zip', ...CUT_FILES].join()" aria-label="File of a film" @change="takeIn(($event.target as HTMLInputElement).files)" />
      <button class="push-button strong" @click="creating = true"><Plus :size="15" /> New film</button>
    </header>
    <p v-if="trouble" class="trouble" role="alert">The films could not be listed. {{ trouble }} <button class="push-button" @click="load">Try again</button></p>
    <p v-if="archive.state.value" class="deleted" role="status" data-test="archive-state">
      {{ archive.state.value.text }}
      <progress v-if="archive.state.value.share !== null" :value="archive.state.value.share" max="1" />
      <button class="push-button" @click="archive.dismiss()">{{ archive.state.value.busy ? 'Cancel' : 'Close' }}</button>
    </p>
    <p v-if="lastStep" class="deleted" role="status">{{ lastStep.text }} <button class="push-button" @click="undoLast">Undo</button></p>
    <div v-if="shown.length > 0" class="cards">
      <ProjectCard
        v-for="card in shown"
        :key="`${card.project.id} ${card.updatedAt}`"
        :card="card"
        :shelf="shelf"
        :waiting="waiting.get(card.project.id) ?? 0"
        @open="open(card.project.id)"
        @rename="rename(card, $event)"
        @duplicate="duplicate(card)"
        @put-away="putAway(card, $event)"
        @archive="archive.save(card)"
        @remove="remove(card)"
        @restore="restore(card)"
        @delete-for-good="deleteForGood(card)"
      />
    </div>
    <div v-else-if="cards" class="empty">
      <p class="tempo">{{ search.trim() !== '' && cards.length > 0 ? 'No film of that name.' : SHELF_NAMES.find((each) => each.id === shelf)?.empty }}</p>
      <template v-if="shelf === 'desk' && cards.length === 0">
        <p class="quiet">A film needs a name and a size; then there is a first shot to draw on.</p>
        <button class="push-button strong" @click="creating = true"><Plus :size="15" /> New film</button>
      </template>
      <p v-else-if="shelf === 'trash'" class="quiet">What is deleted stays here for 30 days.</p>
    </div>
    <NewProjectDialog v-model:visible="creating" :cut="cut" @made="made" />
  </main>
</template>

<style scoped>
.home {
  height: 100vh;
  padding: 18px 34px;
  overflow: auto;
}
header {
  display: flex;
  align-items: baseline;
  gap: 16px;
  margin-bottom: 22px;
  border-bottom: 1px solid var(--rule);
}
header > * {
  align-self: center;
}
.shelves {
  display: flex;
  gap: 2px;
}
.shelf {
  padding: 5px 10px;
  border: 0;
  border-radius: 6px;
  background: none;
  color: var(--ink-2);
  font: inherit;
  cursor: pointer;
}
.shelf.on {
  background: var(--paper-2);
  color: var(--ink);
  font-weight: 600;
}
.search {
  width: 150px;
}
.sort {
  display: flex;
  align-items: center;
  gap: 6px;
}
.hidden {
  display: none;
}
progress {
  width: 160px;
  accent-color: var(--blue);
}
h1 {
  margin: 0 0 6px;
  font-size: 40px;
  font-weight: 500;
}
.grow {
  flex: 1;
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
  gap: 20px;
}
.empty {
  display: grid;
  place-items: center;
  margin-top: 14vh;
}
.empty .tempo {
  margin: 0;
  font-size: 30px;
}
.trouble,
.deleted {
  padding: 7px 12px;
  border-radius: 6px;
  background: var(--paper-2);
}
.trouble {
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
}
</style>
