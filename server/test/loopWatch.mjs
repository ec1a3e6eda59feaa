import { createServer } from 'node:http'

/** Loaded into a server under test: how long its loop was held at most since it was last asked, by the process's own time. */
const EVERY_MS = 5
let most = 0
let at = performance.now()
let used = process.cpuUsage()
setInterval(() => {
  const [now, since] = [performance.now(), process.cpuUsage(used)]
  // A machine that was taken away meanwhile is nobody's doing here.
  most = Math.max(most, Math.min(now - at - EVERY_MS, (since.user + since.system) / 1000))
  at = now
  used = process.cpuUsage()
}, EVERY_MS).unref()

createServer((_, response) => {
  response.end(JSON.stringify({ heldMs: most }))
  most = 0
})
  .listen(Number(process.env.RUBATO_TEST_LOOP_PORT), '127.0.0.1')
  .unref()
