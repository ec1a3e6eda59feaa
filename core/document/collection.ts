import { compareOrdered, isKnownInOrder, keepsInOrder, type Ordered } from './order'

/** Records by id, or in order. Edits name records by id in both. */
export type Collection = Readonly<Record<string, object>> | readonly (object & Ordered)[]

/** More changes at once than this are looked up through an index. */
const FEW = 12

export function recordIn(collection: Collection | undefined, id: string): object | null {
  if (collection === undefined) return null
  if (isList(collection)) return collection[lastIndexOf(collection, id)] ?? null
  return Object.hasOwn(collection, id) ? collection[id]! : null
}

export function idsIn(collection: Collection): string[] {
  return isList(collection) ? collection.map((record) => record.id) : Object.keys(collection)
}

/** Looks records up by id, quickly also for many. */
export function finderOf(collection: Collection | undefined, count: number): (id: string) => object | null {
  if (collection === undefined || !isList(collection) || count <= FEW) return (id) => recordIn(collection, id)
  const byId = new Map(collection.map((record) => [record.id, record]))
  return (id) => byId.get(id) ?? null
}

/** The collection with records put (or dropped, for null). A list stays in order. */
export function withRecords(collection: Collection, changes: ReadonlyMap<string, object | null>): Collection {
  if (!isList(collection)) {
    const copy: Record<string, object> = { ...collection }
    for (const [id, after] of changes) {
      if (after === null) delete copy[id]
      else copy[id] = after
    }
    return copy
  }
  const put = [...changes.values()].filter((record): record is object & Ordered => record !== null).sort(compareOrdered)
  const last = collection.at(-1)
  // The commonest of all: marks put on top of a drawing.
  const onTop = put.length === changes.size && put.length > 0 && (last === undefined || last.order < put[0]!.order) && [...changes.keys()].every((id) => recordIn(collection, id) === null)
  if (onTop) return [...collection, ...put]
  if (changes.size > FEW) {
    const rest: (object & Ordered)[] = []
    for (const record of collection) if (!changes.has(record.id)) rest.push(record)
    return put.length === 0 ? rest : [...rest, ...put].sort(compareOrdered)
  }
  // `slice` takes a hundred times as long of a frozen list.
  const rest = [...collection]
  for (const id of changes.keys()) {
    const at = lastIndexOf(rest, id)
    if (at >= 0) rest.splice(at, 1)
  }
  for (const record of put) rest.splice(placeFor(rest, record), 0, record)
  return rest
}

type Records = Readonly<Record<string, { readonly before: object | null; readonly after: object | null }>>
interface Step {
  readonly to: WeakRef<Collection & object>
  readonly records: Records
  /** Its records are told the other way round. */
  readonly back: boolean
}
const stepsFrom = new WeakMap<Collection, { on?: Step; back?: Step }>()

/** Remembers that one frozen list was made from another by these records. */
export function noteStep(from: Collection, to: Collection, records: Records): void {
  if (!isList(from) || !isList(to) || !Object.entries(records).every(([id, { before, after }]) => isOf(before, id) && isOf(after, id))) return
  const kept = { ...records }
  stepsFrom.set(from, { ...stepsFrom.get(from), on: { to: new WeakRef(to), records: kept, back: false } })
  stepsFrom.set(to, { ...stepsFrom.get(to), back: { to: new WeakRef(from), records: kept, back: true } })
  if (isKnownInOrder(from)) keepsInOrder(to)
}
const isOf = (record: object | null, id: string) => record === null || (record as Ordered).id === id

/**
 * The very list that records lead to from another, where that step was made before or is now taken back: undoing and doing
 * again costs nothing of a list's length, and what is known of a list is known again. Null where it is not remembered.
 */
export function knownStep(from: Collection, records: Records): Collection | null {
  const { on, back } = stepsFrom.get(from) ?? {}
  for (const step of [on, back]) if (step !== undefined && isStep(step, records)) return step.to.deref() ?? null
  return null
}

function isStep({ records: known, back }: Step, records: Records): boolean {
  const ids = Object.keys(records)
  if (ids.length !== Object.keys(known).length) return false
  return ids.every((id) => {
    const [now, then] = [records[id]!, Object.hasOwn(known, id) ? known[id]! : null]
    return then !== null && now.before === (back ? then.after : then.before) && now.after === (back ? then.before : then.after)
  })
}

/** From the end, where most of what is looked for was put. */
function lastIndexOf(collection: readonly Ordered[], id: string): number {
  for (let i = collection.length - 1; i >= 0; i--) if (collection[i]!.id === id) return i
  return -1
}

function placeFor(sorted: readonly Ordered[], record: Ordered): number {
  let low = 0
  let high = sorted.length
  while (low < high) {
    const mid = (low + high) >> 1
    if (compareOrdered(sorted[mid]!, record) < 0) low = mid + 1
    else high = mid
  }
  return low
}

function isList(collection: Collection): collection is readonly (object & Ordered)[] {
  return Array.isArray(collection)
}
