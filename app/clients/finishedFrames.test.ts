import { EMPTY_DRAWING, EMPTY_TAKE } from '@rubato/core/document'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { FramesAnswer, FramesAsk } from '~/workers/messages'
import { createFinishedFrames, type FramePlace } from './finishedFrames'

class FakeWorker {
  static all: FakeWorker[] = []
  onmessage: ((event: { data: FramesAnswer }) => void) | null = null
  onerror: ((event: { message: string }) => void) | null = null
  readonly told: FramesAsk[] = []
  ended = false
  constructor() {
    FakeWorker.all.push(this)
  }
  postMessage(ask: FramesAsk) {
    this.told.push(ask)
  }
  terminate() {
    this.ended = true
  }
  get kinds() {
    return this.told.map(({ kind }) => kind)
  }
}
vi.stubGlobal('Worker', FakeWorker)

const picture = () => ({ closed: false, close() { this.closed = true } })
const begin = { kind: 'begin', optics: { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }, baseWidthPx: 1280, pictureBase: '/p/', budgetBytes: 1 } as const
const VIEW = { left: 0, top: 0, width: 10, height: 10 } as never
const place = (frame: number): FramePlace => ({ takeId: 't', serial: 1, frame })

function setUp() {
  FakeWorker.all = []
  unpacked = 0
  const heard: string[] = []
  const frames = createFinishedFrames({ coverage: ({ takeId }) => heard.push(`coverage ${takeId}`), state: () => heard.push('state'), failed: (what) => heard.push(what), forgotten: () => heard.push('forgotten') })
  return { frames, heard, worker: () => FakeWorker.all.at(-1)! }
}
const settled = () => new Promise((resolve) => setTimeout(resolve))
let unpacked = 0
/** A file is stood for by the picture that it is unpacked to. */
vi.stubGlobal('createImageBitmap', async (file: ReturnType<typeof picture>) => (unpacked++, file))
const answer = (worker: FakeWorker, frame: number, file: ReturnType<typeof picture> | null) => {
  worker.onmessage!({ data: { kind: 'frame', ...place(frame), picture: file } as unknown as FramesAnswer })
  return settled()
}

describe('finished frames', () => {
  let { frames, heard, worker } = setUp()
  beforeEach(() => ({ frames, heard, worker } = setUp()))

  it('are begun once for a film, and anew for another', () => {
    expect(frames.begunFor).toBe('')
    frames.begin('one', begin, VIEW)
    frames.begin('one', begin, VIEW)
    expect([frames.begunFor, worker().kinds, FakeWorker.all.length]).toEqual(['one', ['begin', 'view'], 1])
    frames.begin('two', begin, VIEW)
    expect([frames.begunFor, worker().kinds, heard]).toEqual(['two', ['begin', 'view', 'begin', 'view'], ['forgotten', 'forgotten']])
  })

  it('are made of takes and art that are sent once; what no plan wants is sent again when one does', () => {
    frames.begin('one', begin, VIEW)
    const body = { ...EMPTY_TAKE }
    for (let i = 0; i < 3; i++) frames.sendTake('t', body)
    frames.sendDrawing('d', EMPTY_DRAWING)
    frames.sendDrawing('d', EMPTY_DRAWING)
    expect(worker().kinds.slice(2)).toEqual(['take', 'drawing'])
    frames.plan([{ takeId: 't', serial: 1, from: 0, to: 2, muted: [] }], 1, 1e6)
    frames.sendTake('t', body)
    expect(worker().kinds.slice(4)).toEqual(['plan', 'pause'])
    frames.plan([], 0, 1e6)
    frames.sendTake('t', body)
    expect(worker().kinds.at(-1)).toBe('take')
  })

  it('are asked for ahead, unpacked just before they are due, once, and closed when they are past', async () => {
    frames.begin('one', begin, VIEW)
    frames.unpack([place(0), place(1), place(2), place(3)], 1, ({ frame }) => frame !== 2)
    frames.unpack([place(0), place(1), place(3)], 1, () => true)
    expect(worker().told.filter(({ kind }) => kind === 'fetch')).toHaveLength(3)
    const [first, second] = [picture(), picture()]
    await answer(worker(), 0, first)
    await answer(worker(), 1, second)
    expect([frames.picture(place(0)), frames.picture(place(1)), unpacked]).toEqual([first, null, 1])
    // What was asked for long before is unpacked once it is due, whatever keeps the worker.
    frames.unpack([place(1), place(3)], 1, () => true)
    await settled()
    expect([first.closed, frames.picture(place(0)), frames.picture(place(1)), unpacked]).toEqual([true, null, second, 2])
    frames.unpack([place(1), place(3)], 1, () => true)
    expect([unpacked, worker().told.filter(({ kind }) => kind === 'fetch').length]).toEqual([2, 3])
    // One that comes when nobody wants it any more is not unpacked; one that is being unpacked then goes at once.
    frames.release()
    expect(second.closed).toBe(true)
    await answer(worker(), 3, picture())
    expect(unpacked).toBe(2)
    const late = picture()
    frames.unpack([place(4)], 1, () => true)
    const unpacking = answer(worker(), 4, late)
    frames.release()
    await unpacking
    expect([late.closed, frames.picture(place(4))]).toEqual([true, null])
    // What is not finished is not asked for again and again.
    frames.unpack([place(5)], 1, () => true)
    await answer(worker(), 5, null)
    frames.unpack([place(5)], 1, () => true)
    expect(worker().told.filter(({ kind }) => kind === 'fetch')).toHaveLength(5)
  })

  it('that a stopped worker had are forgotten; with the next beginning another is started', async () => {
    frames.begin('one', begin, VIEW)
    frames.unpack([place(0)], 1, () => true)
    const held = picture()
    await answer(worker(), 0, held)
    worker().onerror!({ message: 'out of memory' })
    expect([held.closed, frames.begunFor, heard.filter((each) => each === 'forgotten').length]).toEqual([true, '', 2])
    frames.begin('one', begin, VIEW)
    expect([FakeWorker.all.length, frames.begunFor]).toEqual([2, 'one'])
    frames.end()
    expect([worker().ended, frames.begunFor]).toEqual([true, ''])
  })

  it('tell what they hear', () => {
    frames.begin('one', begin, VIEW)
    for (const data of [{ kind: 'coverage', takeId: 't' }, { kind: 'state' }, { kind: 'failed', what: 'no room' }]) worker().onmessage!({ data: data as unknown as FramesAnswer })
    expect(heard.slice(1)).toEqual(['coverage t', 'state', 'no room'])
  })
})
