import type { Unit } from '@rubato/core/document'
import { applyToUnit, checkEdit, type Applied, type Edit, type RecordChange } from '@rubato/core/edits'
import { breathe } from './breathe'

/** Marks are large; of what is small, each part makes its collection anew. */
const MOST_MARKS = 10
const MOST_RECORDS = 500

/** An edit in parts of few records, one after the other the same as all of it. */
function* partsOf(edit: Edit): Generator<Edit> {
  let part: Record<string, Record<string, RecordChange>> = {}
  let count = 0
  const most = edit.unit.kind === 'drawing' ? MOST_MARKS : MOST_RECORDS
  for (const [collection, records] of Object.entries(edit.changes)) {
    // Names come from outside: none of them may mean anything to the object that is built.
    if (!Object.hasOwn(part, collection)) Object.defineProperty(part, collection, { value: {}, enumerable: true, configurable: true })
    for (const [id, record] of Object.entries(records)) {
      Object.defineProperty(part[collection]!, id, { value: record, enumerable: true })
      if (++count < most) continue
      yield { ...edit, changes: part }
      part = { [collection]: {} }
      count = 0
    }
  }
  yield { ...edit, changes: part }
}

/** `checkEdit`, then `applyToUnit`, letting others in between the records of a large edit. */
export async function checkAndApply<T extends Unit>(unit: T, edit: Edit): Promise<Applied<T>> {
  let value = unit
  for (const part of partsOf(edit)) {
    const malformed = checkEdit(part)
    if (malformed !== null) return { ok: false, refusal: malformed }
    const applied = applyToUnit(value, part)
    if (!applied.ok) return applied
    value = applied.value
    await breathe()
  }
  return { ok: true, value }
}

/** What is below so many levels is made text at once. */
const UNIT_LEVELS = 2
const EDITS_LEVELS = 4

/** As `JSON.stringify`, letting others in; what is large as bytes, which the database's driver need not make of it at once. */
export const unitText = (unit: Unit): Promise<string | Buffer> => textOf(unit, UNIT_LEVELS)
export const editsText = (edits: readonly Edit[]): Promise<string | Buffer> => textOf(edits, EDITS_LEVELS)

const LARGE_LETTERS = 512 * 1024
const CHUNK_LETTERS = 128 * 1024

async function textOf(value: object, levels: number): Promise<string | Buffer> {
  const pieces: string[] = []
  await putText(pieces, value, levels)
  if (pieces.reduce((sum, piece) => sum + piece.length, 0) < LARGE_LETTERS) return pieces.join('')
  const chunks: Buffer[] = []
  for (let from = 0, at = 0, letters = 0; at < pieces.length; at++) {
    letters += pieces[at]!.length
    if (letters < CHUNK_LETTERS && at + 1 < pieces.length) continue
    chunks.push(Buffer.from(pieces.slice(from, at + 1).join('')))
    from = at + 1
    letters = 0
    await breathe()
  }
  return Buffer.concat(chunks)
}

async function putText(pieces: string[], value: object, levels: number): Promise<void> {
  if (levels === 0) {
    pieces.push(JSON.stringify(value))
    return breathe()
  }
  const list = Array.isArray(value)
  pieces.push(list ? '[' : '{')
  let first = true
  for (const [name, member] of Object.entries(value) as [string, unknown][]) {
    const plain = typeof member === 'object' && member !== null ? null : JSON.stringify(member ?? (list ? null : member))
    if (plain === undefined) continue
    pieces.push(first ? '' : ',', list ? '' : `${JSON.stringify(name)}:`)
    first = false
    if (plain !== null) pieces.push(plain)
    else await putText(pieces, member as object, levels - 1)
  }
  pieces.push(list ? ']' : '}')
}
