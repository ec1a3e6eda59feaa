/** Of a list in time order, the index of the last that begins at or before a frame; −1 where the first begins later. */
export function indexAt<T>(list: readonly T[], frame: number, beginOf: (each: T) => number): number {
  let low = 0
  let high = list.length
  while (low < high) {
    const mid = (low + high) >> 1
    if (beginOf(list[mid]!) <= frame) low = mid + 1
    else high = mid
  }
  return low - 1
}
