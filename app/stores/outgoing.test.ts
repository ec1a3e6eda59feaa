import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Change } from '@rubato/core/edits'
import type { Batch, BatchAccepted } from '#shared/edits'
import { Refused, ServerFailed, Unreachable } from '~/api/client'
import { KEEPS_NOTHING, type KeptChanges } from './kept'
import { createOutgoing } from './outgoing'

const change = (id: string, unit = 't1'): Change => ({ id: `change-${id}`, label: id, edits: [{ kind: 'x', unit: { kind: 'take', id: unit }, changes: {} }] })

/** A server that keeps what it takes, and can be told how to answer next. */
function fakeServer() {
  const taken: string[] = []
  const batches: Batch[] = []
  const next: (() => never)[] = []
  let revision = 1
  const send = async (batch: Batch): Promise<BatchAccepted> => {
    batches.push(batch)
    await Promise.resolve()
    next.shift()?.()
    taken.push(...batch.changes.map((entry) => entry.label))
    revision += batch.changes.length
    return { revisions: { 'take:t1': revision }, journalSeq: taken.length }
  }
  return { taken, batches, next, send }
}

describe('the outgoing queue', () => {
  let server: ReturnType<typeof fakeServer>
  let stale: string[]
  let refused: string[]
  let inParts: string[]
  let bodies: Blob[]
  let outgoing: ReturnType<typeof createOutgoing>
  const revisions = new Map<string, number>()
  const stored = new Map<string, Change>()
  let keepFails = false
  let healthy = true
  const kept: KeptChanges = {
    ...KEEPS_NOTHING,
    add: async (_, each) => {
      if (keepFails) throw new Error('full')
      stored.set(each.id, each)
    },
    replace: async (_, changes) => changes.forEach((each) => stored.set(each.id, each)),
    drop: async (ids) => ids.forEach((id) => stored.delete(id)),
  }

  beforeEach(() => {
    vi.useFakeTimers()
    server = fakeServer()
    stale = []
    refused = []
    inParts = []
    bodies = []
    stored.clear()
    keepFails = false
    healthy = true
    revisions.clear()
    revisions.set('take:t1', 1)
    outgoing = createOutgoing({
      healthy: () => Promise.resolve(healthy),
      send: (batch, body) => {
        bodies.push(body)
        return server.send(batch)
      },
      revisions,
      author: () => 'Ada',
      keep: () => ({ projectId: 'p', kept }),
      onStale: async () => {
        stale.push('take:t1')
        revisions.set('take:t1', 9)
        outgoing.replaceWaiting(outgoing.waiting())
      },
      sendInParts: async (batch) => {
        inParts.push(...batch.changes.map((entry) => entry.label))
        return server.send(batch)
      },
      onInvalid: (id) => {
        refused.push(id)
        outgoing.replaceWaiting(outgoing.waiting().filter((entry) => entry.id !== id))
      },
    })
    return () => vi.useRealTimers()
  })

  it('sends in order, one batch at a time, each on the revision acknowledged before', async () => {
    outgoing.add(change('a'))
    expect(server.batches).toEqual([])
    void outgoing.flush()
    outgoing.add(change('b'))
    outgoing.add(change('c'))
    await outgoing.flush()
    expect(server.taken).toEqual(['a', 'b', 'c'])
    expect(server.batches.map((batch) => batch.changes.length)).toEqual([1, 2])
    expect(server.batches.map((batch) => batch.base['take:t1'])).toEqual([1, 2])
    expect(outgoing.state).toMatchObject({ kind: 'saved', waiting: 0 })
  })

  it('sends the batch as lines, made when the hand is done with the change', async () => {
    outgoing.add(change('é'))
    outgoing.add(change('b'))
    await vi.advanceTimersByTimeAsync(0)
    expect(server.taken).toEqual(['é', 'b'])
    const [body] = bodies
    expect(body!.type).toBe('application/x-ndjson')
    expect((await body!.text()).split('\n').map((line) => (line === '' ? null : (JSON.parse(line) as object)))).toEqual([
      { base: { 'take:t1': 1 }, author: 'Ada' },
      ...['é', 'b'].flatMap((id) => [{ id: `change-${id}`, label: id }, { kind: 'x', unit: { kind: 'take', id: 't1' }, changes: {} }]),
      null,
    ])
  })

  it('keeps everything while the server can’t be reached, says so, and tries again by itself', async () => {
    const lost = () => {
      throw new Unreachable('no answer')
    }
    server.next.push(lost, lost)
    outgoing.add(change('a'))
    await outgoing.flush()
    outgoing.add(change('b'))
    expect(outgoing.state).toMatchObject({ kind: 'offline', waiting: 2, problem: 'no answer' })
    await vi.advanceTimersByTimeAsync(20_000)
    expect(server.taken).toEqual(['a', 'b'])
    expect(outgoing.state.kind).toBe('saved')
  })

  it('keeps what waits in the browser until the server has it, and says when it can’t', async () => {
    server.next.push(() => {
      throw new Unreachable('no answer')
    })
    outgoing.add(change('a'))
    await outgoing.flush()
    expect([...stored.keys()]).toEqual(['change-a'])
    expect(outgoing.state.kept).toBe(true)
    keepFails = true
    outgoing.add(change('b'))
    await vi.advanceTimersByTimeAsync(0)
    expect(outgoing.state.kept).toBe(false)
    await vi.advanceTimersByTimeAsync(2000)
    expect(server.taken).toEqual(['a', 'b'])
    expect(stored.size).toBe(0)
    expect(outgoing.state.kept).toBe(true)
  })

  it('takes news of its own change for the acknowledgement, and never goes back to an older revision', async () => {
    outgoing.replaceWaiting([change('a'), change('b')])
    outgoing.acknowledge(['change-a'], { 'take:t1': 7 })
    expect(outgoing.waiting().map((each) => each.label)).toEqual(['b'])
    outgoing.acknowledge(['change-b'], { 'take:t1': 5 })
    expect(revisions.get('take:t1')).toBe(7)
    expect(outgoing.state.kind).toBe('saved')
  })

  it('sends a new unit on revision 0', async () => {
    outgoing.add(change('a', 'new'))
    await outgoing.flush()
    expect(server.batches[0]!.base).toEqual({ 'take:new': 0 })
  })

  it('has what is stale made new, and goes on with it', async () => {
    server.next.push(() => {
      throw new Refused(409, 'old', { code: 'stale-revision', unit: 'take:t1', revision: 9, since: [] })
    })
    outgoing.add(change('a'))
    await outgoing.flush()
    expect(stale).toEqual(['take:t1'])
    expect(server.batches.at(-1)!.base).toEqual({ 'take:t1': 9 })
    expect(server.taken).toEqual(['a'])
  })

  it('has the one change set aside that the server names, and sends the others', async () => {
    server.next.push(() => {
      throw new Refused(422, 'bad', { code: 'invalid-edit', changeId: 'change-b', path: [], message: '' })
    })
    outgoing.replaceWaiting([change('a'), change('b'), change('c')])
    await outgoing.flush()
    expect(refused).toEqual(['change-b'])
    expect(server.taken).toEqual(['a', 'c'])
    expect(stored.has('change-b')).toBe(false)
  })

  it('drops nothing for a refusal that names no change: it waits, says so, and asks again', async () => {
    for (const status of [400, 422]) {
      server.next.push(() => {
        throw new Refused(status, `status ${status}`, { code: 'invalid-request' })
      })
    }
    outgoing.replaceWaiting([change('a'), change('b')])
    await outgoing.flush()
    expect(outgoing.state).toMatchObject({ kind: 'failed', waiting: 2, problem: 'status 400' })
    expect([...stored.keys()]).toEqual(['change-a', 'change-b'])
    await vi.advanceTimersByTimeAsync(20_000)
    expect(refused).toEqual([])
    expect(server.taken).toEqual(['a', 'b'])
    expect(outgoing.state).toMatchObject({ kind: 'saved', problem: null })
  })

  const heavy = (id: string, bytes: number): Change => ({ id: `change-${id}`, label: id, edits: [{ kind: 'x', unit: { kind: 'take', id: 't1' }, changes: { panels: { p: { before: null, after: { text: 'é'.repeat(bytes / 2) } } } } }] })

  it('cuts batches by bytes, and sends a change that is too large for one request in parts', async () => {
    outgoing.replaceWaiting([heavy('a', 3e6), heavy('b', 3e6), heavy('c', 3e6), heavy('d', 20e6), change('e')])
    await outgoing.flush()
    expect(server.batches.map((batch) => batch.changes.map((each) => each.label).join(''))).toEqual(['a', 'b', 'c', 'd', 'e'])
    expect(inParts).toEqual(['d'])
    expect(server.taken).toEqual(['a', 'b', 'c', 'd', 'e'])
  })

  it('makes smaller requests where something on the way takes less, down to one change in parts', async () => {
    const tooLarge = () => {
      throw new Refused(413, 'too large', { code: 'too-large' })
    }
    server.next.push(tooLarge, tooLarge)
    outgoing.replaceWaiting([heavy('a', 1e6), heavy('b', 1e6)])
    await outgoing.flush()
    expect(server.taken).toEqual(['a', 'b'])
    expect(inParts).toEqual(['a', 'b'])
    expect(refused).toEqual([])
  })

  it('rests where the film is never what a batch was made on, and keeps everything', async () => {
    const old = () => {
      throw new Refused(409, 'old', { code: 'stale-revision', unit: 'take:t1', revision: 9, since: [] })
    }
    server.next.push(...Array.from({ length: 6 }, () => old))
    outgoing.add(change('a'))
    await outgoing.flush()
    expect(outgoing.state).toMatchObject({ kind: 'offline', waiting: 1 })
    await vi.advanceTimersByTimeAsync(20_000)
    expect(server.taken).toEqual(['a'])
  })

  it('keeps its changes through a lost sign-in, a film in the trash and a server that is too busy', async () => {
    for (const status of [401, 403, 404, 429, 500]) {
      server.next.push(() => {
        throw new Refused(status, `status ${status}`, { code: 'x' })
      })
    }
    outgoing.add(change('a'))
    await outgoing.flush()
    expect(outgoing.state).toMatchObject({ kind: 'offline', waiting: 1, problem: 'status 401' })
    expect([...stored.keys()]).toEqual(['change-a'])
    await vi.advanceTimersByTimeAsync(60_000)
    expect(refused).toEqual([])
    expect(server.taken).toEqual(['a'])
  })

  describe('where the server fails at something', () => {
    const failing = (bad: readonly string[]) => {
      const { send } = server
      server.send = async (batch) => {
        server.batches.push(batch)
        await Promise.resolve()
        if (batch.changes.some(({ label }) => bad.includes(label))) throw new ServerFailed('The server failed (500).')
        server.batches.pop()
        return send(batch)
      }
    }
    const all = () => vi.advanceTimersByTimeAsync(120_000)

    it('sends changes one by one, sets the one aside that it fails at each time, and everything else arrives', async () => {
      failing(['c'])
      for (const id of ['a', 'b', 'c', 'd', 'e']) outgoing.add(change(id))
      await all()
      expect(refused).toEqual(['change-c'])
      expect(server.taken).toEqual(['a', 'b', 'd', 'e'])
      expect(outgoing.state.kind).toBe('saved')
    })

    it('blames no change while the server does nothing else either, and sends all of them when it does', async () => {
      healthy = false
      failing(['a', 'b', 'c'])
      for (const id of ['a', 'b', 'c']) outgoing.add(change(id))
      await all()
      expect([refused, outgoing.waiting().length]).toEqual([[], 3])
      failing([])
      server = Object.assign(server, { send: fakeServer().send })
      healthy = true
      await all()
      expect([refused, outgoing.waiting().length]).toEqual([[], 0])
    })

    it('blames a few at most where it fails at all of them: then the fault is not theirs', async () => {
      const ids = ['a', 'b', 'c', 'd', 'e', 'f']
      failing(ids)
      for (const id of ids) outgoing.add(change(id))
      await vi.advanceTimersByTimeAsync(1_200_000)
      expect(refused).toHaveLength(3)
      expect(outgoing.waiting()).toHaveLength(3)
    })
  })

  it('forgets what was on its way when the film is closed', async () => {
    outgoing.add(change('a'))
    outgoing.reset()
    await vi.advanceTimersByTimeAsync(100)
    expect(outgoing.state).toMatchObject({ kind: 'saved', waiting: 0 })
    expect(revisions.get('take:t1')).toBe(1)
  })
})
