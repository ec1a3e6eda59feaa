/** What goes between a page and a worker that does jobs; `number` tells them apart. */
export type JobAsk<Ask> = { readonly number: number; readonly ask: Ask } | { readonly number: number; readonly cancel: true }
export type JobAnswer<Result, Progress> =
  | { readonly number: number; readonly kind: 'progress'; readonly progress: Progress }
  | { readonly number: number; readonly kind: 'done'; readonly result: Result }
  | { readonly number: number; readonly kind: 'failed'; readonly name: string; readonly what: string }

export interface JobOptions<Progress> {
  /** Handed over to the worker: a job with any can't be begun again on another one. */
  readonly transfer?: Transferable[] | undefined
  readonly progress?: ((progress: Progress) => void) | undefined
  /** Ends the job; its promise is refused with the signal's reason. */
  readonly signal?: AbortSignal | undefined
  /** The worker is ended when the job takes longer, ms. */
  readonly withinMs?: number | undefined
}

export interface Jobs<Ask, Result, Progress = never> {
  run(ask: Ask, options?: JobOptions<Progress>): Promise<Result>
  /** Ends the worker; what still waits is refused. */
  end(): void
}

/** A job that took longer than it was given. */
export class TookTooLong extends Error {}
/** The worker could not be started, or stopped by itself. */
export class WorkerStopped extends Error {}

interface Waiting<Ask, Result, Progress> {
  readonly ask: Ask
  readonly options: JobOptions<Progress>
  readonly resolve: (result: Result) => void
  readonly reject: (error: Error) => void
}

export interface JobSettings {
  /** How long the worker is kept when nothing is left to do, ms; its end gives its memory back. */
  readonly idleMs?: number
  /** How long a worker has to end a cancelled job by itself before it is ended, ms. */
  readonly cancelWithinMs?: number
}

/**
 * Jobs that one worker does, one after the other. It is started when there is something to do. Where it has to be ended for
 * the sake of one job, or stops by itself, the others are begun again on another; what it was doing when it stopped fails.
 */
export function createJobs<Ask, Result, Progress = never>(start: () => Worker, { idleMs = 0, cancelWithinMs = 0 }: JobSettings = {}): Jobs<Ask, Result, Progress> {
  const waiting = new Map<number, Waiting<Ask, Result, Progress>>()
  let worker: Worker | null = null
  let last = 0
  let idle: ReturnType<typeof setTimeout> | undefined

  function begin(): Worker {
    clearTimeout(idle)
    if (worker !== null) return worker
    const made = (worker = start())
    made.onmessage = ({ data }: MessageEvent<JobAnswer<Result, Progress>>) => {
      if (made === worker) hear(data)
    }
    made.onerror = (event) => {
      event.preventDefault?.()
      if (made === worker) stopped(new WorkerStopped(event.message || 'its worker could not be started'))
    }
    return made
  }

  function hear(answer: JobAnswer<Result, Progress>) {
    const job = waiting.get(answer.number)
    if (job === undefined) return
    if (answer.kind === 'progress') return job.options.progress?.(answer.progress)
    waiting.delete(answer.number)
    if (answer.kind === 'done') job.resolve(answer.result)
    else job.reject(Object.assign(new Error(answer.what), { name: answer.name }))
    restSoon()
  }

  function restSoon() {
    if (waiting.size > 0 || worker === null) return
    if (idleMs === 0) letGo()
    else idle = setTimeout(letGo, idleMs)
  }

  function letGo() {
    clearTimeout(idle)
    worker?.terminate()
    worker = null
  }

  /** What it was doing has failed; what had not been begun is begun on another worker. */
  function stopped(why: Error) {
    letGo()
    const [first] = waiting
    if (first !== undefined) {
      waiting.delete(first[0])
      first[1].reject(why)
    }
    beginAgain()
  }

  function beginAgain() {
    for (const [number, job] of waiting) {
      if (job.options.transfer === undefined) begin().postMessage({ number, ask: job.ask } satisfies JobAsk<Ask>)
      else {
        waiting.delete(number)
        job.reject(new WorkerStopped('its worker was stopped for another'))
      }
    }
  }

  /** Takes a job off the worker, which is ended if it is at it. */
  function drop(number: number, why: Error) {
    const job = waiting.get(number)
    if (job === undefined) return
    waiting.delete(number)
    job.reject(why)
    letGo()
    beginAgain()
  }

  function cancel(number: number, why: Error) {
    if (cancelWithinMs === 0 || worker === null) return drop(number, why)
    worker.postMessage({ number, cancel: true } satisfies JobAsk<Ask>)
    setTimeout(() => drop(number, why), cancelWithinMs)
  }

  return {
    run(ask, options = {}) {
      const number = ++last
      const { signal, withinMs } = options
      const because = () => (signal?.reason instanceof Error ? signal.reason : new DOMException('Cancelled.', 'AbortError'))
      return new Promise<Result>((resolve, reject) => {
        if (signal?.aborted === true) return reject(because())
        let late: ReturnType<typeof setTimeout> | undefined
        const aborted = () => cancel(number, because())
        const over = () => {
          clearTimeout(late)
          signal?.removeEventListener('abort', aborted)
        }
        waiting.set(number, {
          ask,
          options,
          resolve: (result) => (over(), resolve(result)),
          // However a cancelled job ends, it was cancelled.
          reject: (error) => (over(), reject(signal?.aborted === true ? because() : error)),
        })
        signal?.addEventListener('abort', aborted, { once: true })
        if (withinMs !== undefined) late = setTimeout(() => drop(number, new TookTooLong(`it took longer than ${Math.round(withinMs / 1000)} seconds`)), withinMs)
        begin().postMessage({ number, ask } satisfies JobAsk<Ask>, options.transfer ?? [])
      })
    },
    end() {
      letGo()
      for (const job of waiting.values()) job.reject(new WorkerStopped('its worker was ended'))
      waiting.clear()
    },
  }
}
