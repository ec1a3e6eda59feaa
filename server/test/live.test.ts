import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createServerProcess, NEW_PROJECT, startTestServer, type ServerProcess, type TestServer } from './testServer'

interface Told {
  readonly event: string
  readonly id: string | null
  readonly data: any // eslint-disable-line @typescript-eslint/no-explicit-any
}

/** Reads server-sent events as they come. */
async function follow(address: string, projectId: string, after: number, session: string = randomUUID()) {
  const gate = new AbortController()
  const response = await fetch(`${address}/api/projects/${projectId}/live?after=${after}&session=${session}&name=Ada`, { signal: gate.signal })
  expect(response.headers.get('content-type')).toContain('text/event-stream')
  const told: Told[] = []
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader()
  void (async () => {
    let text = ''
    for (;;) {
      const { done, value } = await reader.read().catch(() => ({ done: true, value: undefined }))
      if (done) return
      text += value
      const parts = text.split('\n\n')
      text = parts.pop()!
      for (const part of parts) {
        const field = (name: string) => new RegExp(`^${name}: ?(.*)$`, 'm').exec(part)?.[1] ?? null
        told.push({ event: field('event') ?? '', id: field('id'), data: JSON.parse(field('data') || 'null') })
      }
    }
  })()
  const until = async (count: number, event = 'change') => {
    for (let tries = 0; tries < 300 && told.filter((each) => each.event === event).length < count; tries++) await new Promise((resolve) => setTimeout(resolve, 10))
    return told.filter((each) => each.event === event)
  }
  return { told, until, end: () => gate.abort() }
}

describe('live changes', () => {
  let server: TestServer
  let second: ServerProcess
  let projectId: string
  let takeId: string
  let panel: { id: string; action: string }
  let done = 0

  const edit = async (address: string) => {
    const n = ++done
    const word = (i: number) => (i === 0 ? '' : `edit ${i}`)
    const response = await fetch(`${address}/api/projects/${projectId}/edits`, {
      method: 'POST',
      body: JSON.stringify({
        author: 'Ada',
        base: { [`take:${takeId}`]: n },
        changes: [{ id: `change-${n}`, label: 'action', edits: [{ kind: 'x', unit: { kind: 'take', id: takeId }, changes: { panels: { [panel.id]: { before: { ...panel, action: word(n - 1) }, after: { ...panel, action: word(n) } } } } }] }],
      }),
    })
    expect(response.status).toBe(200)
    return (await response.json()) as { journalSeq: number }
  }

  beforeAll(async () => {
    server = await startTestServer()
    second = await createServerProcess({ RUBATO_DATABASE_URL: server.databaseUrl, RUBATO_STORAGE_DIR: server.storage })
    await second.start()
    projectId = (await server.post('/api/projects', NEW_PROJECT)).body.project.id
    takeId = Object.keys((await server.ask(`/api/projects/${projectId}`)).body.outline.takes)[0]!
    panel = Object.values<{ id: string; action: string }>((await server.ask(`/api/projects/${projectId}/takes?ids=${takeId}`)).body[0].body.panels)[0]!
  })
  afterAll(async () => {
    await second.stop()
    await server.stop()
  })

  it('come in order, from either of two servers on one database, each once', async () => {
    const here = await follow(server.address, projectId, 0)
    const there = await follow(second.address, projectId, 0)
    for (let i = 0; i < 6; i++) await edit(i % 2 === 0 ? server.address : second.address)
    for (const window of [here, there]) {
      const changes = await window.until(6)
      expect(changes.map((each) => each.data.change.id)).toEqual(['change-1', 'change-2', 'change-3', 'change-4', 'change-5', 'change-6'])
      expect(changes.map((each) => each.data.revisions[`take:${takeId}`])).toEqual([2, 3, 4, 5, 6, 7])
      expect(changes[0]!.data).toMatchObject({ author: 'Ada', takeLengths: { [takeId]: 48 } })
      expect(changes.every((each) => each.id === String(each.data.seq))).toBe(true)
      window.end()
    }
  })

  it('are caught up after a gap, from the place the window had reached', async () => {
    const { journalSeq } = await edit(server.address)
    await edit(server.address)
    await edit(second.address)
    const late = await follow(server.address, projectId, journalSeq)
    expect((await late.until(2)).map((each) => each.data.change.id)).toEqual(['change-8', 'change-9'])
    late.end()
    const { body } = await server.ask(`/api/projects/${projectId}/changes?after=${journalSeq}`)
    expect(body.entries.map((entry: { change: { id: string } }) => entry.change.id)).toEqual(['change-8', 'change-9'])
    expect(body.more).toBe(false)
  })

  it('tell which changes the journal has', async () => {
    const { body } = await server.post(`/api/projects/${projectId}/known`, { ids: ['change-1', 'change-77', 'change-9'] })
    expect(body.sort()).toEqual(['change-1', 'change-9'])
  })

  it('tell who is here, across servers, and who has left', async () => {
    const [ada, ben] = [randomUUID(), randomUUID()]
    const first = await follow(server.address, projectId, 0, ada)
    const other = await follow(second.address, projectId, 0, ben)
    await fetch(`${second.address}/api/projects/${projectId}/here`, { method: 'POST', body: JSON.stringify({ session: ben, name: 'Ben', shotId: 's1' }) })
    await expect.poll(() => first.told.filter((each) => each.event === 'here').at(-1)?.data.find((each: { session: string }) => each.session === ben)).toMatchObject({ name: 'Ben', shotId: 's1' })
    other.end()
    await expect.poll(() => first.told.filter((each) => each.event === 'here').at(-1)?.data.map((each: { session: string }) => each.session), { timeout: 30_000 }).toEqual([ada])
    first.end()
  })

  it('refuse a place that is none, and a window without a name of its own', async () => {
    expect((await server.ask(`/api/projects/${projectId}/live?after=-1&session=${randomUUID()}`)).status).toBe(422)
    expect((await server.ask(`/api/projects/${projectId}/live?after=0&session=x`)).status).toBe(422)
    expect((await server.ask(`/api/projects/none/live?after=0&session=${randomUUID()}`)).status).toBe(404)
  })
})
