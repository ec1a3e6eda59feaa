import { EMPTY_OUTLINE } from '@rubato/core/document'
import fc from 'fast-check'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'
import { usePlaybackStore } from './playback'
import { filmOfTwo, openWindow } from './testing'
import { useTimingStore } from './timing'

/** The sound's clock, moved by hand. `seconds` null: its device is gone. */
const sound = vi.hoisted(() => ({ takes: false, seconds: 0 as number | null, begun: [] as [frame: number, rate: number, loops: boolean][], ended: 0 }))
vi.mock('./soundPlayer', () => ({
  useSoundPlayerStore: () => ({
    begin: (frame: number, rate: number, loop: object | null) => (sound.begun.push([frame, rate, loop !== null]), (sound.seconds = 0), sound.takes),
    elapsedSeconds: () => sound.seconds,
    end: () => void sound.ended++,
  }),
}))
const played = vi.hoisted(() => [] as (string | number)[])
vi.mock('./finishedFrames', () => ({ useFinishedFramesStore: () => ({ playFrom: (frame: number, step: number) => void played.push(frame, step), playEnded: () => void played.push('ended') }) }))

describe('playback', () => {
  let window: ReturnType<typeof openWindow>
  let stores: { playback: ReturnType<typeof usePlaybackStore>; desk: ReturnType<typeof useDeskStore>; timing: ReturnType<typeof useTimingStore> }
  const turn = (ms: number) => {
    if (sound.seconds !== null) sound.seconds += ms / 1000
    return window.turn(ms)
  }
  beforeEach(() => {
    Object.assign(sound, { takes: false, seconds: 0, begun: [], ended: 0 })
    played.length = 0
    window = openWindow()
    stores = { playback: usePlaybackStore(), desk: useDeskStore(), timing: useTimingStore() }
    stores.timing.loop = 'off'
  })
  afterEach(() => (stores.playback.stop(), window.close()))

  it('shows the frame that is due on its clock, tells what it left out, and stops on the last', async () => {
    const { playback, desk } = stores
    desk.goTo(10)
    playback.play()
    expect([desk.playing, desk.playhead, played]).toEqual([true, 10, [10, 1]])
    await turn(1000 / 24)
    expect(desk.playhead).toBe(11)
    // A screen that stands still for a quarter of a second leaves frames out; the time of the film goes on.
    await turn(250)
    expect([desk.playhead, playback.dropped, playback.shown]).toEqual([17, 5, 2])
    await turn(2000)
    expect([desk.playing, desk.playhead, played.at(-1), window.waiting]).toEqual([false, 47, 'ended', null])
    // From its end it begins anew.
    playback.play()
    expect(desk.playhead).toBe(0)
  })

  it('shows and leaves out every frame once, whatever the screen does, and is never before its clock', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.integer({ min: 1, max: 180 }), { minLength: 3, maxLength: 60 }), fc.constantFrom(0.25, 0.5, 1, 1.5, 2), async (waits, speed) => {
        const { playback, desk, timing } = stores
        timing.speed = speed
        desk.goTo(0)
        playback.play()
        let passed = 0
        for (const ms of waits) {
          await turn(ms)
          passed += ms
          const due = Math.floor((passed / 1000) * 24 * speed + 1e-6)
          if (due >= 48) {
            expect([desk.playing, desk.playhead]).toEqual([false, 47])
            return
          }
          expect(desk.playhead).toBe(due)
          // Faster than itself it passes over frames on purpose: those are not left out.
          const told = playback.shown + playback.dropped
          expect(speed <= 1 ? told === due : told <= due && told >= Math.floor(due / speed) - 1).toBe(true)
        }
        playback.stop()
      }),
      { numRuns: 100 },
    )
  })

  it('goes round in what it loops, either way, and takes up a loop that is set meanwhile', async () => {
    const { playback, desk, timing } = stores
    timing.loop = 'shot'
    desk.goTo(40)
    playback.play()
    await turn(500)
    // Twelve frames on from 40, in the shot from 24 to 47.
    expect(desk.playhead).toBe(28)
    timing.loop = 'film'
    await turn(1000 / 24)
    expect(sound.begun.at(-1)).toEqual([28, 1, true])
    await turn(1000)
    expect(desk.playhead).toBe((28 + 24) % 48)
    playback.stop()
    timing.loop = 'shot'
    desk.goTo(26)
    playback.shuttle(-1)
    await turn(250)
    expect(desk.playhead).toBe(44)
  })

  it('goes by the sound’s clock where there is sound, and on by the machine’s where its device goes', async () => {
    const { playback, desk } = stores
    sound.takes = true
    playback.play()
    expect(sound.begun).toEqual([[0, 1, false]])
    // The sound is a little late: the picture waits for it.
    sound.seconds = -0.2
    await turn(100)
    expect(desk.playhead).toBe(0)
    await turn(350)
    expect(desk.playhead).toBe(6)
    sound.seconds = null
    await turn(5)
    expect(desk.playhead).toBe(6)
    await turn(500)
    expect(desk.playhead).toBe(18)
    playback.stop()
    expect(sound.ended).toBe(1)
  })

  it('shuttles: again is faster, the other way slower, then round', async () => {
    const { playback, desk } = stores
    desk.goTo(20)
    const rates = [1, 1, 1, 1, 1, -1, -1, -1, -1, -1].map((direction) => (playback.shuttle(direction as 1 | -1), playback.rateNow))
    expect(rates).toEqual([1, 2, 4, 8, 8, 4, 2, 1, -1, -2])
    expect(played.slice(-2)).toEqual([20, -1])
    await turn(250)
    expect(desk.playhead).toBe(8)
    await turn(250)
    expect([desk.playing, desk.playhead]).toEqual([false, 0])
  })

  it('lowers quality where the picture is slow, never the frames that are due, and gives it back when it stops', () => {
    const { playback, timing } = stores
    playback.play()
    for (let i = 0; i < 5; i++) playback.reportDraw(60)
    expect(playback.quality).toBe(1)
    playback.reportDraw(60)
    expect(playback.quality).toBe(0.5)
    // One slow frame among quick ones is no reason.
    for (const ms of [5, 5, 90, 5, 5, 5]) playback.reportDraw(ms)
    expect(playback.quality).toBe(0.5)
    for (let i = 0; i < 12; i++) playback.reportDraw(60)
    expect(playback.quality).toBe(0.25)
    playback.stop()
    expect([playback.quality, playback.playedQuality]).toEqual([1, 0.25])
    timing.wantedQuality = 0.5
    playback.play()
    for (let i = 0; i < 12; i++) playback.reportDraw(60)
    expect(playback.quality).toBe(0.5)
    timing.wantedQuality = 'auto'
  })

  it('of a film with no frames does nothing; with taps it goes to the film’s end and is not shuttled', async () => {
    const { playback, desk, timing } = stores
    timing.loop = 'shot'
    timing.speed = 2
    const told: number[] = []
    playback.play((elapsed) => void told.push(elapsed))
    expect(playback.rateNow).toBe(1)
    playback.shuttle(1)
    playback.setSpeed(0.5)
    expect([playback.rateNow, timing.speed]).toEqual([1, 0.5])
    await turn(1000)
    expect([told, desk.playhead]).toEqual([[24], 24])
    await turn(1500)
    expect([desk.playing, told.at(-1)]).toEqual([false, 60])
    useFilmStore().film = { ...filmOfTwo(), outline: EMPTY_OUTLINE }
    playback.play()
    playback.shuttle(1)
    expect([desk.playing, playback.elapsedExactly(0), playback.elapsedAgo(1)]).toEqual([false, 0, 0])
  })
})
