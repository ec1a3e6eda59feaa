import { setProblems } from '../document/checkTake'
import { openDrawing, openSet } from '../document/migrate'
import { setDrawings } from '../document/sets'
import { idSchema, setSchema } from '../document/records'
import { FORMAT_VERSION, type Drawing, type SetBody } from '../document/units'
import { z } from 'zod'

/**
 * A set as one file, of one film for another: a zip of `set.json` (this manifest, with the set's body), `drawings/ID.json` for each
 * drawing, and `pictures/SHA256` for each picture that is placed in them. docs/archive.md describes it.
 */
const SET_FILE_VERSION = 1
export const SET_FILE_EXTENSION = 'rubato-set'

const manifestSchema = z.object({
  format: z.literal('rubato-set'),
  version: z.int().min(1),
  documentVersion: z.int().min(1),
  name: setSchema.shape.name,
  stands: setSchema.shape.stands,
  /** How long a frame width is where it comes from, metres; null where nobody has said. */
  metresPerFw: z.number().positive().nullable(),
  set: z.unknown(),
})

export interface SetFile {
  readonly name: string
  readonly stands: { readonly x: number; readonly y: number; readonly depth: number }
  readonly metresPerFw: number | null
  readonly set: SetBody
  readonly drawings: Readonly<Record<string, Drawing>>
}

export type SetFileRefusal = { readonly code: 'not-a-set-file' | 'newer' | 'malformed' | 'missing'; readonly what: string }
type SetFileRead = { readonly ok: true; readonly file: SetFile } | { readonly ok: false; readonly refusal: SetFileRefusal }

const drawingEntry = (id: string) => `drawings/${id}.json`
export const pictureEntry = (hash: string) => `pictures/${hash}`

/** The text entries of a file, by their names; its pictures are put beside them. */
export function writeSetFile({ name, stands, metresPerFw, set, drawings }: SetFile): ReadonlyMap<string, string> {
  const manifest = { format: 'rubato-set', version: SET_FILE_VERSION, documentVersion: FORMAT_VERSION, name, stands, metresPerFw, set }
  return new Map([['set.json', JSON.stringify(manifest)], ...setDrawings(set).map((id) => [drawingEntry(id), JSON.stringify(drawings[id] ?? { marks: [] })] as const)])
}

/** Reads a set of any version up to the present one. `textOf` gives the text of an entry; null where there is none. */
export function readSetFile(textOf: (entry: string) => string | null): SetFileRead {
  const refused = (code: SetFileRefusal['code'], what: string): SetFileRead => ({ ok: false, refusal: { code, what } })
  const json = (entry: string): unknown => {
    try {
      return JSON.parse(textOf(entry) ?? '')
    } catch {
      return undefined
    }
  }
  if (textOf('set.json') === null) return refused('not-a-set-file', 'set.json')
  const parsed = manifestSchema.safeParse(json('set.json'))
  if (!parsed.success) return refused('not-a-set-file', `set.json: ${parsed.error.issues[0]!.path.join('.')}`)
  const { version, documentVersion, name, stands, metresPerFw } = parsed.data
  if (version > SET_FILE_VERSION || documentVersion > FORMAT_VERSION) return refused('newer', 'set.json')
  const opened = openSet(parsed.data.set, documentVersion)
  if (!opened.ok) return refused('malformed', `set.json: ${opened.issues[0]?.path ?? ''}`)
  const [problem] = setProblems(opened.value)
  if (problem !== undefined) return refused('malformed', `set.json: ${problem.path.join('.')}: ${problem.code}`)
  const drawings: Record<string, Drawing> = {}
  for (const id of setDrawings(opened.value)) {
    const entry = drawingEntry(id)
    if (!idSchema.safeParse(id).success || textOf(entry) === null) return refused('missing', entry)
    const drawing = openDrawing(json(entry), documentVersion)
    if (!drawing.ok) return refused('malformed', entry)
    drawings[id] = drawing.value
  }
  return { ok: true, file: { name, stands, metresPerFw, set: opened.value, drawings } }
}
