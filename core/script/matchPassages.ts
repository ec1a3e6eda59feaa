import { orderKeys } from '../document/order'
import type { Passage } from '../document/records'
import { passageWords, type ScriptPassage } from './passages'

/** How alike two passages must be to be one that was edited. */
const LEAST_ALIKE = 0.34

/**
 * Which old passage each new one is, by index, or null for one that is new. Unchanged passages are found first, in
 * order (longest common run); what lies between two of them is paired by how many words it shares.
 */
export function matchPassages(old: readonly ScriptPassage[], next: readonly ScriptPassage[]): readonly (number | null)[] {
  const key = (passage: ScriptPassage) => `${passage.kind}\n${passageWords(passage)}`
  const [a, b] = [old.map(key), next.map(key)]
  const result: (number | null)[] = b.map(() => null)
  match(0, a.length, 0, b.length)
  return result

  function match(fromA: number, toA: number, fromB: number, toB: number) {
    let [a0, a1, b0, b1] = [fromA, toA, fromB, toB]
    while (a0 < a1 && b0 < b1 && a[a0] === b[b0]) result[b0++] = a0++
    while (a0 < a1 && b0 < b1 && a[a1 - 1] === b[b1 - 1]) result[--b1] = --a1
    if (a0 === a1 || b0 === b1) return
    const anchors = commonInOrder(a, b, a0, a1, b0, b1)
    if (anchors.length === 0) return pair(a0, a1, b0, b1)
    for (const [i, j] of anchors) {
      result[j] = i
      match(a0, i, b0, j)
      a0 = i + 1
      b0 = j + 1
    }
    match(a0, a1, b0, b1)
  }

  function pair(a0: number, a1: number, b0: number, b1: number) {
    let from = a0
    for (let j = b0; j < b1; j++) {
      let best = -1
      let most = LEAST_ALIKE
      for (let i = from; i < a1; i++) {
        if (old[i]!.kind !== next[j]!.kind) continue
        const alike = alikeness(passageWords(old[i]!), passageWords(next[j]!))
        if (alike > most) [best, most] = [i, alike]
      }
      if (best < 0) continue
      result[j] = best
      from = best + 1
    }
  }
}

/** Passages that occur once on each side, kept where they are in the same order on both: patience. */
function commonInOrder(a: readonly string[], b: readonly string[], a0: number, a1: number, b0: number, b1: number): (readonly [number, number])[] {
  const once = (keys: readonly string[], from: number, to: number) => {
    const at = new Map<string, number>()
    for (let i = from; i < to; i++) at.set(keys[i]!, at.has(keys[i]!) ? -1 : i)
    return at
  }
  const inB = once(b, b0, b1)
  const pairs: [number, number][] = []
  for (const [key, i] of once(a, a0, a1)) {
    const j = inB.get(key) ?? -1
    if (i >= 0 && j >= 0) pairs.push([i, j])
  }
  pairs.sort((x, y) => x[0] - y[0])
  // The longest run whose second places rise too.
  const tails: number[] = []
  const before: number[] = []
  pairs.forEach(([, j], index) => {
    let low = 0
    let high = tails.length
    while (low < high) {
      const mid = (low + high) >> 1
      if (pairs[tails[mid]!]![1] < j) low = mid + 1
      else high = mid
    }
    before[index] = low === 0 ? -1 : tails[low - 1]!
    tails[low] = index
  })
  const run: (readonly [number, number])[] = []
  for (let at = tails.at(-1) ?? -1; at >= 0; at = before[at]!) run.unshift(pairs[at]!)
  return run
}

/** Shared words over the mean of both counts (Dice), 0…1. */
function alikeness(a: string, b: string): number {
  const words = (text: string) => new Set(text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [])
  const [left, right] = [words(a), words(b)]
  const shared = [...left].filter((word) => right.has(word)).length
  const all = left.size + right.size
  return all === 0 ? 0 : (2 * shared) / all
}

/** The passages of an edited script: those still there keep id and sequence, the others get ids from `newId`. */
export function keepPassages(old: readonly Passage[], next: readonly ScriptPassage[], newId: () => string): Passage[] {
  const matches = matchPassages(old, next)
  const orders = orderKeys(next.length)
  return next.map((passage, index): Passage => {
    const known = matches[index] === null ? undefined : old[matches[index]!]
    return { id: known?.id ?? newId(), order: orders[index]!, ...passage, sequenceId: known?.sequenceId ?? null }
  })
}
