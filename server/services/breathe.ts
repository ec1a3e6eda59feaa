const MOST_HELD_MS = 12
let begun = 0

/** Lets others in where this has held the loop for long: between two of many steps. */
export async function breathe(): Promise<void> {
  const now = performance.now()
  // Whoever waits longest began it; a turn of the loop begins it anew.
  if (begun === 0) {
    begun = now
    setImmediate(() => (begun = 0))
  }
  if (now - begun < MOST_HELD_MS) return
  await new Promise<void>((resolve) => setImmediate(resolve))
}
