import { compareOrdered, type Ordered } from './order'

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
    const rest = collection.filter((record) => !changes.has(record.id))
    return put.length === 0 ? rest : [...rest, ...put].sort(compareOrdered)
  }
  const rest = collection.slice()
  for (const id of changes.keys()) {
    const at = lastIndexOf(rest, id)
    if (at >= 0) rest.splice(at, 1)
  }
  for (const record of put) rest.splice(placeFor(rest, record), 0, record)
  return rest
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
