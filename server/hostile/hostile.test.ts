import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { LINES_TYPE } from '#shared/changeLines'
import type { Batch } from '#shared/edits'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { inLines } from '../test/testServer'
import { startWatchedServer, type WatchedServer } from '../test/watched'
import { createTable } from './table'

/** Seeded, so that what is found is found again: RUBATO_HOSTILE_SEED, _REQUESTS, _FILES. */
const SEED = Number(process.env.RUBATO_HOSTILE_SEED || 1)
const REQUESTS = Number(process.env.RUBATO_HOSTILE_REQUESTS || 10_000)
const FILES = Number(process.env.RUBATO_HOSTILE_FILES || 1000)
const MEMORY_MB = 50
const HELD_MS = 50
/** Answers that say: not now. */
const LATER = new Set([503, 507])

let state = SEED >>> 0
const random = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32
const below = (n: number) => Math.floor(random() * n)
const pick = <T>(list: readonly T[]): T => list[below(list.length)]!

const STRINGS = ['', 'salt-lantern', 'take-040-a', '..', '../../etc/passwd', '%00', '\0', 'a\ud83d', '__proto__', 'constructor', 'toString', '💡'.repeat(40), 'x'.repeat(70_000), '-1', '1e400', '2147483648', '9007199254740993', '<script>', "'; DROP TABLE takes; --", 'null']
const VALUES = [null, true, [], {}, -1, 0, 1.5, 2 ** 31, 2 ** 53, -(2 ** 63), 1e308, ...STRINGS]
const value = (deep = 0): unknown => {
  const kind = below(deep > 3 ? 1 : 4)
  if (kind === 1) return Array.from({ length: below(5) }, () => value(deep + 1))
  if (kind === 2) return Object.fromEntries(Array.from({ length: below(5) }, () => [pick(STRINGS).slice(0, 90), value(deep + 1)]))
  return pick(VALUES)
}
const id = () => {
  const text = pick(['salt-lantern', 'salt-lantern', 'salt-lantern', ...STRINGS]).slice(0, 200)
  // Half a character has no address; its bytes can be sent all the same.
  return text.includes('\ud83d') && !text.includes('\udca1') ? '%ED%A0%BD' : encodeURIComponent(text)
}
const ROUTES: readonly (readonly [method: string, path: () => string])[] = [
  ['GET', () => `/api/projects?shelf=${id()}`],
  ['POST', () => '/api/projects'],
  ['GET', () => `/api/projects/${id()}`],
  ['PATCH', () => `/api/projects/${id()}`],
  ['POST', () => `/api/projects/${id()}/duplicate`],
  ['POST', () => `/api/projects/${id()}/restore`],
  ['GET', () => `/api/projects/${id()}/takes?ids=${id()},${id()}`],
  ['GET', () => `/api/projects/${id()}/drawings?ids=${id()}`],
  ['GET', () => `/api/projects/${id()}/cover`],
  ['GET', () => `/api/projects/${id()}/changes?after=${id()}`],
  ['POST', () => `/api/projects/${id()}/known`],
  ['GET', () => `/api/projects/${id()}/captions?q=${id()}&case=${id()}`],
  ['POST', () => `/api/projects/${id()}/edits`],
  ['POST', () => `/api/projects/${id()}/edits/${id()}`],
  ['POST', () => `/api/projects/${id()}/here`],
  ['GET', () => `/api/projects/${id()}/versions`],
  ['POST', () => `/api/projects/${id()}/versions`],
  ['GET', () => `/api/projects/${id()}/versions/${id()}`],
  ['POST', () => `/api/projects/${id()}/versions/${id()}/bring-back`],
  ['GET', () => `/api/projects/${id()}/versions/${id()}/compare`],
  ['GET', () => `/api/pictures/${id()}?side=${id()}`],
  ['POST', () => '/api/pictures'],
  ['POST', () => '/api/pictures/unused'],
  ['GET', () => `/api/sounds/${id()}`],
  ['POST', () => '/api/uploads'],
  ['GET', () => `/api/uploads/${id()}`],
  ['PUT', () => `/api/uploads/${id()}/parts/${id()}`],
  ['POST', () => `/api/uploads/${id()}/finish`],
  ['POST', () => '/api/archives'],
  ['POST', () => `/api/archives/${id()}`],
  ['POST', () => '/api/sign-in'],
  ['POST', () => '/api/sweep'],
  ['GET', () => '/api/health'],
]

