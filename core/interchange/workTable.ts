import Papa from 'papaparse'
import { WORK_LETTERS, type WorkFields, type WorkState } from '../document/records'

/**
 * A breakdown as CSV (RFC 4180): a header, then a row for each thing or shot. The first column is its label, by which rows find back;
 * those named in `SAID`, and columns of one's own, are what is taken in again; all others are worked out from the film and passed over.
 */
export const LABEL_COLUMN = 'Label'
export const SAID = Object.freeze({ state: 'State', who: 'Who', days: 'Days', notes: 'Notes' } as const)
type Said = keyof typeof SAID

export const writeTable = (header: readonly string[], rows: readonly (readonly (string | number)[])[]): string => `${Papa.unparse([[...header], ...rows.map((row) => [...row])], { newline: '\r\n', escapeFormulae: true })}\r\n`

/** What a table may change, and how it is now. */
export interface TableOf {
  readonly rows: readonly { readonly id: string; readonly label: string; readonly now: { readonly state: WorkState | null; readonly who: string; readonly days: number | null; readonly notes: string; readonly own: Readonly<Record<string, string>> } }[]
  readonly columns: readonly { readonly id: string; readonly name: string }[]
  /** Columns that are worked out. */
  readonly others: readonly string[]
  /** Null for to do; undefined for no state. */
  readonly stateOf: (words: string) => WorkState | null | undefined
}
/** Why a row, or a cell of it, is left out. Rows are counted as a table's lines are, the header being 1. */
export interface BadRow {
  readonly row: number
  readonly code: 'no-label' | 'unknown' | 'twice' | 'bad-state' | 'bad-days' | 'too-long'
  readonly found: string
}
export type TableRead =
  | { readonly ok: true; readonly changes: readonly { readonly id: string; readonly label: string; readonly fields: WorkFields; readonly told: readonly { readonly column: string; readonly before: string; readonly after: string }[] }[]; readonly bad: readonly BadRow[]; readonly rows: number; /** Columns that are not known, which could be made one's own. */ readonly fresh: readonly string[] }
  | { readonly ok: false; readonly code: 'no-label-column' | 'empty'; readonly found: string }

/** A quote that keeps a table from reckoning with what begins like a formula. */
const plain = (cell: string) => cell.replace(/^'(?=[=+\-@\t\r])/, '').trim()

/** What a table would change. `fresh`: columns that are to be one's own from now on, by the ids that they will have. */
export function readTable(text: string, of: TableOf, fresh: ReadonlyMap<string, string> = new Map()): TableRead {
  const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: false })
  const lines = data.map((cells, i) => ({ cells: cells.map(plain), row: i + 1 })).filter(({ cells }) => cells.some((cell) => cell !== ''))
  const [header, ...rows] = lines
  if (header === undefined || rows.length === 0) return { ok: false, code: 'empty', found: '' }
  const same = (a: string, b: string) => a.toLowerCase() === b.toLowerCase()
  const labelAt = header.cells.findIndex((name) => same(name, LABEL_COLUMN))
  if (labelAt < 0) return { ok: false, code: 'no-label-column', found: header.cells.join(', ').slice(0, 80) }
  const said = Object.entries(SAID).flatMap(([field, name]) => ((at) => (at < 0 ? [] : [{ field: field as Said, name, at }]))(header.cells.findIndex((each) => same(each, name))))
  const taken = new Set([labelAt, ...said.map(({ at }) => at)])
  const own: { readonly id: string; readonly name: string; readonly at: number }[] = []
  const unknown: string[] = []
  header.cells.forEach((name, at) => {
    if (taken.has(at) || name === '' || of.others.some((other) => same(other, name))) return
    const id = of.columns.find((column) => same(column.name, name))?.id ?? fresh.get(name)
    if (id !== undefined) own.push({ id, name, at })
    else unknown.push(name.slice(0, WORK_LETTERS.column))
  })
  const byLabel = new Map(of.rows.map((row) => [row.label.toLowerCase(), row]))
  const seen = new Set<string>()
  const bad: BadRow[] = []
  const changes: Extract<TableRead, { ok: true }>['changes'][number][] = []
  for (const { cells, row } of rows) {
    const label = cells[labelAt] ?? ''
    const found = byLabel.get(label.toLowerCase())
    if (label === '' || found === undefined || seen.has(found.id)) {
      bad.push({ row, code: label === '' ? 'no-label' : found === undefined ? 'unknown' : 'twice', found: label.slice(0, 60) })
      continue
    }
    seen.add(found.id)
    const fields: { -readonly [F in keyof WorkFields]: WorkFields[F] } = {}
    const told: { column: string; before: string; after: string }[] = []
    const { now } = found
    for (const { field, name, at } of said) {
      const cell = cells[at] ?? ''
      if (field === 'state') {
        const state = of.stateOf(cell)
        if (state === undefined) bad.push({ row, code: 'bad-state', found: cell.slice(0, 40) })
        else if (state !== now.state) [fields.state, told[told.length]] = [state, { column: name, before: now.state ?? '', after: state ?? '' }]
      } else if (field === 'days') {
        const days = cell === '' ? null : Number(cell.replace(',', '.'))
        if (days !== null && !(days >= 0 && days <= 10_000)) bad.push({ row, code: 'bad-days', found: cell.slice(0, 40) })
        else if (days !== now.days) [fields.days, told[told.length]] = [days, { column: name, before: now.days === null ? '' : String(now.days), after: cell }]
      } else if (cell.length > WORK_LETTERS[field]) bad.push({ row, code: 'too-long', found: `${name}: ${cell.slice(0, 30)}` })
      else if (cell !== plain(now[field])) [fields[field], told[told.length]] = [cell === '' ? null : cell, { column: name, before: now[field], after: cell }]
    }
    const changed: Record<string, string> = {}
    for (const { id, name, at } of own) {
      const [cell, before] = [cells[at] ?? '', now.own[id] ?? '']
      if (cell.length > WORK_LETTERS.own) bad.push({ row, code: 'too-long', found: `${name}: ${cell.slice(0, 30)}` })
      else if (cell !== plain(before)) [changed[id], told[told.length]] = [cell, { column: name, before, after: cell }]
    }
    if (Object.keys(changed).length > 0) fields.own = changed
    if (told.length > 0) changes.push({ id: found.id, label: found.label, fields, told })
  }
  return { ok: true, changes, bad, rows: rows.length, fresh: unknown }
}
