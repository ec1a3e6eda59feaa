import type { SeenRings } from './outline'

/** Rows that a frame is looked at in, from its lower edge up; along each, what is covered is told exactly. */
export const ROWS = 270

/** What is bare of a frame: row, from u, to u, in turn. */
export type Bare = Float64Array
const NOTHING_BARE: Bare = new Float64Array(0)

/** The share of a frame, 0…1. */
export function shareOf(bare: Bare): number {
  let sum = 0
  for (let i = 0; i < bare.length; i += 3) sum += bare[i + 2]! - bare[i + 1]!
  return sum / ROWS
}

const LEFT = -0.5
const RIGHT = 0.5

/** Spans of one row, in order and apart; kept from call to call, as frames are many. */
interface Row {
  count: number
  at: Float64Array
}
const makeRows = (): Row[] => Array.from({ length: ROWS }, () => ({ count: 0, at: new Float64Array(16) }))
const covered = makeRows()
const crossed = makeRows()

function grown(row: Row): Float64Array {
  if (row.count + 2 <= row.at.length) return row.at
  const wider = new Float64Array(row.at.length * 2)
  wider.set(row.at)
  return (row.at = wider)
}

/**
 * What of a frame no outline covers. Rows are filled from the largest outline on, and those that are full are not looked at again: where a
 * sky covers all of the frame that costs next to nothing, however much stands before it.
 */
export function bareOf(outlines: readonly SeenRings[], halfHeight: number): Bare {
  const step = (2 * halfHeight) / ROWS
  let left = ROWS
  for (const row of covered) row.count = 0
  for (const { rings, first, last } of largestFirst(outlines, halfHeight, step)) {
    if (left === 0) return NOTHING_BARE
    for (let row = first; row <= last; row++) crossed[row]!.count = 0
    for (const ring of rings) cross(ring, halfHeight, step, first, last)
    for (let row = first; row <= last; row++) {
      const { count, at } = crossed[row]!
      if (count < 2) continue
      sort(at, count)
      const own = covered[row]!
      for (let i = 0; i + 1 < count; i += 2) {
        const [from, to] = [Math.max(LEFT, at[i]!), Math.min(RIGHT, at[i + 1]!)]
        if (to > from) cover(own, from, to)
      }
      if (isFull(own)) left--
    }
  }
  if (left === 0) return NOTHING_BARE
  const bare: number[] = []
  for (let row = 0; row < ROWS; row++) {
    const { count, at } = covered[row]!
    let from = LEFT
    for (let i = 0; i < count; i += 2) {
      if (at[i]! > from) bare.push(row, from, at[i]!)
      from = at[i + 1]!
    }
    if (from < RIGHT) bare.push(row, from, RIGHT)
  }
  return bare.length === 0 ? NOTHING_BARE : Float64Array.from(bare)
}

/** How many rows one outline alone covers from side to side. */
export function rowsAcross(rings: SeenRings, halfHeight: number): number {
  const step = (2 * halfHeight) / ROWS
  for (let row = 0; row < ROWS; row++) covered[row]!.count = crossed[row]!.count = 0
  for (const ring of rings) cross(ring, halfHeight, step, 0, ROWS - 1)
  let count = 0
  for (const { at, count: crossings } of crossed) {
    sort(at, crossings)
    for (let i = 0; i + 1 < crossings; i += 2) {
      if (at[i]! > LEFT || at[i + 1]! < RIGHT) continue
      count++
      break
    }
  }
  return count
}

const isFull = ({ count, at }: Row) => count === 2 && at[0] === LEFT && at[1] === RIGHT

/** Few numbers, mostly in order. */
function sort(at: Float64Array, count: number): void {
  for (let i = 1; i < count; i++) {
    const value = at[i]!
    let j = i
    while (j > 0 && at[j - 1]! > value) {
      at[j] = at[j - 1]!
      j--
    }
    at[j] = value
  }
}

/** Adds a span to those of a row. */
function cover(row: Row, from: number, to: number): void {
  let at = grown(row)
  const { count } = row
  let first = 0
  while (first < count && at[first + 1]! < from) first += 2
  let last = first
  let [low, high] = [from, to]
  while (last < count && at[last]! <= to) {
    if (at[last]! < low) low = at[last]!
    if (at[last + 1]! > high) high = at[last + 1]!
    last += 2
  }
  if (last === first) {
    at.copyWithin(first + 2, first, count)
    row.count += 2
  } else if (last > first + 2) {
    at.copyWithin(first + 2, last, count)
    row.count -= last - first - 2
  }
  at = row.at
  at[first] = low
  at[first + 1] = high
}

