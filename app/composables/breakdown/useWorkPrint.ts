import { onScopeDispose, ref, shallowRef, type Ref } from 'vue'
import { pictureBase } from '~/api/client'
import { WorkerStopped } from '~/clients/jobs'
import { workPrintJobs } from '~/clients/workPrintJobs'
import { fileTitle, saveFile } from '~/composables/handover/useWordsOut'
import { useFilmStore } from '~/stores/film'
import { daysWords, pointsWords } from '~/text/breakdown'
import type { WorkPrintAsk } from '~/workers/messages'
import { isGroup, type useWorkTable, type WorkRow, type WorkTab } from './useWorkTable'

/** A document of more is too large to be held. */
const MOST_ROWS = 6000

/** What is shown of the breakdown as a PDF with pictures: its columns, its order, its groups. */
export function useWorkPrint(table: ReturnType<typeof useWorkTable>, tab: Ref<WorkTab>) {
  const film = useFilmStore()
  const progress = shallowRef<{ readonly done: number; readonly total: number } | null>(null)
  const trouble = ref<string | null>(null)
  let gate = new AbortController()
  function stop() {
    gate.abort()
    progress.value = null
  }
  onScopeDispose(stop)

  const text = (row: WorkRow, id: string): string => {
    const value = row.cells[id]
    if (id === 'days') return value === null || value === undefined ? '' : daysWords(Number(value))
    if (id === 'hard') return row.points === null ? '' : pointsWords(row.points)
    if (id === 'closest') return value === null || value === undefined ? '' : `× ${Number(value).toFixed(2)}`
    if (id === 'finding') return row.findings === null || row.findings === 0 ? '' : `${row.findings} run out`
    return String(value ?? '')
  }
  async function print() {
    const { project, projectId } = film
    if (project === null || projectId === null || progress.value !== null) return
    trouble.value = null
    const rows = table.tableRows.value
    if (rows.length > MOST_ROWS) return (trouble.value = `${rows.length} rows are too many for one document: at most ${MOST_ROWS}. Find or filter some of them first.`)
    const columns = table.shownColumns.value
    const { signal } = (gate = new AbortController())
    progress.value = { done: 0, total: 1 }
    const ask: WorkPrintAsk = {
      project: { ...project, rate: { ...project.rate } },
      heading: tab.value === 'things' ? 'To be made' : 'Shots',
      dateText: new Date().toLocaleDateString(undefined, { dateStyle: 'long' }),
      columns: columns.map(({ name, width }) => ({ name, width })),
      rows: rows.map((row) => (isGroup(row) ? { takeId: null, group: `${row.group} · ${row.done} of ${row.rows} done · ${daysWords(row.days)} days`, cells: [] } : { takeId: row.takeId, group: null, cells: columns.map(({ id }) => [text(row, id), id === 'name' ? String(row.cells.sort ?? '') : ''] as const) })),
      base: `${location.origin}/api/projects/${projectId}`,
      pictureBase: pictureBase(),
    }
    try {
      await film.flush()
      const { file } = await workPrintJobs.run(ask, { signal, progress: (told) => !signal.aborted && (progress.value = told) })
      saveFile(`${fileTitle(project.title)} – ${ask.heading.toLowerCase()}.pdf`, file)
    } catch (error) {
      if (!signal.aborted) trouble.value = error instanceof WorkerStopped ? 'The printer stopped, perhaps for want of memory. Find or filter fewer rows, then try again.' : `It could not be printed. ${(error as Error).message}`
    }
    if (!signal.aborted) progress.value = null
  }
  return { progress, trouble, print, stop }
}
