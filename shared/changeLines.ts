import { changeSchema, editSchema, type Change } from '@rubato/core/edits'
import { z } from 'zod'
import { batchHeadSchema, type Batch } from './edits'

/**
 * A batch as lines of JSON (NDJSON), so that neither side has to make or read much at once: first
 * `{"base": …, "author": …}`; for each change a line without its edits, then each edit; of an edit with many records the
 * rest in lines `{"more": {collection: {id: {before, after}}}}`.
 */
export const LINES_TYPE = 'application/x-ndjson'
/** At most this many bytes in one line: some of the longest records there may be. */
export const LINE_LIMIT_BYTES = 8 * 1024 * 1024
/** A line is ended after this many letters. */
const LINE_LETTERS = 64 * 1024
/** An edit of about so many letters is one line: made piece by piece it would leave three times as much to be cleared away. */
const WHOLE_LETTERS = 192 * 1024
const FIELD_LETTERS = 12
const NUMBER_LETTERS = 10

export const headLineSchema = batchHeadSchema
export const changeLineSchema = changeSchema.omit({ edits: true }).strict()
export const editLineSchema = editSchema
export const moreLineSchema = z.strictObject({ more: editSchema.shape.changes })

export const headLine = ({ base, author }: Omit<Batch, 'changes'>): string => JSON.stringify({ base, author })

export function* linesOfChange({ edits, ...rest }: Change): Generator<string> {
  yield JSON.stringify(rest)
  for (const whole of edits) {
    if (isShort(whole.changes)) {
      // Names without a record say nothing, and are not told.
      const said = Object.entries(whole.changes).filter(([, records]) => Object.keys(records).length > 0)
      yield JSON.stringify({ ...whole, changes: Object.fromEntries(said) })
      continue
    }
    const { changes, ...edit } = whole
    const begin = JSON.stringify(edit)
    let begun = false
    let letters = 0
    const parts = new Map<string, string[]>()
    const line = () => {
      const records = `{${[...parts].map(([collection, texts]) => `${JSON.stringify(collection)}:{${texts.join()}}`).join()}}`
      const text = begun ? `{"more":${records}}` : `${begin.slice(0, -1)},"changes":${records}}`
      begun = true
      letters = 0
      parts.clear()
      return text
    }
    for (const [collection, records] of Object.entries(changes)) {
      for (const [id, record] of Object.entries(records)) {
        const text = `${JSON.stringify(id)}:${JSON.stringify(record)}`
        const texts = parts.get(collection)
        if (texts === undefined) parts.set(collection, [text])
        else texts.push(text)
        letters += text.length
        if (letters > LINE_LETTERS) yield line()
      }
    }
    if (parts.size > 0 || !begun) yield line()
  }
}

/** About as many letters as a value takes; exact where it is long: text and points. */
function lettersOf(value: unknown): number {
  if (typeof value === 'string') return value.length
  if (typeof value !== 'object' || value === null) return NUMBER_LETTERS
  if (Array.isArray(value) && typeof value[0] === 'number') return value.length * NUMBER_LETTERS
  return FIELD_LETTERS + Object.values(value).reduce((sum: number, each) => sum + FIELD_LETTERS + lettersOf(each), 0)
}

/** Whether changes are about so short that they make one line. */
function isShort(changes: Change['edits'][number]['changes']): boolean {
  let letters = 0
  for (const records of Object.values(changes)) {
    for (const record of Object.values(records)) {
      letters += lettersOf(record)
      if (letters > WHOLE_LETTERS) return false
    }
  }
  return true
}
