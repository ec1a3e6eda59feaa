/** Orders of exposures: each is made of what frames show now. They write cells; nothing goes on by itself. */
type Shown = string | null

/** One after the other, as long as one is shown: a drawing and its frames. */
function runsOf(shown: readonly Shown[]): readonly { readonly drawingId: Shown; readonly frames: number }[] {
  const runs: { drawingId: Shown; frames: number }[] = []
  for (const drawingId of shown) {
    const last = runs.at(-1)
    if (last !== undefined && last.drawingId === drawingId) last.frames++
    else runs.push({ drawingId, frames: 1 })
  }
  return runs
}

const spread = (runs: readonly { readonly drawingId: Shown; readonly frames: number }[]): Shown[] => runs.flatMap(({ drawingId, frames }) => Array<Shown>(frames).fill(drawingId))

/** Over and over, for so many frames. */
export const repeated = (shown: readonly Shown[], frames: number): readonly Shown[] => (shown.length === 0 ? [] : Array.from({ length: frames }, (_, i) => shown[i % shown.length]!))

/** The last first; each as long as it was. */
export const reversedRuns = (shown: readonly Shown[]): readonly Shown[] => [...shown].reverse()

/** To the last and back again, over and over: neither end is shown twice running. */
export function thereAndBack(shown: readonly Shown[], frames: number): readonly Shown[] {
  const runs = runsOf(shown)
  return repeated(spread([...runs, ...runs.slice(1, -1).reverse()]), frames)
}

/** Each drawing for so many frames: on 2s, on 3s. */
export const onSteps = (shown: readonly Shown[], each: number): readonly Shown[] => spread(runsOf(shown).map(({ drawingId }) => ({ drawingId, frames: each })))

/** The drawings in an order of chance, each so many frames, never one twice running; the same for the same seed. */
export function shuffled(shown: readonly Shown[], frames: number, each: number, seed: number): readonly Shown[] {
  const drawings = [...new Set(shown)]
  if (drawings.length < 2) return repeated(shown, frames)
  const order: Shown[] = []
  let state = seed >>> 0
  let last = -1
  while (order.length < frames) {
    // A Weyl sequence through a hash (mulberry32): the same numbers everywhere.
    state = (state + 0x6d2b79f5) >>> 0
    let t = Math.imul(state ^ (state >>> 15), state | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    const pick = ((t ^ (t >>> 14)) >>> 0) % (last < 0 ? drawings.length : drawings.length - 1)
    // Among the others than the last.
    last = last >= 0 && pick >= last ? pick + 1 : pick
    for (let i = 0; i < each; i++) order.push(drawings[last]!)
  }
  return order.slice(0, frames)
}
