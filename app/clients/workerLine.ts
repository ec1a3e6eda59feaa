/** A worker that is told things and tells things, started when it is first told one and anew after it stopped by itself. */
export interface WorkerLine<Ask> {
  readonly running: boolean
  send(ask: Ask, transfer?: Transferable[]): void
  end(): void
}

export interface LineEars<Answer> {
  answer(answer: Answer): void
  /** It could not be started, or stopped by itself: what it knew is gone, and with the next message another is started. */
  stopped(why: Error): void
}

export function createWorkerLine<Ask, Answer>(start: () => Worker, { answer, stopped }: LineEars<Answer>): WorkerLine<Ask> {
  let worker: Worker | null = null
  const begin = () => {
    const made = start()
    made.onmessage = ({ data }: MessageEvent<Answer>) => {
      if (made === worker) answer(data)
    }
    made.onerror = (event) => {
      event.preventDefault?.()
      made.terminate()
      if (made !== worker) return
      worker = null
      stopped(new Error(event.message))
    }
    return made
  }
  return {
    get running() {
      return worker !== null
    },
    send(ask, transfer = []) {
      worker ??= begin()
      worker.postMessage(ask, transfer)
    },
    end() {
      worker?.terminate()
      worker = null
    },
  }
}
