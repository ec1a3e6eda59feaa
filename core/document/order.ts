import { generateNKeysBetween } from 'fractional-indexing'
import { z } from 'zod'

const cache = new WeakMap<object, readonly unknown[]>()

/**
 * A record's place among the others of its collection: a fractional key, compared as plain text. Between two keys there
 * is always another. Keys are those of `fractional-indexing`: a head letter that tells how many digits the whole part
 * has, then digits 0–9, A–Z, a–z, the last of the fraction never 0.
 */
export interface Ordered {
  readonly id: string
  readonly order: string
}

/** The key of a record that is alone. */
export const FIRST_ORDER = 'a0'

/** Longer keys are made short again by giving those around new ones. */
const LONGEST_KEY = 48
const MOST_KEY = 400

export const orderSchema = z.string().max(MOST_KEY).refine(isOrderKey, { message: 'not a key of an order' })

/** True for a key that another can be put beside. */
export function isOrderKey(key: string): boolean {
  if (!/^[A-Za-z][0-9A-Za-z]+$/.test(key)) return false
  const head = key.charCodeAt(0)
  const whole = head >= 97 ? head - 97 + 2 : 90 - head + 2
  if (key.length < whole || (key.length > whole && key.endsWith('0'))) return false
  return !/^A0*$/.test(key)
}

/** A collection's records by `order`, then id. Solved once for each frozen collection. */
export function inOrder<T extends Ordered>(collection: Readonly<Record<string, T>>): readonly T[] {
  const known = cache.get(collection)
  if (known !== undefined) return known as readonly T[]
  const sorted = Object.values(collection).sort(compareOrdered)
  cache.set(collection, sorted)
  return sorted
}

/** Keys for a list of `count` that is made at once. */
export function orderKeys(count: number): string[] {
  return generateNKeysBetween(null, null, count)
}

/** Where records put in at one place stand, and those around that had to make room. */
export interface Room<T extends Ordered> {
  readonly orders: readonly string[]
  /** With their new keys: only where two stood at one key (two people added at one place), or keys had grown long. */
  readonly moved: readonly T[]
}

/** Room for `count` records at `index` among those in order: before all for 0, after all for their number. */
export function roomAt<T extends Ordered>(sorted: readonly T[], index: number, count: number): Room<T> {
  let [from, to] = [index, index]
  const low = () => sorted[from - 1]?.order ?? null
  const high = () => sorted[to]?.order ?? null
  const keys = () => generateNKeysBetween(low(), high(), count + to - from)
  const closed = () => low() !== null && high() !== null && low()! >= high()!
  while (closed()) to++
  let orders = keys()
  for (let step = 1; orders.some((key) => key.length > LONGEST_KEY) && (from > 0 || to < sorted.length); step *= 2) {
    from = Math.max(0, from - step)
    to = Math.min(sorted.length, to + step)
    while (closed()) to++
    orders = keys()
  }
  const [before, after] = [index - from, index - from + count]
  const around = sorted.slice(from, to)
  const moved = around.map((record, i) => ({ ...record, order: orders[i < before ? i : i + count]! }))
  return { orders: orders.slice(before, after), moved: moved.filter((record, i) => record.order !== around[i]!.order) }
}

export function compareOrdered(a: Ordered, b: Ordered): number {
  return a.order < b.order ? -1 : a.order > b.order ? 1 : a.id < b.id ? -1 : a.id === b.id ? 0 : 1
}

/** True when records stand by `order`, then id, and no two have one id. */
export function isInOrder(records: readonly Ordered[]): boolean {
  if (isKnownInOrder(records)) return true
  const ids = new Set<string>()
  let last: Ordered | null = null
  for (const record of records) {
    if (last !== null && compareOrdered(last, record) >= 0) return false
    ids.add(record.id)
    last = record
  }
  if (ids.size !== records.length) return false
  if (Object.isFrozen(records)) keepsInOrder(records)
  return true
}

/** Frozen lists that were found in order, or were made of such by putting and dropping records where they belong. */
const found = new WeakSet<object>()
export const isKnownInOrder = (records: object): boolean => found.has(records)
export const keepsInOrder = (records: object): void => void found.add(records)

const DIGITS = '0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz'

/**
 * The key of a number, so that keys stand as the numbers do: how order was kept until version 6 of the format. The same
 * number is the same key wherever it is found. A double's fraction ends after as many digits in base 62 as in base 2.
 */
export function orderOfNumber(value: number): string {
  if (!Number.isFinite(value) || Math.abs(value) > 1e12) throw new RangeError(`orderOfNumber: ${value} is not within ±1e12`)
  let whole = Math.floor(value)
  let rest = value - whole
  // So little below a whole number that it rounds up to it.
  if (rest >= 1) [whole, rest] = [whole + 1, 0]
  let fraction = ''
  while (rest > 0 && fraction.length < 80) {
    rest *= 62
    const digit = Math.floor(rest)
    fraction += DIGITS[digit]
    rest -= digit
  }
  return wholeKey(whole) + fraction.replace(/0+$/, '')
}

/** −62 … −1 under Z, 0 … 61 under a, the next 62² under b, and so on: the heads of the keys. */
function wholeKey(whole: number): string {
  let left = whole >= 0 ? whole : -1 - whole
  let digits = 1
  while (left >= 62 ** digits) left -= 62 ** digits++
  let text = ''
  for (let i = 0; i < digits; i++) {
    const digit = Math.floor(left / 62 ** i) % 62
    text = DIGITS[whole >= 0 ? digit : 61 - digit]! + text
  }
  return String.fromCharCode(whole >= 0 ? 96 + digits : 91 - digits) + text
}
