import Papa from 'papaparse'
import { exposuresOf, namedDrawings } from '../document/exposures'
import { rackLevels, takeLengthFrames } from '../document/panels'
import { showsNothing, type Level } from '../document/records'
import { pieceOf } from '../document/sets'
import type { TakeBody } from '../document/units'

/**
 * Exposures as CSV (RFC 4180): a header `frame,level,drawing`, then a row for each exposure. `frame` is the shot's frame, from
 * 0, on which it begins; `level` and `drawing` are names. An empty drawing shows nothing.
 */
const HEADER = ['frame', 'level', 'drawing'] as const

/** Those that show one drawing after the other. */
const exposedLevels = (take: TakeBody): readonly Level[] => rackLevels(take).filter((level) => !showsNothing(level) && pieceOf(level.id) === null)

export function writeExposures(take: TakeBody): string {
  const rows = exposedLevels(take).flatMap((level) => {
    const names = new Map(namedDrawings(take, level.id).map(({ drawingId, name }) => [drawingId, name]))
    return exposuresOf(take, level.id).map(({ frame, cell }) => [String(frame), level.name, cell.drawingId === null ? '' : names.get(cell.drawingId)!])
  })
  return `${Papa.unparse([[...HEADER], ...rows], { newline: '\r\n' })}\r\n`
}

/** What a row can't be taken for. Rows are counted as lines of a table are, the header being 1. */
export type ExposureRefusal =
  | { readonly code: 'no-header'; readonly found: string }
  | { readonly code: 'no-rows' }
  | { readonly code: 'broken-row'; readonly row: number; readonly cells: number }
  | { readonly code: 'no-frame'; readonly row: number; readonly found: string; readonly last: number }
  | { readonly code: 'no-level' | 'many-levels'; readonly row: number; readonly level: string }
  | { readonly code: 'no-drawing'; readonly row: number; readonly level: string; readonly drawing: string }
  | { readonly code: 'twice'; readonly row: number; readonly frame: number; readonly level: string }

export type ExposuresRead =
  | { readonly ok: true; /** By level: what it shows at each frame of the shot. Levels that no row names are not among them. */ readonly shown: ReadonlyMap<string, readonly (string | null)[]> }
  | { readonly ok: false; readonly refusal: ExposureRefusal }

/** Reads exposures for the levels of a take, all rows or none. A level that is named shows nothing before its first. */
export function readExposures(take: TakeBody, text: string): ExposuresRead {
  const refused = (refusal: ExposureRefusal): ExposuresRead => ({ ok: false, refusal })
  const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: false })
  const lines = data.map((cells, i) => ({ cells: cells.map((cell) => cell.trim()), row: i + 1 })).filter(({ cells }) => cells.some((cell) => cell !== ''))
  const [header, ...rows] = lines
  if (header === undefined || HEADER.some((name, i) => header.cells[i]?.toLowerCase() !== name)) return refused({ code: 'no-header', found: (header?.cells ?? []).join(',').slice(0, 60) })
  if (rows.length === 0) return refused({ code: 'no-rows' })
  const length = takeLengthFrames(take)
  const levels = exposedLevels(take)
  const starts = new Map<string, Map<number, string | null>>()
  for (const { cells, row } of rows) {
    if (cells.length < 2 || cells.length > 3) return refused({ code: 'broken-row', row, cells: cells.length })
    const [frameText, level, drawing = ''] = cells as [string, string, string?]
    const frame = /^\d{1,9}$/.test(frameText) ? Number(frameText) : -1
    if (frame < 0 || frame >= length) return refused({ code: 'no-frame', row, found: frameText.slice(0, 20), last: length - 1 })
    const found = levels.filter((each) => each.name === level)
    if (found.length !== 1) return refused({ code: found.length === 0 ? 'no-level' : 'many-levels', row, level: level.slice(0, 60) })
    const { id } = found[0]!
    const drawingId = drawing === '' ? null : (namedDrawings(take, id).find(({ name }) => name.toLowerCase() === drawing.toLowerCase())?.drawingId ?? undefined)
    if (drawingId === undefined) return refused({ code: 'no-drawing', row, level, drawing: drawing.slice(0, 20) })
    const own = starts.get(id) ?? new Map<number, string | null>()
    starts.set(id, own)
    if (own.has(frame)) return refused({ code: 'twice', row, frame, level })
    own.set(frame, drawingId)
  }
  const shown = new Map([...starts].map(([id, own]) => {
    let held: string | null = null
    return [id, Array.from({ length }, (_, frame) => (own.has(frame) ? (held = own.get(frame)!) : held))] as const
  }))
  return { ok: true, shown }
}
