<script setup lang="ts">
import { SPEAKING_RATE_RANGE } from '@rubato/core/script'
import { canBeBoarded } from '@rubato/core/script'
import { formatsOf } from '~/workers/formats'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { Ellipsis, PanelRightClose } from '~/icons'
import ScriptPassage from '~/components/boards/ScriptPassage.vue'
import { useScriptBoarding } from '~/composables/boards/useScriptBoarding'
import { useWordsOut } from '~/composables/handover/useWordsOut'
import { useBoardsStore } from '~/stores/boards'
import { useFilmStore } from '~/stores/film'

/** The script beside the boards: what is boarded, what is not yet, and passages to make panels of. */
const emit = defineEmits<{ bringIn: []; edit: [] }>()
const film = useFilmStore()
const boards = useBoardsStore()
const { script, boarded, notYet, asShots, asPanels, fill } = useScriptBoarding()
const { wordsOut, busy } = useWordsOut()
const onlyNotYet = ref(false)
const list = useTemplateRef('list')
const menu = ref<{ toggle: (event: Event) => void } | null>(null)
const settings = ref<{ toggle: (event: Event) => void } | null>(null)
const rows = computed(() => {
  if (!onlyNotYet.value) return script.value
  const wanted = new Set(notYet.value.map((passage) => passage.id))
  // Headings stay where something under them is left.
  return script.value.filter((passage, i) => wanted.has(passage.id) || (passage.kind === 'scene' && script.value.slice(i + 1, next(i)).some((each) => wanted.has(each.id))))
})
function next(from: number): number {
  const at = script.value.findIndex((passage, i) => i > from && passage.kind === 'scene')
  return at < 0 ? script.value.length : at
}
const virtual = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => list.value,
    estimateSize: (index: number) => 26 + Math.ceil((rows.value[index]?.text.length ?? 0) / 32) * 17,
    getItemKey: (index: number) => rows.value[index]?.id ?? index,
    overscan: 8,
  })),
)
const measure = (element: unknown) => element instanceof Element && virtual.value.measureElement(element)
const shown = computed(() => {
  const wanted = new Set(boards.panels.map(({ takeId, panelId }) => `${takeId}/${panelId}`))
  return new Set(Object.values(film.outline.links).flatMap((link) => (wanted.has(`${link.takeId}/${link.panelId}`) ? [link.passageId] : [])))
})
watch(shown, (now) => {
  if (now.size === 0 || boards.passages.some((id) => now.has(id))) return
  const at = rows.value.findIndex((passage) => now.has(passage.id))
  if (at >= 0) virtual.value.scrollToIndex(at, { align: 'auto' })
})
watch(
  () => boards.passages,
  (ids) => {
    const at = rows.value.findIndex((passage) => passage.id === ids.at(-1))
    if (at >= 0) virtual.value.scrollToIndex(at, { align: 'auto' })
  },
)

const anchor = ref<string | null>(null)
function choose(id: string, event: MouseEvent | KeyboardEvent) {
  const ids = rows.value.map((passage) => passage.id)
  if (event.shiftKey && anchor.value !== null && ids.includes(anchor.value)) {
    const [a, b] = [ids.indexOf(anchor.value), ids.indexOf(id)]
    boards.passages = ids.slice(Math.min(a, b), Math.max(a, b) + 1)
    return
  }
  anchor.value = id
  if (event.ctrlKey || event.metaKey) boards.passages = boards.passages.includes(id) ? boards.passages.filter((each) => each !== id) : [...boards.passages, id]
  else boards.passages = [id]
}
function jump(id: string) {
  const ref = boarded.value.get(id)?.[0]
  if (ref === undefined) return
  void film.ensureTakesWithArt([ref.takeId]).then(
    () => {
      boards.choose(ref)
      boards.show(ref)
    },
    (error: Error) => film.refuse(`The panel could not be loaded. ${error.message}`),
  )
}
function onKey(event: KeyboardEvent) {
  if (event.target !== list.value) return
  const ids = rows.value.map((passage) => passage.id)
  const at = ids.indexOf(boards.passages.at(-1) ?? '')
  const to = event.key === 'ArrowDown' ? ids[at + 1] : event.key === 'ArrowUp' ? ids[Math.max(0, at - 1)] : undefined
  if (to !== undefined) choose(to, event)
  else if (event.key === 'Enter' && event.shiftKey) asPanels()
  else if (event.key === 'Enter') asShots()
  else if (event.key === 'f') fill()
  else if (event.key === 'Escape') boards.passages = []
  else return
  event.preventDefault()
  event.stopPropagation()
}
const boardable = computed(() => script.value.filter(canBeBoarded).length)
const chosenCount = computed(() => boards.passages.length)
let opener: Event | null = null
function openMenu(event: Event) {
  opener = { ...event, currentTarget: event.currentTarget, target: event.target } as Event
  menu.value?.toggle(event)
}
const items = computed(() => [
  { label: `Speaking rate: ${boards.wordsAMinute} words a minute…`, command: () => opener !== null && settings.value?.toggle(opener) },
  { separator: true },
  { label: 'Bring in another version…', command: () => emit('bringIn') },
  { label: 'Edit the script…', command: () => emit('edit') },
  { separator: true },
  ...formatsOf('words').map(({ format }) => ({ label: format.label, command: () => void wordsOut(format) })),
])
</script>