describe('ten thousand hostile requests and a thousand hostile files', () => {
  let server: WatchedServer
  const table = createTable('hostile')
  const { row } = table
  const memory = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid()}/status`, 'utf8'))![1]) / 1024
  /** MB more than before, once it has come back or ten rounds of ordinary work are done: what is idle collects nothing. */
  async function moreAfter(before: number): Promise<number> {
    let more = memory() - before
    for (let waited = 0; waited < 10 && more > MEMORY_MB; waited++) {
      for (let asked = 0; asked < 200; asked++) await server.ask('/api/projects/salt-lantern')
      await new Promise((resolve) => setTimeout(resolve, 500))
      more = memory() - before
    }
    return more
  }

  beforeAll(async () => {
    server = await startWatchedServer({ RUBATO_SEED: 'demo', RUBATO_REQUESTS_PER_MINUTE: '10000000' })
  }, 120_000)
  afterAll(async () => {
    table.write(`seed ${SEED}`)
    await server.stop()
  })

  it('requests', async () => {
    const take = (await server.ask('/api/projects/salt-lantern/takes?ids=take-040-a')).body[0]
    const batch = () => ({ base: { 'take:take-040-a': take.revision }, changes: [{ id: `hostile-${below(1e9)}`, label: 'x', edits: [{ kind: 'x', unit: { kind: 'take', id: 'take-040-a' }, changes: { panels: { p1: { before: take.body.panels.p1, after: take.body.panels.p1 } } } }] }] })
    /** A real request with one value of it put out of joint. */
    const bent = (whole: unknown): unknown => {
      const copy = structuredClone(whole) as Record<string, unknown>
      for (let at: Record<string, unknown> = copy; ; ) {
        const key = pick(Object.keys(at))
        const inner = at[key]
        if (inner !== null && typeof inner === 'object' && Object.keys(inner).length > 0 && random() < 0.8) at = inner as Record<string, unknown>
        else {
          at[key] = value(2)
          return copy
        }
      }
    }
    /** The same as lines; where that can't be, as one. */
    const lines = (batch: ReturnType<typeof bent>) => {
      try {
        return inLines(batch as Batch)
      } catch {
        return JSON.stringify(batch)
      }
    }
    const one = async () => {
      const [method, path] = pick(ROUTES)
      const to = path()
      const asLines = to.endsWith('/edits') && random() < 0.5
      const sent = to.endsWith('/edits') ? bent(batch()) : value()
      const body = method === 'GET' ? undefined : random() < 0.1 ? pick(STRINGS) : asLines ? lines(sent) : JSON.stringify(sent)
      const ask = async () => {
        const answer = await fetch(server.address + to, { method, ...(body === undefined ? {} : { body }), ...(asLines ? { headers: { 'Content-Type': LINES_TYPE } } : {}), signal: AbortSignal.timeout(30_000) })
        await answer.arrayBuffer()
        return answer
      }
      // A connection that the server has ended may be found so only by the next request on it.
      const answer = await ask().catch(ask)
      return { status: answer.status, what: `${method} ${to.slice(0, 120)} ${String(body).slice(0, 300)}` }
    }
    for (let i = 0; i < 500; i++) await one()
    const before = memory()
    await server.heldMs()
    const failed: string[] = []
    for (let done = 0; done < REQUESTS; done += 10) for (const { status, what } of await Promise.all(Array.from({ length: 10 }, one))) if (status >= 500 && !LATER.has(status)) failed.push(`${status} ${what}`)
    const held = await server.heldMs()
    const more = await moreAfter(before)
    row(`${REQUESTS} hostile requests over every route: answers of 5xx but 503 and 507`, String(failed.length), '0', failed.length === 0)
    row('the same: the loop held at most, ms of the process’s own time', held.toFixed(0), `≤ ${HELD_MS}`, held <= HELD_MS)
    row('the same: memory afterwards, MB more', more.toFixed(0), `≤ ${MEMORY_MB}`, more <= MEMORY_MB)
    expect(failed).toEqual([])
    expect((await server.ask('/api/projects/salt-lantern/takes?ids=take-040-a')).body[0].body).toEqual(take.body)
  }, 600_000)

  it('files', async () => {
    const noise = Buffer.from(Array.from({ length: 300 * 200 * 3 }, (_, i) => (i * 7919 + (i >> 9) * 31) % 256))
    const flat = noise
    const raw = { raw: { width: 300, height: 200, channels: 3 as const } }
    const svg = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 30"><defs><linearGradient id="a"><stop offset="1"/></linearGradient></defs><g transform="rotate(3)"><rect width="20" height="30" fill="url(#a)"/><text>lamp</text></g></svg>')
    const wav = Buffer.alloc(44 + 16_000)
    wav.write('RIFF', 0)
    wav.writeUInt32LE(36 + 16_000, 4)
    wav.write('WAVEfmt ', 8)
    for (const [at, number, bytes] of [[16, 16, 4], [20, 1, 2], [22, 1, 2], [24, 8000, 4], [28, 16_000, 4], [32, 2, 2], [34, 16, 2], [40, 16_000, 4]] as const) wav.writeUIntLE(number, at, bytes)
    wav.write('data', 36)
    const archive = Buffer.from(await (await fetch(`${server.address}/api/projects/salt-lantern/archive`)).arrayBuffer())
    const whole = { png: await sharp(flat, raw).png().toBuffer(), jpeg: await sharp(flat, raw).jpeg().toBuffer(), webp: await sharp(flat, raw).webp().toBuffer(), svg, wav, archive: archive.subarray(0, archive.length) }
    const bend = (file: Buffer): Buffer => {
      const copy = Buffer.from(file)
      const how = below(8)
      if (how === 0) return copy.subarray(0, below(copy.length))
      if (how === 1) for (let n = below(30) + 1; n > 0; n--) copy[below(copy.length)] = below(256)
      if (how === 2) copy.fill(pick([0, 0xff, 0x3c]), below(copy.length))
      if (how === 3) return Buffer.concat([copy, Buffer.from(Array.from({ length: below(2000) }, () => below(256)))])
      if (how === 4) return Buffer.concat([copy.subarray(0, below(copy.length)), copy.subarray(below(copy.length))])
      // Some as they are, and some with the padding that cameras write.
      if (how === 5) return Buffer.concat([copy, Buffer.alloc(below(900))])
      return copy
    }
    const before = memory()
    await server.heldMs()
    const failed: string[] = []
    const unshown: string[] = []
    let taken = 0
    const one = async (n: number) => {
      const kind = n % 20 === 0 ? 'archive' : pick(['png', 'jpeg', 'webp', 'svg', 'wav'] as const)
      const file = bend(whole[kind])
      if (file.length === 0) return
      let answer
      if (kind === 'archive') answer = await server.ask('/api/archives', { method: 'POST', body: new Uint8Array(file) })
      else if (kind === 'wav') {
        const { body } = await server.post('/api/uploads', { kind: 'sound', bytes: file.length })
        await server.ask(`/api/uploads/${body.id}/parts/0`, { method: 'PUT', body: new Uint8Array(file) })
        answer = await server.post(`/api/uploads/${body.id}/finish`, {})
      } else answer = await server.ask('/api/pictures', { method: 'POST', body: new Uint8Array(file) })
      if (answer.status >= 500 && !LATER.has(answer.status)) failed.push(`${answer.status} ${kind} ${n}`)
      if (answer.status !== 200 || kind === 'wav' || kind === 'archive') return
      taken++
      for (const side of [256, 1024]) {
        const { status, bytes } = await server.fetchBytes(`/api/pictures/${answer.body.hash}?side=${side}`)
        const shown = status === 200 && (await sharp(bytes, { limitInputPixels: false }).metadata().then(() => true, () => false))
        if (!shown) unshown.push(`${kind} ${n} at ${side}: ${status}`)
      }
    }
    for (let n = 0; n < FILES; n += 4) await Promise.all([n, n + 1, n + 2, n + 3].map(one))
    const held = await server.heldMs()
    const more = await moreAfter(before)
    row(`${FILES} hostile files of every kind: answers of 5xx but 503 and 507`, String(failed.length), '0', failed.length === 0)
    row('the same: taken and can’t be shown', `${unshown.length} of ${taken} taken`, '0', unshown.length === 0)
    row('the same: the loop held at most, ms of the process’s own time', held.toFixed(0), `≤ ${HELD_MS}`, held <= HELD_MS)
    row('the same: memory afterwards, MB more', more.toFixed(0), `≤ ${MEMORY_MB}`, more <= MEMORY_MB)
    expect(failed).toEqual([])
    expect(unshown).toEqual([])
  }, 900_000)
})
