const waiting = new Set<() => void>()
let scheduled = false

/** Runs small work when nothing presses, a slice at a time. The same work asked for twice before it ran runs once. */
export function inIdle(work: () => void): void {
  waiting.delete(work)
  waiting.add(work)
  if (scheduled) return
  scheduled = true
  schedule()
}

function schedule() {
  if (typeof requestIdleCallback === 'function') requestIdleCallback(run, { timeout: 500 })
  else setTimeout(() => run(), 16)
}

function run(deadline?: IdleDeadline) {
  const until = performance.now() + Math.min(12, Math.max(4, deadline?.timeRemaining() ?? 8))
  for (const work of waiting) {
    waiting.delete(work)
    work()
    if (performance.now() >= until) break
  }
  if (waiting.size > 0) schedule()
  else scheduled = false
}
