import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { answerJobs, type Job } from '../workers/answerJobs'
import { createJobs, TookTooLong, WorkerStopped, type JobAsk } from './jobs'
import { createWorkerLine } from './workerLine'

/** A worker on this thread: what it is told comes a turn later, and so does what it tells. */
class FakeWorker {
  onmessage: ((event: { data: unknown }) => void) | null = null
  onerror: ((event: { message: string }) => void) | null = null
  ended = false
  readonly told: unknown[] = []
  constructor(readonly hear: (data: unknown, answer: (data: unknown) => void) => void) {}
  postMessage(data: unknown) {
    this.told.push(data)
    setTimeout(() => !this.ended && this.hear(data, (answer) => setTimeout(() => !this.ended && this.onmessage?.({ data: answer }))))
  }
  terminate() {
    this.ended = true
  }
}

/** Workers whose side of the jobs is the real one. */
function working<Ask, Result, Progress>(work: (ask: Ask, job: Job<Progress>) => Result | Promise<Result>) {
  const made: FakeWorker[] = []
  const start = () => {
    const scope = { onmessage: null as ((event: { data: unknown }) => void) | null }
    let answerTo: (data: unknown) => void = () => undefined
    const worker = new FakeWorker((data, answer) => {
      answerTo = answer
      scope.onmessage!({ data })
    })
    vi.stubGlobal('self', scope)
    vi.stubGlobal('postMessage', (data: unknown) => answerTo(data))
    answerJobs<Ask, Result, Progress>(work)
    made.push(worker)
    return worker as unknown as Worker
  }
  return { start, made }
}
/** Workers that never answer. */
function silent() {
  const made: FakeWorker[] = []
  return { made, start: () => made[made.push(new FakeWorker(() => undefined)) - 1] as unknown as Worker }
}

const double = (n: number) => {
  if (n < 0) throw new RangeError('below nothing')
  return n * 2
}
beforeEach(() => void vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})
const settle = <T>(promise: Promise<T>) => {
  const seen = promise.then((value) => ({ value }), (error: Error) => ({ error }))
  return vi.runAllTimersAsync().then(() => seen)
}

