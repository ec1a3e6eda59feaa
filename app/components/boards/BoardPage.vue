<script setup lang="ts">
import { inOrder } from '@rubato/core/document'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { useElementSize } from '@vueuse/core'
import { autoScrollForElements } from '@atlaskit/pragmatic-drag-and-drop-auto-scroll/element'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { cardsInRow, cardSize, layBoard, rowOfPanel, type BoardRow } from '~/boards/boardRows'
import PanelRow from '~/components/boards/PanelRow.vue'
import SequenceHead from '~/components/boards/SequenceHead.vue'
import ShotHead from '~/components/boards/ShotHead.vue'
import { useBoardDrag } from '~/composables/boards/useBoardDrag'
import { useBoardsStore, type PanelRef } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** The film as panels in reading order, shots bracketed. Only what is seen is drawn. */
const film = useFilmStore()
const boards = useBoardsStore()
const desk = useDeskStore()
const drag = useBoardDrag()
const emit = defineEmits<{ seen: [sequenceId: string] }>()
drag.follow()

const page = useTemplateRef('page')
const { width } = useElementSize(page)
const size = computed(() => cardSize(boards.size, film.optics?.aspect ?? 16 / 9))
const perRow = computed(() => cardsInRow(width.value, size.value))
const shots = computed(() => {
  const counts = film.panelCounts
  return film.filmStage.shots.map(({ shot }) => ({ shotId: shot.id, takeId: shot.circledTakeId, sequenceId: shot.sequenceId, panelCount: counts.get(shot.circledTakeId) ?? 0 }))
})
const sequences = computed(() => inOrder(film.outline.sequences))
/** The rows stay the same object while no shot, panel count or size changes: most edits don't. */
let laid: { readonly key: string; readonly rows: readonly BoardRow[] } = { key: '', rows: [] }
const rows = computed(() => {
  const key = `${boards.size}|${perRow.value}|${size.value.picturePx}|${sequences.value.map((sequence) => sequence.id).join()}|${shots.value.map((shot) => `${shot.shotId}.${shot.sequenceId}.${shot.takeId}.${shot.panelCount}`).join()}`
  if (key !== laid.key) laid = { key, rows: layBoard(sequences.value.map((sequence) => sequence.id), shots.value, perRow.value, size.value) }
  return laid.rows
})
const virtual = useVirtualizer(
  computed(() => ({
    count: width.value === 0 ? 0 : rows.value.length,
    getScrollElement: () => page.value,
    estimateSize: (index: number) => rows.value[index]!.heightPx,
    getItemKey: (index: number) => rows.value[index]!.key,
    overscan: 3,
    paddingEnd: 60,
  })),
)
watch(rows, () => virtual.value.measure(), { flush: 'post' })
const items = computed(() => virtual.value.getVirtualItems().flatMap((item) => (rows.value[item.index] === undefined ? [] : [{ start: item.start, row: rows.value[item.index]! }])))

// What is seen is loaded, once the scrolling has settled on it.
const seenShots = computed(() => [...new Set(items.value.flatMap(({ row }) => (row.kind === 'sequence' ? [] : [row.shotIndex])))])
const LOAD_AFTER_MS = 90
const trouble = ref<string | null>(null)
let timer: ReturnType<typeof setTimeout> | undefined
function load() {
  clearTimeout(timer)
  timer = setTimeout(async () => {
    trouble.value = null
    try {
      await film.ensureTakesWithArt(seenShots.value.flatMap((index) => shots.value[index]?.takeId ?? []))
    } catch (error) {
      trouble.value = (error as Error).message
    }
  }, LOAD_AFTER_MS)
}
watch(() => seenShots.value.map((index) => shots.value[index]?.takeId).join(), load, { immediate: true })
onBeforeUnmount(() => clearTimeout(timer))
// What others draw into what is seen is loaded too.
watch(() => film.film.takes, () => trouble.value === null && load())

watch(
  () => items.value.find(({ start, row }) => start + row.heightPx > (virtual.value.scrollOffset ?? 0) + 20)?.row,
  (row) => {
    if (row !== undefined) emit('seen', row.kind === 'sequence' ? row.sequenceId : (shots.value[row.shotIndex]?.sequenceId ?? ''))
  },
)

function showPanel({ takeId, panelId }: PanelRef) {
  const shotIndex = shots.value.findIndex((shot) => shot.takeId === takeId)
  const panelIndex = Math.max(0, boards.panelsOf(takeId).findIndex((panel) => panel.id === panelId))
  const row = rowOfPanel(rows.value, shotIndex, panelIndex)
  if (row >= 0) virtual.value.scrollToIndex(row, { align: 'auto' })
}
function showSequence(sequenceId: string) {
  const row = rows.value.findIndex((each) => each.kind === 'sequence' && each.sequenceId === sequenceId)
  if (row >= 0) virtual.value.scrollToIndex(row, { align: 'start' })
}
function showShot(shotId: string) {
  const row = rows.value.findIndex((each) => each.kind === 'head' && shots.value[each.shotIndex]?.shotId === shotId)
  if (row >= 0) virtual.value.scrollToIndex(row, { align: 'start' })
}
watch(
  () => boards.reveal?.number,
  () => boards.reveal !== null && showPanel(boards.reveal.ref),
  { flush: 'post' },
)

