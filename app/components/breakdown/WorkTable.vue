<script setup lang="ts">
import type { WorkState } from '@rubato/core/document'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, useId, useTemplateRef, watch } from 'vue'
import { ArrowDown, ArrowUp } from 'lucide-vue-next'
import WorkRowCells from '~/components/breakdown/WorkRow.vue'
import { isGroup, type TableColumn, type useWorkTable, type WorkRow } from '~/composables/breakdown/useWorkTable'
import { daysWords } from '~/text/breakdown'

/** The rows of the breakdown, of which only those in view are in the page: heads sort, a press chooses (Ctrl one more, Shift up to it), arrows go on. */
const props = defineProps<{ table: ReturnType<typeof useWorkTable>; label: string; empty: string }>()
const emit = defineEmits<{ go: [row: WorkRow]; log: [event: Event, row: WorkRow]; sayText: [row: WorkRow, column: TableColumn, text: string]; sayState: [row: WorkRow, state: WorkState | null] }>()
const { sort, chosen, shownColumns, rows: allRows, tableRows } = props.table

const [ROW_PX, HEAD_PX, OVER] = [54, 30, 5]
const scroller = useTemplateRef('scroller')
const virtual = useVirtualizer(
  computed(() => ({ count: tableRows.value.length, getScrollElement: () => scroller.value, estimateSize: () => ROW_PX, getItemKey: (index: number) => tableRows.value[index]?.id ?? index, overscan: OVER, scrollMargin: HEAD_PX, scrollPaddingStart: HEAD_PX })),
)
const inView = computed(() => virtual.value.getVirtualItems().flatMap(({ index, start }) => ((row) => (row === undefined ? [] : [{ row, index, top: start - HEAD_PX }]))(tableRows.value[index])))
const template = computed(() => shownColumns.value.map(({ width }) => `minmax(${width}px, ${width}fr)`).join(' '))
const width = computed(() => shownColumns.value.reduce((sum, column) => sum + column.width, 0))
const hardest = computed(() => Math.max(1e-9, ...allRows.value.map(({ points }) => points ?? 0)))
const chosenIds = computed(() => new Set(chosen.value.map(({ id }) => id)))

/** Up, down, and as it was. */
function sortBy({ id }: TableColumn) {
  const now = sort.value?.column === id ? sort.value.way : null
  sort.value = now === -1 ? null : { column: id, way: now === 1 ? -1 : 1 }
}
const sortedWay = ({ id }: TableColumn) => (sort.value?.column !== id ? 'none' : sort.value.way === 1 ? 'ascending' : 'descending')

