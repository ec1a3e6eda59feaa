import type { Film } from '@rubato/core/document'
import { inOrder } from '@rubato/core/document'
import type { Clash } from '@rubato/core/edits'
import { fieldWord } from './fields'
import { quoted } from './quoted'
import { thingWords } from './things'

function shown(value: unknown): string {
  if (typeof value === 'number') return String(Math.round(value * 1000) / 1000)
  if (typeof value === 'boolean') return value ? 'on' : 'off'
  if (typeof value === 'string') return value === '' ? 'empty' : quoted(value)
  return value === null || value === undefined ? 'nothing' : 'another value'
}

/** What a record is called on the screen. */
function nameOf(film: Film, { unit, collection, id, mine, theirs }: Clash): string {
  const record = (theirs ?? mine) as Record<string, unknown> | null
  if (collection === 'panels') {
    const at = inOrder(film.takes[unit.id]?.panels ?? {}).findIndex((panel) => panel.id === id)
    return at < 0 ? 'a panel' : `panel ${at + 1}`
  }
  if (collection === 'levels') return `level ${shown(record?.name ?? '')}`
  if (collection === 'framings') return 'a framing'
  if (collection === 'shots') return `shot ${String(record?.label ?? '')}`
  if (collection === 'sequences') return `sequence ${String(record?.label ?? '')}`
  if (collection === 'project') return 'the film'
  if (collection === 'passages') return 'a passage of the script'
  if (collection === 'links') return 'a panel’s link to the script'
  if (collection === 'cells') return 'which drawing a panel shows'
  const [one] = thingWords(collection)
  return typeof record?.name === 'string' && record.name !== '' ? `${one} ${shown(record.name)}` : `a ${one}`
}

/** Cameras have letters; what they are kept under nobody knows. */
function cameraName(film: Film, { unit }: Clash, id: unknown): string {
  const letter = film.takes[unit.id]?.cameras[String(id)]?.letter
  return letter === undefined ? 'a camera that is gone' : `camera ${letter}`
}

export interface ClashLine {
  readonly what: string
  readonly mine: string
  readonly theirs: string
}

/** A conflict in words: for each thing both touched, what each side made of it. */
export function wordClashes(film: Film, clashes: readonly Clash[]): readonly ClashLine[] {
  return clashes.flatMap((clash): ClashLine[] => {
    const what = nameOf(film, clash)
    if (clash.fields.length === 0) {
      return [{ what, mine: clash.mine === null ? 'taken out' : 'changed', theirs: clash.theirs === null ? 'taken out' : 'changed' }]
    }
    const [mine, theirs] = [clash.mine as Record<string, unknown>, clash.theirs as Record<string, unknown>]
    const side = (record: Record<string, unknown>, field: string) => (field === 'cameraId' ? cameraName(film, clash, record[field]) : shown(record[field]))
    return clash.fields.map((field) => ({ what: `${what}, ${fieldWord(field)}`, mine: side(mine, field), theirs: side(theirs, field) }))
  })
}
