const cache = new WeakMap<object, readonly unknown[]>()

export interface Ordered {
  readonly id: string
  readonly order: number
}

/** A collection's records by `order`, then id. Solved once for each frozen collection. */
export function inOrder<T extends Ordered>(collection: Readonly<Record<string, T>>): readonly T[] {
  const known = cache.get(collection)
  if (known !== undefined) return known as readonly T[]
  const sorted = Object.values(collection).sort(compareOrdered)
  cache.set(collection, sorted)
  return sorted
}

/** An `order` that puts a record at `index` among those in order. Whole numbers at the ends, means between. */
export function orderAt(sorted: readonly Ordered[], index: number): number {
  const before = sorted[index - 1]
  const after = sorted[index]
  if (before === undefined) return after === undefined ? 1 : after.order - 1
  return after === undefined ? before.order + 1 : (before.order + after.order) / 2
}

export function compareOrdered(a: Ordered, b: Ordered): number {
  return a.order - b.order || (a.id < b.id ? -1 : a.id === b.id ? 0 : 1)
}

/** True when records stand by `order`, then id, and no two have one id. */
export function isInOrder(records: readonly Ordered[]): boolean {
  for (let i = 1; i < records.length; i++) if (compareOrdered(records[i - 1]!, records[i]!) >= 0) return false
  return new Set(records.map((record) => record.id)).size === records.length
}