<template>
  <aside class="pane" aria-label="Script">
    <header>
      <b>Script</b>
      <button v-if="script.length > 0" class="chip" :aria-pressed="onlyNotYet" :title="`${boardable - notYet.length} of ${boardable} passages are boarded. Show only those that are not`" data-test="not-yet" @click="onlyNotYet = !onlyNotYet">{{ notYet.length === 0 ? 'all boarded' : `${notYet.length} not yet boarded` }}</button>
      <span class="grow" />
      <button class="icon-button small" title="Script and subtitles" aria-label="Script and subtitles" aria-haspopup="menu" :disabled="busy" @click="openMenu"><Ellipsis :size="15" /></button>
      <button class="icon-button small" title="Close the script" aria-label="Close the script" @click="boards.scriptOpen = false"><PanelRightClose :size="15" /></button>
    </header>
    <Popover ref="settings">
      <label class="rate">Speaking rate <input v-model.number="boards.wordsAMinute" type="range" :min="SPEAKING_RATE_RANGE.min" :max="SPEAKING_RATE_RANGE.max" step="5" /> <span class="mono">{{ boards.wordsAMinute }}</span> words a minute</label>
    </Popover>
    <Menu ref="menu" :model="items" popup />
    <div v-if="script.length === 0" class="empty">
      <p>Bring a screenplay in Fountain: a plain text file, or pasted. Scenes become sequences; drag action and dialogue onto the boards to make shots and panels.</p>
      <p v-if="film.lookingAt === null"><button class="push-button strong" @click="emit('bringIn')">Bring in a script…</button> <button class="push-button" @click="emit('edit')">Write or paste…</button></p>
    </div>
    <div v-else ref="list" class="passages" tabindex="0" role="listbox" aria-label="Script" aria-multiselectable="true" data-keys data-test="script" @keydown="onKey">
      <p v-if="rows.length === 0" class="quiet done">Every passage is boarded.</p>
      <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
        <div v-for="item in virtual.getVirtualItems()" :key="String(item.key)" :ref="measure" :data-index="item.index" class="item" :style="{ transform: `translateY(${item.start}px)` }">
          <ScriptPassage v-if="rows[item.index]" :passage="rows[item.index]!" :chosen="boards.passages.includes(rows[item.index]!.id)" :boarded="boarded.has(rows[item.index]!.id)" :shown="shown.has(rows[item.index]!.id)" @choose="choose(rows[item.index]!.id, $event)" @jump="jump(rows[item.index]!.id)" />
        </div>
      </div>
    </div>
    <footer v-if="chosenCount > 0 && film.lookingAt === null">
      <button class="push-button strong" title="A shot of each scene’s chosen passages (Enter)" @click="asShots()">Board as shot</button>
      <button class="push-button" title="Panels after the chosen panel (Shift Enter)" @click="asPanels()">As panels</button>
      <button class="push-button" title="Give the chosen panel these words (F)" @click="fill()">Fill panel</button>
    </footer>
  </aside>
</template>

<style scoped>
.pane {
  display: flex;
  flex-direction: column;
  height: 100%;
  border-left: 1px solid var(--rule);
  background: var(--paper-0);
}
header {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 42px;
  padding: 4px 6px 4px 12px;
}
.grow {
  flex: 1;
}
.empty {
  padding: 8px 16px;
}
.passages {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.passages:focus-visible {
  outline-offset: -2px;
}
.item {
  position: absolute;
  top: 0;
  right: 0;
  left: 0;
}
.done {
  padding: 0 12px;
}
footer {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding: 8px;
  border-top: 1px solid var(--rule);
}
.rate {
  display: flex;
  align-items: center;
  gap: 8px;
}
</style>
