const cache = new WeakMap<object, readonly unknown[]>()

interface Ordered {
  readonly id: string
  readonly order: number
}

/** A collection's records by `order`, then id. Solved once for each frozen collection. */
export function inOrder<T extends Ordered>(collection: Readonly<Record<string, T>>): readonly T[] {
  const known = cache.get(collection)
  if (known !== undefined) return known as readonly T[]
  const sorted = Object.values(collection).sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1))
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
