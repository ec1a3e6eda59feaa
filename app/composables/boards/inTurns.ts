const waiting = new Set<() => void>()
let running = false

/** Runs small work a frame each, so that many pieces that come at once hold nothing up. Gives back how to call it off. */
export function inTurns(work: () => void): () => void {
  waiting.add(work)
  if (!running) {
    running = true
    requestAnimationFrame(next)
  }
  return () => void waiting.delete(work)
}

function next() {
  const [work] = waiting
  if (work === undefined) {
    running = false
    return
  }
  waiting.delete(work)
  work()
  requestAnimationFrame(next)
}
