import { MOST_EDITS, type Change, type ChangeSet, type Edit, type RecordChange } from '@rubato/core/edits'
import { changeLineSchema, editLineSchema, headLineSchema, LINE_LIMIT_BYTES, moreLineSchema } from '#shared/changeLines'
import { BATCH_CHANGES, batchSchema, type Batch, type BatchAccepted } from '#shared/edits'
import { breathe } from './breathe'
import { applyBatch } from './editBatches'
import { refuse } from './refusals'
import { checked, checkedValue, parsedJson } from './requests'

/** Changes as one piece of JSON: checked, and made. A refusal names the change that it is about. */
export async function takeBatch(projectId: string, text: string): Promise<BatchAccepted> {
  const batch = checked(text, batchSchema, (path, value) => {
    const [collection, index, ...rest] = path
    const id = collection === 'changes' && typeof index === 'number' ? (value as { changes?: { id?: unknown }[] }).changes?.[index]?.id : undefined
    return typeof id === 'string' ? { code: 'invalid-edit', changeId: id, path: rest.map(String) } : {}
  })
  return applyBatch(projectId, batch as Batch)
}

/** Changes as lines (`#shared/changeLines`), each read by itself, so that others get their turn in between. */
export async function takeBatchLines(projectId: string, chunks: AsyncIterable<Uint8Array>): Promise<BatchAccepted> {
  return applyBatch(projectId, await batchOfLines(chunks))
}

interface EditInLines extends Omit<Edit, 'changes'> {
  readonly changes: Map<string, Map<string, RecordChange>>
}

export async function batchOfLines(chunks: AsyncIterable<Uint8Array>): Promise<Batch> {
  let head: Omit<Batch, 'changes'> | null = null
  const changes: (Omit<Change, 'edits'> & { readonly edits: EditInLines[] })[] = []
  const ids = new Set<string>()
  let number = 0
  for await (const line of linesIn(chunks)) {
    number++
    const value = parsedJson(line, `Line ${number}`)
    const of = changes.at(-1)
    const about = (path: readonly PropertyKey[]) => (of === undefined ? {} : { code: 'invalid-edit', changeId: of.id, path: ['edits', ...path.map(String)] })
    const bad = (what: string, about: object = {}) => refuse(422, 'invalid-request', `Line ${number}: ${what}.`, about)
    if (typeof value !== 'object' || value === null) throw bad('it is no object')
    if (head === null) head = checkedValue(value, headLineSchema)
    else if ('label' in value) {
      const { id } = value as { readonly id?: unknown }
      const change = checkedValue(value, changeLineSchema, (path) => (typeof id === 'string' ? { code: 'invalid-edit', changeId: id, path: path.map(String) } : {}))
      if (ids.has(change.id)) throw bad('another change of the batch has this id', { code: 'invalid-edit', changeId: change.id, path: ['id'] })
      if (changes.length === BATCH_CHANGES) throw bad(`a batch has at most ${BATCH_CHANGES} changes`)
      ids.add(change.id)
      changes.push({ ...change, edits: [] })
    } else if (of === undefined) throw bad('an edit comes after the change that it belongs to')
    else if ('more' in value) {
      const edit = of.edits.at(-1)
      if (edit === undefined) throw bad('more of an edit comes after its first line', about([]))
      put(edit, checkedValue(value, moreLineSchema, about).more as ChangeSet, () => bad('a record of the edit is there twice', about([of.edits.length - 1])))
    } else {
      const { changes: first, ...edit } = checkedValue(value, editLineSchema, about)
      if (of.edits.length === MOST_EDITS) throw bad(`a change has at most ${MOST_EDITS} edits`, about([]))
      const begun: EditInLines = { ...(edit as Omit<Edit, 'changes'>), changes: new Map() }
      put(begun, first as ChangeSet, () => bad('a record of the edit is there twice', about([of.edits.length])))
      of.edits.push(begun)
    }
    await breathe()
  }
  if (head === null || changes.length === 0) throw refuse(422, 'invalid-request', 'The request has no changes.')
  const empty = changes.find((change) => change.edits.length === 0)
  if (empty !== undefined) throw refuse(422, 'invalid-request', `"${empty.label}" has no edits.`, { code: 'invalid-edit', changeId: empty.id, path: ['edits'] })
  return { ...head, changes: changes.map((change) => ({ ...change, edits: change.edits.map(whole) })) }
}

function put({ changes }: EditInLines, more: ChangeSet, twice: () => Error) {
  for (const [collection, records] of Object.entries(more)) {
    const known = changes.get(collection) ?? new Map<string, RecordChange>()
    changes.set(collection, known)
    for (const [id, record] of Object.entries(records)) {
      if (known.has(id)) throw twice()
      known.set(id, record)
    }
  }
}

// Names come from outside: none of them may mean anything to an object that is being built.
const whole = ({ changes, ...edit }: EditInLines): Edit => ({ ...edit, changes: Object.fromEntries([...changes].map(([collection, records]) => [collection, Object.fromEntries(records)])) })

const NEW_LINE = 0x0a

async function* linesIn(chunks: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
  let rest: Uint8Array[] = []
  let bytes = 0
  const text = () => {
    const line = Buffer.concat(rest).toString('utf8')
    rest = []
    bytes = 0
    return line
  }
  for await (const chunk of chunks) {
    let from = 0
    for (let at = chunk.indexOf(NEW_LINE); at >= 0; at = chunk.indexOf(NEW_LINE, from)) {
      rest.push(chunk.subarray(from, at))
      from = at + 1
      const line = text()
      if (line !== '') yield line
    }
    rest.push(chunk.subarray(from))
    bytes += chunk.length - from
    if (bytes > LINE_LIMIT_BYTES) throw refuse(413, 'line-too-long', `A line has more than ${LINE_LIMIT_BYTES} bytes; an edit of many records is told in several.`, { allowed: LINE_LIMIT_BYTES })
  }
  const last = text()
  if (last !== '') yield last
}
