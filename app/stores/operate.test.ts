import { placedFramings } from '@rubato/core/document'
import { bakeOperated } from '@rubato/core/edits'
import fc from 'fast-check'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { BakeAsk } from '~/workers/messages'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'
import { useOperateStore } from './operate'
import { filmOfTwo, openWindow } from './testing'

vi.mock('./soundPlayer', () => ({ useSoundPlayerStore: () => ({ begin: () => false, elapsedSeconds: () => 0, end: () => undefined }) }))
vi.mock('./finishedFrames', () => ({ useFinishedFramesStore: () => ({ playFrom: () => undefined, playEnded: () => undefined }) }))
// What its worker does, here.
vi.mock('~/clients/bakeJobs', () => ({
  bakeJobs: {
    run: async ({ take, takeId, of, optics, tolerancePx, outputWidthPx, reaches, ids }: BakeAsk) => {
      if (!('poses' in of)) throw new Error('not of a hand')
      let next = 0
      return bakeOperated(take, takeId, of.cameraId, of.from, of.poses, { optics, tolerancePx, outputWidthPx, reaches, told: () => false }, () => `${ids}-${next++}`)
    },
  },
}))

const FRAME_MS = 1000 / 24
const COUNT_IN_MS = 3 * 600

describe('working a camera by hand', () => {
  let window: ReturnType<typeof openWindow>
  let [film, desk, operate] = [] as unknown as [ReturnType<typeof useFilmStore>, ReturnType<typeof useDeskStore>, ReturnType<typeof useOperateStore>]
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    window = openWindow(filmOfTwo(60))
    film = useFilmStore()
    desk = useDeskStore()
    operate = useOperateStore()
    operate.smoothFrames = 6
    operate.tolerancePx = 2
    // The first shot is open.
    desk.goTo(0)
  })
  afterEach(() => (operate.leave(), vi.useRealTimers(), window.close()))

  const countIn = () => vi.advanceTimersByTime(COUNT_IN_MS)
  /** Goes so far to the right, fw, in so many steps of a frame each. */
  async function drag(by: number, steps: number) {
    for (let i = 0; i < steps; i++) {
      await window.turn(FRAME_MS)
      operate.move({ slideU: by / steps }, window.now)
    }
  }
  const settled = async () => {
    for (let i = 0; i < 20; i++) await Promise.resolve()
  }
  const take = () => film.film.takes.t1!
  const seenAt = (frame: number) => {
    desk.goTo(frame)
    return desk.pose!
  }

  it('counts in, keeps what the hand did as a try that is looked at, and writes it as framings that undo takes away', async () => {
    const before = take()
    operate.open()
    expect([operate.phase, operate.beats, desk.playing]).toEqual(['count', 3, false])
    vi.advanceTimersByTime(600)
    expect(operate.beats).toBe(2)
    vi.advanceTimersByTime(1200)
    expect([operate.phase, desk.playing]).toEqual(['running', true])
    await drag(0.4, 20)
    operate.open()
    await settled()
    expect([operate.phase, operate.tries.map(({ number, from, lastFrame }) => [number, from, lastFrame])]).toEqual(['review', [[1, 0, 20]]])
    // It is looked at, and not written.
    expect([placedFramings(take(), 'a'), take().panels]).toEqual([[], before.panels])
    expect(seenAt(20).x).toBeCloseTo(0.4, 5)
    expect(operate.found!.mostPx).toBeLessThanOrEqual(2)
    operate.show(true)
    expect([operate.isShown, placedFramings(take(), 'a').length > 1]).toEqual([true, true])
    operate.show(false)
    expect(placedFramings(take(), 'a')).toEqual([])
    operate.write()
    const written = placedFramings(take(), 'a')
    // Past what was operated the camera is where it was.
    expect([operate.phase, written[0]!.frame, written.at(-2)!.frame, written.at(-1)!.frame]).toEqual(['idle', 0, 20, 21])
    expect([10, 20, 21, 59].map((frame) => Number(seenAt(frame).x.toFixed(2)))).toEqual([0.2, 0.4, 0, 0])
    expect(film.undo()).toBe('operate the camera')
    expect(placedFramings(take(), 'a')).toEqual([])
    expect(film.undo()).toBe('try 1')
    expect(take()).toEqual(before)
  })

  it('ends where the hand had the camera, however short it was and whatever the screen did meanwhile', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.integer({ min: 1, max: 300 }), fc.double({ min: -0.2, max: 0.2, noNaN: true })), { minLength: 1, maxLength: 12 }), fc.integer({ min: 0, max: 30 }), async (steps, from) => {
        desk.goTo(from)
        operate.begin()
        countIn()
        let reached = 0
        for (const [ms, by] of steps) {
          await window.turn(ms)
          if (operate.phase !== 'running') break
          if (by === 0) continue
          operate.move({ slideU: by }, window.now)
          reached += by
        }
        if (operate.phase === 'running') operate.finish()
        const tried = operate.chosen
        if (tried === null) {
          expect(film.lastRefusal!.text).toContain('The camera was not moved')
          return
        }
        await settled()
        expect([tried.from, tried.from + tried.lastFrame <= 59, operate.problem]).toEqual([from, true, null])
        expect(seenAt(from + tried.lastFrame).x).toBeCloseTo(reached, 4)
        operate.remove(tried.id)
      }),
      { numRuns: 60 },
    )
  })

  it('over a part begins and ends there by itself; of a part only that is written', async () => {
    operate.begin(10, 30)
    countIn()
    await drag(0.3, 19)
    expect(operate.phase).toBe('running')
    await window.turn(2 * FRAME_MS)
    await settled()
    expect([operate.phase, operate.chosen!.from, operate.chosen!.lastFrame, desk.shotFrame]).toEqual(['review', 10, 20, 10])
    operate.part = { first: 15, last: 22 }
    await settled()
    operate.write()
    const frames = placedFramings(take(), 'a').map(({ frame }) => frame)
    expect([frames[0], frames[1], frames.at(-2), frames.at(-1)]).toEqual([0, 15, 22, 23])
  })

  it('keeps tries beside each other, goes to the one that is left when one is thrown away, and to rest with the last', async () => {
    for (const by of [0.1, 0.2, 0.3]) {
      operate.begin(0)
      countIn()
      await drag(by, 10)
      operate.finish()
    }
    expect(operate.tries.map(({ number }) => number)).toEqual([1, 2, 3])
    expect(seenAt(10).x).toBeCloseTo(0.3, 5)
    operate.remove(operate.tries[1]!.id)
    expect([operate.tries.map(({ number }) => number), operate.chosen!.number]).toEqual([[1, 3], 3])
    film.undo()
    expect(operate.tries.map(({ number }) => number)).toEqual([1, 2, 3])
    for (const each of [...operate.tries]) operate.remove(each.id)
    expect([operate.phase, operate.chosen, desk.operatedAt]).toEqual(['idle', null, null])
  })

  it('leaves nothing where it is given up, where nothing was moved, and where the artist goes to another shot', async () => {
    const before = take()
    operate.begin()
    operate.move({ slideU: 0.2 })
    expect(desk.pose!.x).toBeCloseTo(0.2, 6)
    operate.giveUp()
    expect([operate.phase, desk.pose!.x, take()]).toEqual(['idle', 0, before])
    vi.advanceTimersByTime(COUNT_IN_MS)
    expect([operate.phase, desk.playing]).toEqual(['idle', false])
    desk.goTo(7)
    operate.begin()
    countIn()
    await window.turn(300)
    expect(desk.shotFrame).toBeGreaterThan(7)
    operate.finish()
    // It is where it began, for another go at the same.
    expect([operate.phase, take(), desk.shotFrame, film.lastRefusal!.text.split(':')[0]]).toEqual(['idle', before, 7, 'The camera was not moved'])
    operate.begin()
    countIn()
    await window.turn(300)
    operate.giveUp()
    expect([operate.phase, take(), desk.shotFrame]).toEqual(['idle', before, 7])
    operate.begin()
    desk.goTo(90)
    await window.turn(0)
    expect([operate.phase, desk.operatedAt, desk.playhead, take()]).toEqual(['idle', null, 90, before])
  })

  it('says why it does not begin: no camera, a locked one, the shot’s end, a version', async () => {
    const told = () => film.lastRefusal?.text ?? ''
    desk.goTo(59)
    operate.begin()
    expect([operate.phase, told()]).toEqual(['idle', expect.stringContaining('The shot ends here')])
    desk.goTo(0)
    film.film = { ...film.film, takes: { ...film.film.takes, t1: { ...take(), cameras: { a: { ...take().cameras.a!, locked: true } } } } }
    operate.begin()
    expect(told()).toContain('Camera A is locked')
    film.film = { ...film.film, takes: { ...film.film.takes, t1: { ...take(), cameras: {} } } }
    operate.begin()
    expect([operate.phase, told()]).toEqual(['idle', expect.stringContaining('There is no camera here')])
  })
})
