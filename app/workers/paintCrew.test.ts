import { afterEach, describe, expect, it, vi } from 'vitest'
import { createPaintCrew, paintersFor } from './paintCrew'
import type { MovieRequest, PaintAnswer, PaintAsk } from './messages'

/** Painters that answer when told to, in whatever order. */
class FakeWorker {
  static all: FakeWorker[] = []
  asked: number[] = []
  ended = false
  onmessage: (event: { data: PaintAnswer }) => void = () => {}
  onerror: (event: { message: string }) => void = () => {}
  constructor() {
    FakeWorker.all.push(this)
  }
  postMessage(ask: PaintAsk) {
    if (ask.kind === 'paint') this.asked.push(ask.index)
  }
  terminate() {
    this.ended = true
  }
  finish() {
    const index = this.asked.shift()!
    this.onmessage({ data: { kind: 'frame', index, data: new Uint8Array([index]).buffer } })
  }
}

const crewOf = (frames: number, painters: number) => {
  FakeWorker.all = []
  vi.stubGlobal('Worker', FakeWorker)
  return createPaintCrew({} as MovieRequest, frames, painters)
}
const settle = () => new Promise((resolve) => setTimeout(resolve))

describe('a paint crew', () => {
  afterEach(() => vi.unstubAllGlobals())

  it('has as many painters as cores and work allow', () => {
    expect(paintersFor(1000, 2)).toBe(2)
    expect(paintersFor(1000, 16)).toBe(4)
    expect(paintersFor(47, 8)).toBe(1)
    expect(paintersFor(1, 1)).toBe(1)
  })

  it('hands frames over in order, whichever painter is done first, and never holds more than two a painter', async () => {
    const crew = crewOf(9, 2)
    const [a, b] = FakeWorker.all as [FakeWorker, FakeWorker]
    const got: number[] = []
    for (let index = 0; index < 9; index++) {
      const frame = crew.frame(index)
      expect(a.asked.length + b.asked.length).toBeLessThanOrEqual(4)
      // The second is always done before the first.
      while (b.asked.length > 0) b.finish()
      while (a.asked.length > 0) a.finish()
      got.push(new Uint8Array((await frame)!)[0]!)
    }
    expect(got).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8])
  })

  it('passes a painter’s failure on, by name', async () => {
    const crew = crewOf(30, 1)
    const frame = crew.frame(0)
    const refused = expect(frame).rejects.toMatchObject({ name: 'QuotaExceededError', message: 'full' })
    await settle()
    FakeWorker.all[0]!.onmessage({ data: { kind: 'failed', name: 'QuotaExceededError', what: 'full' } })
    await refused
    crew.dismiss()
    expect(FakeWorker.all[0]!.ended).toBe(true)
  })
})
