const waiting = new Set<() => void>()
const waitingLate = new Set<() => void>()
let scheduled = false

/**
 * Runs small work when nothing presses, a slice at a time. The same work asked for twice before it ran runs once. What
 * is `late` runs only when nothing else waits.
 */
export function inIdle(work: () => void, when: 'soon' | 'late' = 'soon'): void {
  const queue = when === 'soon' ? waiting : waitingLate
  queue.delete(work)
  queue.add(work)
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
  const queue = waiting.size > 0 ? waiting : waitingLate
  for (const work of queue) {
    queue.delete(work)
    work()
    if (performance.now() >= until) break
  }
  if (waiting.size + waitingLate.size > 0) schedule()
  else scheduled = false
}
