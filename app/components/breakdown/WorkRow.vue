<script setup lang="ts">
import { WORK_LETTERS, type WorkState } from '@rubato/core/document'
import { computed } from 'vue'
import SaidCell from '~/components/breakdown/SaidCell.vue'
import StateCell from '~/components/breakdown/StateCell.vue'
import WorkPicture from '~/components/breakdown/WorkPicture.vue'
import type { TableColumn, WorkRow } from '~/composables/breakdown/useWorkTable'
import { daysWords, pointsWords } from '~/text/breakdown'

/** What is known of one thing or shot. Of thousands few are in the page, and each comes and goes as the list is scrolled: plain cells. */
const props = defineProps<{ row: WorkRow; columns: readonly TableColumn[]; hardest: number }>()
const emit = defineEmits<{ go: []; log: [event: Event]; sayText: [column: TableColumn, text: string]; sayState: [state: WorkState | null] }>()

const BAR_PX = 52
function textOf({ id, said }: TableColumn): string {
  if (said === 'days') return props.row.saidDays === null ? '' : daysWords(props.row.saidDays)
  const value = props.row.cells[id]
  if (value === null || value === undefined) return ''
  return id === 'closest' ? `× ${Number(value).toFixed(2)}` : String(value)
}
const shown = computed(() => props.columns.map((column) => ({ column, text: textOf(column) })))
const LETTERS = { ...WORK_LETTERS, days: 12 }
const isMono = ({ id, number }: TableColumn) => number || id === 'made' || id === 'seen'
</script>

<template>
  <div v-for="{ column, text } in shown" :key="column.id" role="gridcell" class="cell" :class="{ number: column.number, said: column.said !== null && column.said !== 'state' }">
    <div v-if="column.id === 'name'" class="name">
      <WorkPicture :key="row.takeId ?? ''" :take-id="row.takeId" :width="76" />
      <span class="words"><b :title="row.label">{{ text }}</b><span class="quiet" :title="String(row.cells.sort)">{{ row.cells.sort }}</span></span>
      <span class="does">
        <button class="link" :title="`To ${row.label} on the Desk`" :aria-label="`To ${row.label} on the Desk`" @click.stop="emit('go')">go</button>
        <button class="link quiet" title="Who said what when" :aria-label="`History of ${row.label}`" @click.stop="emit('log', $event)">log</button>
      </span>
    </div>
    <StateCell v-else-if="column.said === 'state'" :state="row.state" :label="`State of ${row.label}`" @say="(state) => emit('sayState', state)" />
    <SaidCell v-else-if="column.said" :value="text" :label="`${column.name} of ${row.label}`" :most="LETTERS[column.said]" :number="column.number" :reckoned="column.said === 'days' && row.days !== null ? `~ ${daysWords(row.days)}` : undefined" @say="(words) => emit('sayText', column, words)" />
    <span v-else-if="column.id === 'hard'" class="hard" :title="row.why"><i :style="{ width: `${((row.points ?? 0) / hardest) * BAR_PX}px` }" /><span class="mono">{{ row.points === null ? '' : pointsWords(row.points) }}</span></span>
    <span v-else-if="column.id === 'finding'" class="found" :class="{ wrong: (row.findings ?? 0) > 0 }" :title="row.findings === null ? 'Not looked through yet' : ''">{{ row.findings === null ? '?' : row.findings === 0 ? 'none' : `${row.findings} run out` }}</span>
    <span v-else class="text" :class="{ tempo: column.tempo, mono: isMono(column) }" :title="text">{{ text }}</span>
  </div>
</template>

<style scoped>
.cell {
  display: flex;
  align-items: center;
  min-width: 0;
  padding: 2px 8px;
  overflow: hidden;
}
/* The field's own edge and room stand where other cells' text begins. */
.cell.said {
  padding: 2px 1px;
}
.cell.number {
  justify-content: flex-end;
}
.name {
  position: relative;
  display: flex;
  flex: 1;
  align-items: center;
  gap: 8px;
  min-width: 0;
}
.words {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 0;
}
.words > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.does {
  position: absolute;
  right: 0;
  display: flex;
  flex-direction: column;
  padding-left: 8px;
  background: var(--ground);
  opacity: 0;
}
.does:focus-within {
  opacity: 1;
}
.hard {
  display: flex;
  align-items: center;
  gap: 6px;
}
.hard i {
  flex: none;
  height: 14px;
  border-radius: 2px;
  background: var(--ink-2);
}
.found {
  color: var(--ink-2);
}
.found.wrong {
  color: var(--vermilion-text);
}
.text {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.text.tempo {
  font-size: 15px;
}
</style>