/** The row that keys go to, and where a choice up to another begins. */
const current = ref<string | null>(null)
const from = ref<string | null>(null)
watch(tableRows, (rows) => current.value !== null && !rows.some(({ id }) => id === current.value) && (current.value = from.value = null))
const tableId = useId()
const idOf = (index: number) => `${tableId}-${index}`
const indexOf = (id: string | null) => (id === null ? -1 : tableRows.value.findIndex((row) => row.id === id))
const between = (a: number, b: number) => tableRows.value.slice(Math.min(a, b), Math.max(a, b) + 1).filter((row) => !isGroup(row))
function choose(index: number, more: { readonly shiftKey: boolean; readonly ctrlKey: boolean; readonly metaKey: boolean }) {
  const row = tableRows.value[index]
  if (row === undefined || isGroup(row)) return
  current.value = row.id
  const begun = more.shiftKey ? indexOf(from.value) : -1
  if (begun >= 0) chosen.value = between(begun, index)
  else {
    from.value = row.id
    if (more.ctrlKey || more.metaKey) chosen.value = chosenIds.value.has(row.id) ? chosen.value.filter(({ id }) => id !== row.id) : [...chosen.value, row]
    else chosen.value = [row]
  }
}
/** The keys stay with the table: a row that is scrolled out of view is in the page no more. */
function onKey(event: KeyboardEvent) {
  if (tableRows.value.length === 0) return
  // A button's Enter is its own.
  const isButtons = event.target instanceof Element && event.target.closest('button') !== null
  const at = indexOf(current.value)
  const steps: Readonly<Record<string, number>> = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8, Home: -Infinity, End: Infinity }
  const step = steps[event.key]
  const row = tableRows.value[at]
  if (step !== undefined) {
    const last = tableRows.value.length - 1
    const way = step > 0 ? 1 : -1
    let to = Math.min(last, Math.max(0, at + step))
    while (to > 0 && to < last && isGroup(tableRows.value[to]!)) to += way
    if (tableRows.value[to] !== undefined && isGroup(tableRows.value[to]!)) to = at < 0 ? to + 1 : at
    virtual.value.scrollToIndex(to, { align: 'auto' })
    choose(to, { shiftKey: event.shiftKey, ctrlKey: false, metaKey: false })
    scroller.value?.focus({ preventScroll: true })
  } else if (event.key === 'Enter' && !isButtons && row !== undefined && !isGroup(row)) emit('go', row)
  else if (event.key === 'a' && (event.ctrlKey || event.metaKey)) chosen.value = between(0, tableRows.value.length - 1)
  else if (event.key === 'Escape' && chosen.value.length > 0) chosen.value = []
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div ref="scroller" class="table" :class="{ begun: current === null }" role="grid" :aria-label="label" :aria-rowcount="tableRows.length + 1" aria-multiselectable="true" :aria-activedescendant="current === null ? undefined : idOf(indexOf(current))" tabindex="0" data-test="work-table" @keydown="onKey">
    <div class="head" role="row" aria-rowindex="1" :style="{ gridTemplateColumns: template, minWidth: `${width}px` }">
      <div v-for="column in shownColumns" :key="column.id" role="columnheader" :aria-sort="sortedWay(column)" :class="{ number: column.number }">
        <button :title="`By ${column.name.toLowerCase()}: up, down, as it was`" @click="sortBy(column)">
          {{ column.name }}
          <ArrowDown v-if="sortedWay(column) === 'descending'" :size="11" aria-hidden="true" />
          <ArrowUp v-else :size="11" aria-hidden="true" />
        </button>
      </div>
    </div>
    <p v-if="tableRows.length === 0" class="empty quiet">{{ empty }}</p>
    <div class="rows" role="rowgroup" :style="{ height: `${virtual.getTotalSize()}px`, minWidth: `${width}px` }">
      <template v-for="{ row, index, top } in inView" :key="row.id">
        <div v-if="isGroup(row)" class="row group" role="row" :aria-rowindex="index + 2" :style="{ transform: `translateY(${top}px)` }">
          <span class="group-name" role="gridcell"><b>{{ row.group }}</b> <progress :value="row.done" :max="row.rows" :aria-label="`${row.group}: ${row.done} of ${row.rows} done`" /> <span class="quiet">{{ row.done }} of {{ row.rows }} done · {{ daysWords(row.days) }} days</span></span>
        </div>
        <div v-else :id="idOf(index)" class="row" :class="{ chosen: chosenIds.has(row.id), current: row.id === current }" role="row" :aria-rowindex="index + 2" :aria-selected="chosenIds.has(row.id)" :style="{ gridTemplateColumns: template, transform: `translateY(${top}px)` }" @click="choose(index, $event)" @dblclick="emit('go', row)">
          <WorkRowCells :row="row" :columns="shownColumns" :hardest="hardest" @go="emit('go', row)" @log="(event) => emit('log', event, row)" @say-text="(column, text) => emit('sayText', row, column, text)" @say-state="(state) => emit('sayState', row, state)" />
        </div>
      </template>
    </div>
  </div>
</template>

<style scoped>
.table {
  position: relative;
  flex: 1;
  min-height: 0;
  border: 1px solid var(--rule);
  border-radius: 8px;
  overflow: auto;
}
.head,
.row {
  display: grid;
}
.head {
  position: sticky;
  z-index: 1;
  top: 0;
  height: 30px;
  border-bottom: 1px solid var(--rule);
  background: var(--paper-2);
}
.head button {
  display: flex;
  align-items: center;
  gap: 4px;
  width: 100%;
  height: 100%;
  padding: 0 8px;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  font-weight: 600;
  white-space: nowrap;
  cursor: pointer;
}
.head .number button {
  flex-direction: row-reverse;
}
.head svg {
  flex: none;
  color: var(--ink-2);
  opacity: 0;
}
.head div:hover svg,
.head div:not([aria-sort='none']) svg {
  opacity: 1;
}
.rows {
  position: relative;
}
.row {
  position: absolute;
  top: 0;
  right: 0;
  left: 0;
  height: 54px;
  border-bottom: 1px solid var(--rule);
  --ground: var(--paper-0);

  background: var(--ground);
  contain: strict;
}
.row.chosen {
  --ground: var(--blue-wash);
}
.row:hover :deep(.does) {
  opacity: 1;
}
.table:focus-visible .row.current {
  outline: 2px solid var(--blue);
  outline-offset: -2px;
}
/* Where no row has the keys yet, the table shows that it has them; those of a row are on the row. */
.table:focus-visible {
  outline: none;
}
.table.begun:focus-visible {
  outline: 2px solid var(--blue);
  outline-offset: -2px;
}
.row.group {
  --ground: var(--paper-1);
}
.group-name {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  padding: 0 8px;
  white-space: nowrap;
}
.group-name progress {
  width: 90px;
  height: 8px;
  accent-color: var(--sea);
}
.empty {
  margin: 0;
  padding: 14px;
}
</style>