describe('jobs', () => {
  it('are done in their order by one worker, which is ended when nothing is left', async () => {
    const { start, made } = working<number, number, never>(double)
    const jobs = createJobs<number, number>(start)
    expect(made).toHaveLength(0)
    const all = Promise.all([1, 2, 3].map((n) => jobs.run(n)))
    expect(await settle(all)).toEqual({ value: [2, 4, 6] })
    expect(made.map(({ ended }) => ended)).toEqual([true])
    expect(await settle(jobs.run(4))).toEqual({ value: 8 })
    expect(made).toHaveLength(2)
  })

  it('keep their worker for a while where that is wanted', async () => {
    const { start, made } = working<number, number, never>(double)
    const jobs = createJobs<number, number>(start, { idleMs: 1500 })
    const first = jobs.run(1)
    await vi.advanceTimersByTimeAsync(10)
    expect([await first, made[0]!.ended]).toEqual([2, false])
    const second = jobs.run(2)
    await vi.advanceTimersByTimeAsync(10)
    expect([await second, made.length]).toEqual([4, 1])
    await vi.advanceTimersByTimeAsync(1600)
    expect(made[0]!.ended).toBe(true)
  })

  it('fail by themselves: the others are done', async () => {
    const { start } = working<number, number, never>(double)
    const jobs = createJobs<number, number>(start)
    const [bad, good] = [jobs.run(-1), jobs.run(5)]
    const seen = await settle(Promise.allSettled([bad, good]))
    expect(seen).toMatchObject({ value: [{ status: 'rejected', reason: { name: 'RangeError', message: 'below nothing' } }, { status: 'fulfilled', value: 10 }] })
  })

  it('tell how far they are, now and then and at the end', async () => {
    const { start } = working<number, string, number>(async (n, { tell }) => {
      for (let i = 1; i <= n; i++) {
        tell(i)
        if (i % 10 === 0) await new Promise((resolve) => setTimeout(resolve, 60))
      }
      return 'done'
    })
    const told: number[] = []
    const jobs = createJobs<number, string, number>(start)
    expect(await settle(jobs.run(40, { progress: (n) => told.push(n) }))).toEqual({ value: 'done' })
    expect(told[0]).toBe(1)
    expect(told.at(-1)).toBe(40)
    expect(told.length).toBeLessThan(8)
    expect(told).toEqual([...told].sort((a, b) => a - b))
  })

  it('are cancelled with the reason given; those that wait are begun again on another worker', async () => {
    const { start, made } = working<number, number, never>((n) => (n === 1 ? new Promise<number>(() => undefined) : double(n)))
    const jobs = createJobs<number, number>(start)
    const gate = new AbortController()
    const [stuck, next] = [jobs.run(1, { signal: gate.signal }).catch((error: Error) => error.message), jobs.run(2)]
    await vi.advanceTimersByTimeAsync(50)
    gate.abort(new Error('Not wanted.'))
    expect(await settle(Promise.all([stuck, next]))).toEqual({ value: ['Not wanted.', 4] })
    expect(made.map(({ ended }) => ended)).toEqual([true, true])
    const already = AbortSignal.abort()
    expect(await settle(jobs.run(1, { signal: already }))).toMatchObject({ error: { name: 'AbortError' } })
  })

  it('end their work themselves where they are given the time, else they are ended', async () => {
    const undone: string[] = []
    const { start, made } = working<string, string, never>(async (how, { signal }) => {
      await new Promise<void>((resolve) => (how === 'heeds' ? signal.addEventListener('abort', () => resolve()) : undefined))
      undone.push(how)
      signal.throwIfAborted()
      return how
    })
    const jobs = createJobs<string, string>(start, { cancelWithinMs: 3000 })
    for (const how of ['heeds', 'does not']) {
      const gate = new AbortController()
      const job = jobs.run(how, { signal: gate.signal }).catch((error: Error) => error.name)
      await vi.advanceTimersByTimeAsync(50)
      gate.abort()
      const begun = Date.now()
      await vi.advanceTimersByTimeAsync(100)
      if (how === 'heeds') expect([await job, Date.now() - begun < 3000]).toEqual(['AbortError', true])
      else expect(await settle(job)).toEqual({ value: 'AbortError' })
    }
    expect(undone).toEqual(['heeds'])
    expect(made.every(({ ended }) => ended)).toBe(true)
  })

  it('that take longer than they may are ended and say so', async () => {
    const { start } = working<number, number, never>(() => new Promise<number>(() => undefined))
    const seen = await settle(createJobs<number, number>(start).run(1, { withinMs: 10_000 }))
    expect((seen as { error: Error }).error).toBeInstanceOf(TookTooLong)
  })

  it('go on after their worker has stopped by itself: only what it was at has failed', async () => {
    const { start, made } = silent()
    const jobs = createJobs<number, number>(start)
    const [first, second, handed] = [jobs.run(1), jobs.run(2), jobs.run(3, { transfer: [new ArrayBuffer(1)] })].map((job) => job.catch((error: Error) => error))
    made[0]!.onerror!({ message: 'out of memory' })
    expect(await first).toBeInstanceOf(WorkerStopped)
    // What was handed over to the worker is gone with it.
    expect(await handed).toBeInstanceOf(WorkerStopped)
    expect(made).toHaveLength(2)
    const again = made[1]!.told as JobAsk<number>[]
    expect(again).toEqual([{ number: 2, ask: 2 }])
    made[1]!.onmessage!({ data: { number: 2, kind: 'done', result: 7 } })
    expect(await second).toBe(7)
    expect(made[1]!.ended).toBe(true)
  })

  it('are refused when the client is ended', async () => {
    const { start } = silent()
    const jobs = createJobs<number, number>(start)
    const job = jobs.run(1).catch((error: Error) => error)
    jobs.end()
    expect(await job).toBeInstanceOf(WorkerStopped)
  })
})

describe('a line to a worker', () => {
  it('is started with the first message, and anew with the next after it stopped', () => {
    const { start, made } = silent()
    const heard: unknown[] = []
    let stops = 0
    const line = createWorkerLine<string, string>(start, { answer: (answer) => heard.push(answer), stopped: () => stops++ })
    expect([made.length, line.running]).toEqual([0, false])
    line.send('a')
    made[0]!.onmessage!({ data: 'x' })
    made[0]!.onerror!({ message: 'gone' })
    expect([heard, stops, line.running, made[0]!.ended]).toEqual([['x'], 1, false, true])
    line.send('b')
    // What an ended worker still says is not heard.
    made[0]!.onmessage!({ data: 'late' })
    expect([made.length, made[1]!.told, heard]).toEqual([2, ['b'], ['x']])
    line.end()
    expect(line.running).toBe(false)
  })
})
