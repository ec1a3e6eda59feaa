import { LABEL_COLUMN, SAID, writeTable, type TableOf } from '@rubato/core/interchange'
import type { Ref } from 'vue'
import { useBreakdownStore } from '~/stores/breakdown'
import { stateOfWords, stateWords } from '~/text/breakdown'
import { COLUMNS, isGroup, type useWorkTable, type WorkRow, type WorkTab } from './useWorkTable'

/** The breakdown as a table that goes out, and what one that comes in may change. */
export function useTableOut(table: ReturnType<typeof useWorkTable>, tab: Ref<WorkTab>) {
  const store = useBreakdownStore()
  const SORT = 'Kind'
  /** What is worked out, with what a title is called there. */
  const others = () => [...COLUMNS[tab.value].filter(({ said }) => said === null).map(({ name }) => name), SORT, 'Reckoned days']

  function tableText(): string {
    const columns = table.shownColumns.value
    const header = [LABEL_COLUMN, columns.find(({ id }) => id === 'name')!.name, SORT, ...columns.filter(({ id }) => id !== 'name').map(({ name, said }) => (said === null || said === 'own' ? name : SAID[said])), 'Reckoned days']
    const cell = (row: WorkRow, id: string) => {
      if (id === 'state') return stateWords(row.state ?? undefined)
      if (id === 'days') return store.body.work[row.id]?.days ?? ''
      const value = row.cells[id] ?? ''
      return typeof value === 'number' ? Number(value.toFixed(3)) : value
    }
    const rows = table.tableRows.value.flatMap((row) => (isGroup(row) ? [] : [[row.label, row.cells.name ?? '', row.cells.sort ?? '', ...columns.filter(({ id }) => id !== 'name').map(({ id }) => cell(row, id)), row.days === null ? '' : Number(row.days.toFixed(2))]]))
    return writeTable(header, rows)
  }
  function tableOf(): TableOf {
    return {
      rows: table.rows.value.map(({ id, label }) => {
        const work = store.body.work[id]
        return { id, label, now: { state: work?.state ?? null, who: work?.who ?? '', days: work?.days ?? null, notes: work?.notes ?? '', own: work?.own ?? {} } }
      }),
      columns: store.columns.filter(({ of }) => of === tab.value),
      others: others(),
      stateOf: stateOfWords,
    }
  }
  return { tableText, tableOf }
}
