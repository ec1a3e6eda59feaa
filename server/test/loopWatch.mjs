import { readFileSync } from 'node:fs'
import { createServer } from 'node:http'
import { isMainThread, Worker, workerData } from 'node:worker_threads'

/**
 * Loaded into a server under test: how long its loop was held at most since it was last asked. A thread beside it does nothing but
 * look at the clock: while that stands still too, the machine was taken away, which is nobody's doing here.
 */
const EVERY_MS = 4
const STALL_MS = 12
const KEPT = 256
/** What the loop's own thread has worked, ms: others of the process, and other processes, take their time of the same cores. */
const worked = () => {
  try {
    return Number(readFileSync(`/proc/self/task/${process.pid}/schedstat`, 'utf8').split(' ')[0]) / 1e6
  } catch {
    const { user, system } = process.cpuUsage()
    return (user + system) / 1000
  }
}
const now = () => performance.timeOrigin + performance.now()

if (!isMainThread && workerData?.stalls !== undefined) {
  const { stalls } = workerData
  let [at, count] = [now(), 0]
  setInterval(() => {
    const time = now()
    if (time - at > STALL_MS) {
      stalls[(count % KEPT) * 2] = at
      stalls[(count % KEPT) * 2 + 1] = time
      count++
    }
    at = time
  }, EVERY_MS)
} else if (isMainThread) {
  const stalls = new Float64Array(new SharedArrayBuffer(KEPT * 2 * 8))
  new Worker(new URL(import.meta.url), { workerData: { stalls }, execArgv: [] }).unref()
  let most = 0
  let [at, used] = [now(), worked()]
  const look = (from, to, ownMs) => {
    let away = 0
    for (let i = 0; i < KEPT; i++) away += Math.max(0, Math.min(to, stalls[i * 2 + 1]) - Math.max(from, stalls[i * 2]))
    most = Math.max(most, Math.min(to - from - away, ownMs) - EVERY_MS)
  }
  setInterval(() => {
    const [time, total] = [now(), worked()]
    const [from, own] = [at, total - used]
    // The other thread may be the later to notice.
    if (time - from > STALL_MS) setTimeout(() => look(from, time, own), 100).unref()
    at = time
    used = total
  }, EVERY_MS).unref()
  createServer((_, response) => {
    setTimeout(() => {
      response.end(JSON.stringify({ heldMs: Math.max(0, most) }))
      most = 0
    }, 150)
  })
    .listen(Number(process.env.RUBATO_TEST_LOOP_PORT), '127.0.0.1')
    .unref()
}
