/**
 * Whole numbers in the proportion of `weights` that come to `total` exactly, none below 1. What is rounded is where
 * each ends, not how long it is, so every end lies within half a frame of where it would fall and nothing adds up.
 * Null where `total` has fewer frames than there are weights, or is not whole. Weights are positive.
 */
export function shareFrames(weights: readonly number[], total: number): number[] | null {
  if (!Number.isInteger(total) || total < weights.length) return null
  if (weights.length === 0) return total === 0 ? [] : null
  // Those that would get less than a frame get one; the rest share what is left, which may bring others to one.
  const least = new Set<number>()
  let left = total
  let sum = weights.reduce((all, weight) => all + weight, 0)
  for (let again = true; again; ) {
    again = false
    const factor = left / sum
    for (const [i, weight] of weights.entries()) {
      if (least.has(i) || weight * factor >= 1) continue
      least.add(i)
      left -= 1
      sum -= weight
      again = true
    }
  }
  let cumulated = 0
  let before = 0
  const free = weights.length - least.size
  let seen = 0
  return weights.map((weight, i) => {
    if (least.has(i)) return 1
    cumulated += weight
    seen++
    // The last end is the total itself, whatever adding fractions made of it.
    const end = seen === free ? left : Math.round((cumulated * left) / sum)
    const share = end - before
    before = end
    return share
  })
}
