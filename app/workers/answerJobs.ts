import type { JobAnswer, JobAsk } from '../clients/jobs'

/** What a worker knows of the job that it does. */
export interface Job<Progress> {
  /** Raised when the job is not wanted any more. */
  readonly signal: AbortSignal
  /** How far it is; told at most every tenth of a second, the last in any case. */
  tell(progress: Progress): void
}

const TELL_EVERY_MS = 100

/** A worker's side of `createJobs`: jobs are done one after the other. `transfer` names what of a result is handed over. */
export function answerJobs<Ask, Result, Progress = never>(work: (ask: Ask, job: Job<Progress>) => Result | Promise<Result>, transfer: (result: Result) => Transferable[] = () => []): void {
  const gates = new Map<number, AbortController>()
  const say = (answer: JobAnswer<Result, Progress>, handed: Transferable[] = []) => postMessage(answer, { transfer: handed })

  async function done(number: number, ask: Ask, gate: AbortController) {
    let told = -Infinity
    let untold: { readonly progress: Progress } | null = null
    let timer: ReturnType<typeof setTimeout> | undefined
    const tellNow = () => {
      clearTimeout(timer)
      timer = undefined
      if (untold === null) return
      told = performance.now()
      say({ number, kind: 'progress', progress: untold.progress })
      untold = null
    }
    const tell = (progress: Progress) => {
      untold = { progress }
      const left = told + TELL_EVERY_MS - performance.now()
      if (left <= 0) tellNow()
      else timer ??= setTimeout(tellNow, left)
    }
    try {
      gate.signal.throwIfAborted()
      const result = await work(ask, { signal: gate.signal, tell })
      tellNow()
      say({ number, kind: 'done', result }, transfer(result))
    } catch (error) {
      const { name, message } = error as Error
      say({ number, kind: 'failed', name, what: message })
    } finally {
      clearTimeout(timer)
      gates.delete(number)
    }
  }

  let queue = Promise.resolve()
  self.onmessage = ({ data }: MessageEvent<JobAsk<Ask>>) => {
    if ('cancel' in data) return gates.get(data.number)?.abort()
    const gate = new AbortController()
    gates.set(data.number, gate)
    queue = queue.then(() => done(data.number, data.ask, gate))
  }
}