/** The panel a row above or below, in the same place or the nearest. */
function across(from: PanelRef, step: 1 | -1): PanelRef | null {
  const shotIndex = shots.value.findIndex((shot) => shot.takeId === from.takeId)
  const panelIndex = boards.panelsOf(from.takeId).findIndex((panel) => panel.id === from.panelId)
  let at = rowOfPanel(rows.value, shotIndex, panelIndex)
  const column = panelIndex - ((rows.value[at] as { from?: number } | undefined)?.from ?? 0)
  do at += step
  while (rows.value[at] !== undefined && rows.value[at]!.kind !== 'panels')
  const row = rows.value[at]
  if (row === undefined || row.kind !== 'panels') return null
  const takeId = shots.value[row.shotIndex]!.takeId
  const panel = boards.panelsOf(takeId)[Math.min(row.from + column, row.to - 1)]
  return panel === undefined ? null : { takeId, panelId: panel.id }
}
function step(direction: 'left' | 'right' | 'up' | 'down', extend: boolean) {
  const from = boards.current
  const first = shots.value[0]
  const start = first === undefined ? undefined : boards.panelsOf(first.takeId)[0]
  const to = from === null ? (first === undefined || start === undefined ? null : { takeId: first.takeId, panelId: start.id }) : direction === 'left' || direction === 'right' ? boards.neighbour(from, direction === 'right' ? 1 : -1) : across(from, direction === 'down' ? 1 : -1)
  if (to === null) return
  boards.choose(to, extend ? 'range' : 'only')
  showPanel(to)
}

// The boards open where the playhead stands.
const stopWaiting = watch(
  () => rows.value.length > 0 && width.value > 0 && desk.shotId !== null,
  (ready) => {
    if (!ready) return
    if ((film.filmStage.placeOf(desk.shotId!)?.index ?? 0) > 0) showShot(desk.shotId!)
    setTimeout(() => stopWaiting())
  },
  { immediate: true, flush: 'post' },
)
let endScroll = () => {}
onMounted(() => {
  if (page.value !== null) endScroll = autoScrollForElements({ element: page.value })
})
onBeforeUnmount(() => endScroll())
function clear(event: MouseEvent) {
  if ((event.target as HTMLElement).closest('article, .head, button, input') !== null) return
  boards.panels = []
  boards.shots = []
}
defineExpose({ step, showSequence, showShot, focus: () => page.value?.focus() })
</script>

<template>
  <div ref="page" class="page" tabindex="0" role="listbox" aria-label="Boards" aria-multiselectable="true" data-board-page data-keys data-test="board-page" @mousedown="clear">
    <p v-if="trouble" class="trouble" role="alert">Some shots could not be loaded. {{ trouble }} <button class="push-button" @click="load">Try again</button></p>
    <div class="sheet" :style="{ height: `${virtual.getTotalSize()}px` }">
      <div v-for="{ start, row } in items" :key="row.key" class="row" :style="{ height: `${row.heightPx}px`, transform: `translateY(${start}px)` }">
        <SequenceHead v-if="row.kind === 'sequence' && film.outline.sequences[row.sequenceId]" :sequence="film.outline.sequences[row.sequenceId]!" :empty="row.empty" />
        <div v-else-if="row.kind === 'head' && film.filmStage.shots[row.shotIndex]" class="bracketed top"><ShotHead :placed="film.filmStage.shots[row.shotIndex]!" /></div>
        <PanelRow v-else-if="row.kind === 'panels'" :take-id="shots[row.shotIndex]?.takeId ?? ''" :from="row.from" :to="row.to" :last="row.last" :per-row="perRow" :size="size" />
      </div>
    </div>
    <div v-if="film.filmStage.shots.length === 0" class="none"><p>This film has no shots yet.</p></div>
  </div>
</template>

<style scoped>
.page {
  position: relative;
  height: 100%;
  padding: 0 14px;
  overflow-y: auto;
  overflow-x: hidden;
  outline-offset: -2px;
}
.page:focus-visible {
  outline: none;
}
.sheet {
  position: relative;
}
.row {
  contain: layout style;
  position: absolute;
  top: 0;
  right: 0;
  left: 0;
}
.bracketed {
  position: relative;
  height: 100%;
  padding-left: 14px;
}
.bracketed::before {
  content: '';
  position: absolute;
  top: 0;
  bottom: 0;
  left: 0;
  width: 7px;
  border-left: 3px solid var(--ink);
}
.bracketed.top::before {
  top: 4px;
  border-top: 2px solid var(--ink);
  border-top-left-radius: 5px;
}
.trouble {
  position: sticky;
  z-index: 4;
  top: 0;
  margin: 0;
  padding: 5px 12px;
  background: var(--vermilion-wash);
  color: var(--vermilion-text);
}
.none {
  padding: 40px;
  text-align: center;
}
</style>
