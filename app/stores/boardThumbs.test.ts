import { untouchedPose } from '@rubato/core/camera'
import { keyFraming } from '@rubato/core/edits'
import fc from 'fast-check'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { watchEffect } from 'vue'
import type { ThumbAnswer, ThumbAsk } from '~/workers/messages'
import { useBoardThumbsStore } from './boardThumbs'
import { useFilmStore } from './film'
import { openWindow } from './testing'

/** The painter: what it was told, and what it says. */
const worker = vi.hoisted(() => ({ told: [] as unknown[], ears: null as { answer(answer: unknown): void; stopped(why: Error): void } | null }))
vi.mock('~/clients/workerLine', () => ({
  createWorkerLine: (_: unknown, ears: typeof worker.ears) => {
    worker.ears = ears
    return { running: true, send: (ask: unknown) => void worker.told.push(ask), end: () => undefined }
  },
}))

const WIDTH = 96
const TOGETHER_MS = 200

/** A picture that knows what it is of, and whether it was let go. */
interface Painted extends ImageBitmap {
  readonly of: number
  closed: boolean
}

describe('small pictures of frames', () => {
  let window: ReturnType<typeof openWindow>
  let [film, thumbs] = [] as unknown as [ReturnType<typeof useFilmStore>, ReturnType<typeof useBoardThumbsStore>]
  const made: Painted[] = []
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    worker.told.length = 0
    made.length = 0
    window = openWindow()
    vi.stubGlobal('location', { origin: 'http://here' })
    film = useFilmStore()
    film.projectId = 'f'
    thumbs = useBoardThumbsStore()
  })
  afterEach(() => (vi.useRealTimers(), window.close()))

  const paints = () => (worker.told as ThumbAsk[]).filter((ask) => ask.kind === 'paint')
  const answer = (said: ThumbAnswer) => worker.ears!.answer(said)
  function painted(number: number, px = WIDTH) {
    const bitmap: Painted = { width: px, height: px, of: number, closed: false, close: () => void (bitmap.closed = true) }
    made.push(bitmap)
    answer({ kind: 'thumb', number, bitmap })
    return bitmap
  }
  const seen = (frame: number) => thumbs.bitmapOfFrame('t1', frame, WIDTH)
  const want = (frame: number) => thumbs.wantFrame('t1', frame, WIDTH)
  let keys = 0
  const moveCamera = (frame: number, x: number) => film.perform('key', (f) => keyFraming(f.takes.t1!, 't1', 'a', frame, { ...untouchedPose(film.optics!), x }, `k${keys++}`))

  it('has three painted at once, what is wanted last first, and shows those that come soon after each other together', () => {
    for (let frame = 0; frame < 6; frame++) expect(want(frame)).toBe(true)
    expect(paints().map(({ frame }) => frame)).toEqual([0, 1, 2])
    let draws = 0
    const stop = watchEffect(() => (draws++, [0, 1, 2, 3, 4, 5].map(seen)), { flush: 'sync' })
    for (let i = 0; i < 2; i++) painted(paints()[i]!.number)
    expect([seen(0), paints().map(({ frame }) => frame)]).toEqual([null, [0, 1, 2, 5, 4]])
    vi.advanceTimersByTime(TOGETHER_MS)
    expect([seen(0), seen(1), seen(2)]).toEqual([made[0], made[1], null])
    // The last of all is not waited with.
    for (const { number } of paints().slice(2)) painted(number)
    painted(paints().at(-1)!.number)
    expect([2, 3, 4, 5].every((frame) => seen(frame) !== null)).toBe(true)
    expect(draws).toBeLessThanOrEqual(1 + 6)
    stop()
    // What is there is not painted again.
    for (let frame = 0; frame < 6; frame++) want(frame)
    expect(paints()).toHaveLength(6)
  })

  it('keeps the newer picture of a frame that changed while it was painted, and does not take the older for it', () => {
    want(0)
    moveCamera(0, 0.2)
    want(0)
    const [older, newer] = paints()
    expect(paints()).toHaveLength(2)
    const first = painted(older!.number)
    want(0)
    expect(paints()).toHaveLength(2)
    const second = painted(newer!.number)
    expect([seen(0), first.closed, second.closed]).toEqual([second, true, false])
    film.undo()
    want(0)
    expect(paints()).toHaveLength(3)
  })

  it('does not paint what was wanted and is shown otherwise again before its turn came', () => {
    const frames = [0, 1, 2, 3]
    for (const frame of frames) want(frame)
    for (let i = 0; i < 4; i++) painted(paints()[i]!.number)
    const shown = seen(3)
    moveCamera(0, 0.2)
    for (const frame of frames) want(frame)
    film.undo()
    for (const frame of frames) want(frame)
    while (paints().length > made.length) painted(paints()[made.length]!.number)
    expect(seen(3)).toBe(shown)
    expect(paints().map(({ frame }) => frame).filter((frame) => frame === 3)).toHaveLength(1)
  })

  it('whatever is wanted, changed and painted in whatever order: at rest each shows what it is, and no picture that is shown was let go', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom('want', 'want', 'paint', 'fail', 'move', 'back', 'time', 'gone'), fc.nat(3)), { maxLength: 60 }), (steps) => {
        window.close()
        window = openWindow()
        vi.stubGlobal('location', { origin: 'http://here' })
        film = useFilmStore()
        film.projectId = 'f'
        thumbs = useBoardThumbsStore()
        worker.told.length = 0
        made.length = 0
        let answered = 0
        let now = 0
        /** Where the camera was in the take that a picture was painted of. */
        const looks = new Map<number, number>()
        const lookOf = (serial: number) => {
          const [sent] = (worker.told as ThumbAsk[]).flatMap((ask) => (ask.kind === 'take' && ask.serial === serial ? [ask.take] : []))
          return Math.round(100 * (Object.values(sent!.framings)[0]?.pose.x ?? 0))
        }
        const paintNext = () => {
          const next = paints()[answered]
          if (next === undefined) return false
          answered++
          looks.set(next.number, lookOf(next.take))
          painted(next.number)
          return true
        }
        const open = [0, 1, 2, 3]
        for (const [what, frame] of steps) {
          if (what === 'want') want(frame)
          else if (what === 'paint') paintNext()
          else if (what === 'fail' && paints()[answered] !== undefined) answer({ kind: 'failed', number: paints()[answered++]!.number, what: null })
          else if (what === 'move' || what === 'back') moveCamera(0, (now += what === 'move' || now < 2 ? 1 : -1) / 100)
          else if (what === 'time') vi.advanceTimersByTime(TOGETHER_MS)
          else if (what === 'gone') {
            worker.ears?.stopped(new Error('gone'))
            answered = paints().length
          }
          for (const each of open) expect((seen(each) as Painted | null)?.closed ?? false).toBe(false)
        }
        // At rest: all are wanted once, and all that is asked for is painted.
        for (const each of open) want(each)
        while (paintNext());
        for (const each of open) expect(looks.get((seen(each) as Painted).of)).toBe(now)
        expect(made.filter(({ closed }) => !closed)).toHaveLength(open.length)
      }),
      { numRuns: 300 },
    )
  })

  it('lets pictures of another film go, tells once what could not be painted, and begins anew after its painter stopped', () => {
    want(0)
    want(1)
    const kept = painted(paints()[0]!.number)
    vi.advanceTimersByTime(TOGETHER_MS)
    expect(seen(0)).toBe(kept)
    film.projectId = 'another'
    want(2)
    expect([kept.closed, seen(0)]).toEqual([true, null])
    const late = painted(paints()[1]!.number)
    expect([late.closed, seen(1)]).toEqual([true, null])
    answer({ kind: 'failed', number: paints()[2]!.number, what: 'No room.' })
    expect(film.lastRefusal?.text).toContain('No room.')
    answer({ kind: 'failed', number: 0, what: 'A drawing was not understood.' })
    expect(film.lastRefusal?.text).toContain('not understood')
    worker.told.length = 0
    worker.ears!.stopped(new Error('gone'))
    want(3)
    expect((worker.told as ThumbAsk[]).map(({ kind }) => kind)).toEqual(['begin', 'take', 'paint'])
  })

  it('keeps within its budget, those wanted longest ago first', () => {
    // 10 MB: two of 1,200 px by 1,200 px are over it.
    for (const frame of [0, 1]) {
      want(frame)
      painted(paints().at(-1)!.number, 1200)
    }
    expect([seen(0), seen(1) === made[1], made[0]!.closed]).toEqual([null, true, true])
  })
})
