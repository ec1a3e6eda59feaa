<script setup lang="ts">
import { shorten } from '@rubato/core/document'
import { editPanel, inTurn } from '@rubato/core/edits'
import { MOST_FOUND, type FoundCaption } from '#shared/captions'
import { computed, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { api } from '~/api/client'
import { X } from '~/icons'
import { useBoardsStore } from '~/stores/boards'
import type { Make } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

/** Finds words in captions all over the film, goes from one to the next, and replaces them. Shots are found by label and title. */
interface Found {
  readonly shotIndex: number
  readonly panelIndex: number
  readonly takeId: string
  readonly panelId: string | null
  readonly field: FoundCaption['field'] | 'shot'
}

const film = useFilmStore()
const boards = useBoardsStore()
const words = ref('')
const other = ref('')
const exactCase = ref(false)
const found = shallowRef<readonly Found[]>([])
const at = ref(-1)
const busy = ref(false)
const trouble = ref<string | null>(null)
const input = useTemplateRef('input')
onMounted(() => input.value?.focus())

let asked = 0
let timer: ReturnType<typeof setTimeout> | undefined
watch([words, exactCase], () => {
  clearTimeout(timer)
  timer = setTimeout(() => void search(), 180)
})

async function search(): Promise<void> {
  const mine = ++asked
  const wanted = words.value
  trouble.value = null
  at.value = -1
  if (wanted === '' || film.projectId === null) {
    found.value = []
    return
  }
  try {
    if (film.lookingAt === null) await film.flush()
    const list = film.lookingAt === null ? await api.findCaptions(film.projectId, wanted, exactCase.value) : []
    if (mine !== asked) return
    const shots = film.filmStage.shots
    const indexOf = new Map(shots.map((placed) => [placed.shot.circledTakeId, placed.index]))
    const fold = (text: string) => (exactCase.value ? text : text.toLowerCase())
    const named = shots
      .filter(({ shot }) => fold(shot.label) === fold(wanted) || fold(shot.title).includes(fold(wanted)))
      .map(({ shot, index }): Found => ({ shotIndex: index, panelIndex: -1, takeId: shot.circledTakeId, panelId: null, field: 'shot' }))
    // What only this window knows yet is looked through here.
    const all = list.flatMap((each): Found[] => {
      const shotIndex = indexOf.get(each.takeId)
      const panelIndex = boards.panelsOf(each.takeId).findIndex((panel) => panel.id === each.panelId)
      return shotIndex === undefined ? [] : [{ ...each, shotIndex, panelIndex }]
    })
    found.value = [...named, ...all].sort((a, b) => a.shotIndex - b.shotIndex || a.panelIndex - b.panelIndex || (a.field < b.field ? -1 : 1))
  } catch (error) {
    if (mine === asked) trouble.value = (error as Error).message
  }
}

async function go(step: 1 | -1) {
  if (found.value.length === 0) return
  at.value = (at.value + step + found.value.length) % found.value.length
  const here = found.value[at.value]!
  try {
    await film.ensureTakesWithArt([here.takeId])
  } catch (error) {
    trouble.value = (error as Error).message
    return
  }
  const panelId = here.panelId ?? boards.panelsOf(here.takeId)[0]?.id
  if (panelId === undefined) return
  const ref = { takeId: here.takeId, panelId }
  boards.choose(ref)
  boards.show(ref)
}

const pattern = () => new RegExp(words.value.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'), exactCase.value ? 'gu' : 'giu')
const step = (takeId: string, panelId: string): Make => (now) => {
  const take = now.takes[takeId]
  const panel = take?.panels[panelId]
  if (take === undefined || panel === undefined) return { ok: true, edits: [] }
  return editPanel(take, takeId, panelId, { action: shorten(panel.action.replace(pattern(), () => other.value), 10_000), dialogue: shorten(panel.dialogue.replace(pattern(), () => other.value), 10_000) })
}
async function replaceOne() {
  const here = found.value[at.value]
  if (here === undefined || here.panelId === null) return go(1)
  film.perform('replace words', step(here.takeId, here.panelId))
  const was = at.value
  await search()
  at.value = was - 1
  await go(1)
}
async function replaceAll() {
  busy.value = true
  trouble.value = null
  try {
    await search()
    const panels = [...new Map(found.value.flatMap((each) => (each.panelId === null ? [] : [[`${each.takeId}/${each.panelId}`, { takeId: each.takeId, panelId: each.panelId }] as const]))).values()]
    if (panels.length === 0) return
    if (!(await film.safeguard(`Before “${shorten(words.value, 40)}” was replaced`))) return
    await film.ensure('take', panels.map((panel) => panel.takeId))
    const times = panels.length
    if (film.perform(`replace in ${times === 1 ? '1 panel' : `${times} panels`}`, (f) => inTurn(f, panels.map(({ takeId, panelId }) => step(takeId, panelId))))) await search()
  } catch (error) {
    trouble.value = `Nothing was replaced. ${(error as Error).message}`
  } finally {
    busy.value = false
  }
}
const replaceable = computed(() => found.value.some((each) => each.panelId !== null) && film.lookingAt === null)
const told = computed(() => {
  if (trouble.value !== null) return trouble.value
  if (words.value === '') return ''
  const count = found.value.length
  if (count === 0) return 'not found'
  return at.value < 0 ? `${count >= MOST_FOUND ? `${MOST_FOUND} or more` : count} found` : `${at.value + 1} of ${count}`
})
function onKey(event: KeyboardEvent) {
  if (event.key === 'Escape') boards.finding = false
  else if (event.key === 'Enter') void go(event.shiftKey ? -1 : 1)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <form class="find" role="search" @submit.prevent>
    <input ref="input" v-model="words" aria-label="Find in captions" placeholder="Find in captions, shot labels and titles" maxlength="500" @keydown="onKey" />
    <span class="told" :class="{ wrong: trouble }" role="status" data-test="found">{{ told }}</span>
    <button class="push-button" type="button" :disabled="found.length === 0" title="The one before (Shift Enter)" @click="go(-1)">‹</button>
    <button class="push-button" type="button" :disabled="found.length === 0" title="The next (Enter)" @click="go(1)">›</button>
    <label title="Capitals and small letters are told apart"><input v-model="exactCase" type="checkbox" /> Aa</label>
    <input v-model="other" aria-label="Replace with" placeholder="Replace with" maxlength="500" @keydown.escape.stop="boards.finding = false" />
    <button class="push-button" type="button" :disabled="!replaceable || busy" @click="replaceOne">Replace</button>
    <button class="push-button" type="button" :disabled="!replaceable || busy" title="Everywhere in the film, as one change" @click="replaceAll">Replace all</button>
    <button class="icon-button small" type="button" title="Close (Escape)" aria-label="Close" @click="boards.finding = false"><X :size="14" /></button>
  </form>
</template>

<style scoped>
.find {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding: 0 14px 8px;
}
input:not([type='checkbox']) {
  flex: 1;
  min-width: 110px;
  min-height: 28px;
  padding: 2px 8px;
  border: 1px solid var(--rule);
  border-radius: 6px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
label {
  display: inline-flex;
  align-items: center;
  gap: 4px;
}
.told {
  min-width: 70px;
  color: var(--ink-2);
}
.told.wrong {
  color: var(--vermilion-text);
}
</style>