/** The largest first, with the rows that each touches. */
function largestFirst(outlines: readonly SeenRings[], halfHeight: number, step: number) {
  const sized: { readonly rings: SeenRings; readonly first: number; readonly last: number; readonly size: number }[] = []
  for (const rings of outlines) {
    let [u0, u1, v0, v1] = [Infinity, -Infinity, Infinity, -Infinity]
    for (const ring of rings) {
      for (let i = 0; i < ring.length; i += 2) {
        const [u, v] = [ring[i]!, ring[i + 1]!]
        if (u < u0) u0 = u
        if (u > u1) u1 = u
        if (v < v0) v0 = v
        if (v > v1) v1 = v
      }
    }
    const first = Math.max(0, Math.ceil((v0 + halfHeight) / step - 0.5))
    const last = Math.min(ROWS - 1, Math.floor((v1 + halfHeight) / step - 0.5))
    if (u1 > LEFT && u0 < RIGHT && first <= last) sized.push({ rings, first, last, size: (Math.min(RIGHT, u1) - Math.max(LEFT, u0)) * (last - first + 1) })
  }
  return sized.sort((a, b) => b.size - a.size)
}

/** Where a ring's edges cross the middles of rows that are not full. */
function cross(ring: Float64Array, halfHeight: number, step: number, first: number, last: number): void {
  const n = ring.length
  let u0 = ring[n - 2]!
  let r0 = (ring[n - 1]! + halfHeight) / step - 0.5
  for (let i = 0; i < n; i += 2) {
    const u1 = ring[i]!
    const r1 = (ring[i + 1]! + halfHeight) / step - 0.5
    if (r0 !== r1) {
      // A row belongs to the edge whose lower end is on it, so that a corner counts once.
      const from = Math.max(first, Math.ceil(r0 < r1 ? r0 : r1))
      const to = Math.min(last, Math.ceil(r0 < r1 ? r1 : r0) - 1)
      const slope = (u1 - u0) / (r1 - r0)
      for (let row = from; row <= to; row++) {
        if (isFull(covered[row]!)) continue
        const into = crossed[row]!
        grown(into)[into.count++] = u0 + (row - r0) * slope
      }
    }
    u0 = u1
    r0 = r1
  }
}

/** Where something was covered at some time, row by row; it grows frame by frame. */
export function createEverCovered() {
  /** Never covered so far: row by row, from and to in turn. */
  const never: (readonly number[])[] = Array.from({ length: ROWS }, () => [LEFT, RIGHT])
  let any = true
  return {
    get isAll() {
      return !any
    },
    /** A frame of which so much is bare. */
    take(bare: Bare): void {
      if (!any) return
      any = false
      let i = 0
      for (let row = 0; row < ROWS; row++) {
        const begin = i
        while (i < bare.length && bare[i] === row) i += 3
        const own = never[row]!
        if (own.length === 0) continue
        const left = meet(own, bare, begin, i)
        never[row] = left
        if (left.length > 0) any = true
      }
    },
    /** What of a frame is bare and was covered at some time. */
    owed(bare: Bare): Bare {
      if (!any || bare.length === 0) return bare
      const owed: number[] = []
      for (let i = 0; i < bare.length; i += 3) {
        const row = bare[i]!
        let at = bare[i + 1]!
        const end = bare[i + 2]!
        const own = never[row]!
        for (let j = 0; j < own.length && at < end; j += 2) {
          if (own[j + 1]! <= at) continue
          if (own[j]! >= end) break
          if (own[j]! > at) owed.push(row, at, own[j]!)
          at = Math.max(at, own[j + 1]!)
        }
        if (at < end) owed.push(row, at, end)
      }
      return owed.length === 0 ? NOTHING_BARE : Float64Array.from(owed)
    },
  }
}

/** What of spans, in order and apart, lies in what is bare of a row. */
function meet(own: readonly number[], bare: Bare, begin: number, end: number): readonly number[] {
  const both: number[] = []
  for (let i = 0, j = begin; i < own.length && j < end; ) {
    const [from, to] = [Math.max(own[i]!, bare[j + 1]!), Math.min(own[i + 1]!, bare[j + 2]!)]
    if (to > from) both.push(from, to)
    if (own[i + 1]! < bare[j + 2]!) i += 2
    else j += 3
  }
  return both
}
