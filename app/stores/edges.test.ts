import type { Finding } from '@rubato/core/checks'
import { setPanelLength } from '@rubato/core/edits'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { EdgesAnswer, EdgesAsk } from '~/workers/messages'
import { useDeskStore } from './desk'
import { useEdgesStore } from './edges'
import { useFilmStore } from './film'
import { openWindow } from './testing'

/** The worker: what it was told, and what it says. */
const worker = vi.hoisted(() => ({ told: [] as unknown[], ears: null as { answer(answer: unknown): void; stopped(why: Error): void } | null }))
vi.mock('~/clients/workerLine', () => ({
  createWorkerLine: (_: unknown, ears: typeof worker.ears) => {
    worker.ears = ears
    return { running: true, send: (ask: unknown) => void worker.told.push(ask), end: () => undefined }
  },
}))

const IDLE_MS = 700
const finding = (id: string, worstFrame: number, about = 'as it is'): Finding => ({ id, kind: 'runs-out', levelId: null, side: 'right', ranges: [[worstFrame, worstFrame + 2]], worstFrame, cameraId: 'a', amount: 0.1, artFw: 0.1, about, bare: null })

describe('where art ends, looked for by itself', () => {
  let window: ReturnType<typeof openWindow>
  let [film, desk, edges] = [] as unknown as [ReturnType<typeof useFilmStore>, ReturnType<typeof useDeskStore>, ReturnType<typeof useEdgesStore>]
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    worker.told.length = 0
    window = openWindow()
    vi.stubGlobal('location', { origin: 'http://here' })
    film = useFilmStore()
    film.projectId = 'f'
    desk = useDeskStore()
    desk.view = 'desk'
    desk.goTo(0)
    edges = useEdgesStore()
    edges.byItself = true
  })
  afterEach(() => (vi.useRealTimers(), window.close()))

  const told = () => worker.told as EdgesAsk[]
  const checks = () => told().filter((ask) => ask.kind === 'check')
  const answer = (said: EdgesAnswer) => worker.ears!.answer(said)
  const found = (number: number, key: string, findings: readonly Finding[], anyArt = true) => answer({ kind: 'found', key, number, findings, frames: 24, again: 24, anyArt, tookMs: 1 })
  const settled = async () => {
    for (let i = 0; i < 12; i++) await Promise.resolve()
  }
  const rest = async (ms = IDLE_MS) => {
    await settled()
    vi.advanceTimersByTime(ms)
    await settled()
  }
  const lengthen = (frames: number) => film.perform('length', (f) => setPanelLength(f.takes.t1!, 't1', 'p', frames))

  it('waits until the hand rests, and looks at the shot that is open as it is then', async () => {
    await rest(IDLE_MS - 1)
    expect(told()).toEqual([])
    lengthen(30)
    await rest(IDLE_MS - 1)
    expect(told()).toEqual([])
    await rest(1)
    expect(told().map(({ kind }) => kind)).toEqual(['begin', 'check'])
    expect(checks()[0]).toMatchObject({ key: 't1', take: { panels: { p: { lengthFrames: 30 } } } })
    expect(edges.running).toEqual({ takeId: 't1', done: 0, total: 1 })
    answer({ kind: 'progress', key: 't1', number: checks()[0]!.number, done: 3, total: 30 })
    expect(edges.running?.done).toBe(3)
    found(checks()[0]!.number, 't1', [finding('x', 4)])
    expect([edges.running, edges.here.map(({ id }) => id)]).toEqual([null, ['x']])
    // The same shot is not looked at again, whatever is looked at.
    desk.goTo(5)
    expect(await edges.look('t1')).toBe(true)
    expect(checks()).toHaveLength(1)
  })

  it('does nothing while it plays, while something is dragged, away from the Desk, and where it is switched off', async () => {
    desk.playing = true
    lengthen(25)
    await rest()
    desk.playing = false
    const gesture = film.beginGesture('length')
    gesture.update((f) => setPanelLength(f.takes.t1!, 't1', 'p', 26))
    await rest()
    expect(told()).toEqual([])
    desk.view = 'boards'
    gesture.abandon()
    await rest()
    desk.view = 'desk'
    edges.byItself = false
    await rest()
    expect(told()).toEqual([])
    edges.byItself = true
    await rest()
    expect(checks()).toHaveLength(1)
  })

  it('an edit makes what is under way worthless: only what was found of the shot as it is now is told', async () => {
    await rest()
    const first = checks()[0]!.number
    const before = edges.look('t1')
    lengthen(40)
    await rest()
    expect(await before).toBe(false)
    const second = checks()[1]!.number
    found(first, 't1', [finding('old', 1)])
    expect(edges.here).toEqual([])
    found(second, 't1', [finding('new', 1)])
    expect(edges.here.map(({ id }) => id)).toEqual(['new'])
    // Undone, it is another shot again.
    film.undo()
    await rest()
    expect(checks()).toHaveLength(3)
  })

  it('gives the machine to the hand that only looks, and begins again when it rests', async () => {
    await rest()
    for (let x = 1; x <= 3; x++) {
      desk.trial = { shotId: 's1', frame: 0, pose: { ...desk.pose!, x } }
      await rest(IDLE_MS - 1)
    }
    expect([told().map(({ kind }) => kind), edges.running]).toEqual([['begin', 'check', 'cancel'], null])
    await rest(1)
    expect([checks().length, edges.running?.takeId]).toEqual([2, 't1'])
    found(checks()[1]!.number, 't1', [])
    // Giving up what was looked at changes nothing of the shot.
    desk.trial = null
    await rest()
    expect(checks()).toHaveLength(2)
  })

  it('goes to another shot without waiting for the one that was left', async () => {
    await rest()
    desk.goTo(30)
    await rest()
    expect(told().map(({ kind }) => kind)).toEqual(['begin', 'check', 'cancel', 'check'])
    expect([edges.running?.takeId, checks()[1]!.key]).toEqual(['t2', 't2'])
  })

  it('looks through the film shot by shot, told how far it is, and stops where it is told to', async () => {
    edges.byItself = false
    const over = edges.lookThroughFilm()
    await settled()
    expect(edges.whole).toEqual({ done: 0, total: 2, label: 's1' })
    // Twice at once is once.
    void edges.lookThroughFilm()
    found(checks()[0]!.number, 't1', [])
    await settled()
    expect(edges.whole).toEqual({ done: 1, total: 2, label: 's2' })
    edges.stop()
    await over
    expect([edges.whole, edges.running, [...edges.looked.keys()], told().at(-1)]).toEqual([null, null, ['t1'], { kind: 'cancel', key: 't2' }])
  })

  it('goes from finding to finding and from shot to shot, and round; what is meant so is passed over until it is another', async () => {
    edges.byItself = false
    const [one, two] = [edges.look('t1'), edges.look('t2')]
    found(checks()[0]!.number, 't1', [finding('x', 4), finding('y', 9)])
    found(checks()[1]!.number, 't2', [finding('z', 3)])
    expect([await one, await two]).toEqual([true, true])
    const visited = Array.from({ length: 4 }, () => (edges.next(), [edges.chosenId, desk.playhead]))
    expect(visited).toEqual([['x', 4], ['y', 9], ['z', 27], ['x', 4]])
    expect(edges.atFrame.map(({ id }) => id)).toEqual(['x'])
    edges.accept(finding('x', 4), 'a mask')
    expect([edges.meantOf('t1', finding('x', 4)), edges.meantOf('t1', finding('x', 4, 'another')), edges.speakingHere.map(({ id }) => id)]).toEqual(['a mask', null, ['y']])
    expect(film.undo()).toBe('meant so')
    expect(edges.speakingHere.map(({ id }) => id)).toEqual(['x', 'y'])
    edges.accept(finding('x', 4), '')
    edges.speakAgain('x')
    expect(edges.speaking('t1')).toHaveLength(2)
  })

  it('tells of all shots at once those in which anything speaks, and of one that has left memory what it told before', async () => {
    edges.byItself = false
    void edges.look('t1')
    void edges.look('t2')
    found(checks()[0]!.number, 't1', [finding('x', 4), finding('y', 9)])
    found(checks()[1]!.number, 't2', [])
    const speaks = () => [...edges.speakingIn].map(([id, all]) => [id, all.map((each) => each.id)])
    expect(speaks()).toEqual([['t1', ['x', 'y']]])
    edges.accept(finding('x', 4), 'a mask')
    expect(speaks()).toEqual([['t1', ['y']]])
    // Nothing of it is another: the same list.
    expect(edges.speaking('t1')).toBe(edges.speaking('t1'))
    film.film = { ...film.film, takes: { t2: film.film.takes.t2! } }
    expect([film.takeOf('t1'), speaks()]).toEqual([null, [['t1', ['y']]]])
    // Another film has nothing of it.
    film.projectId = 'g'
    await settled()
    expect(speaks()).toEqual([])
  })

  it('says what there is to say where nothing is found', async () => {
    edges.byItself = false
    edges.next()
    expect(film.lastRefusal!.text).toBe('Nothing has been looked through yet.')
    const over = edges.look('t1')
    found(checks()[0]!.number, 't1', [], false)
    await over
    edges.next()
    expect(film.lastRefusal!.text).toContain('nothing is drawn yet')
  })

  it('begins anew after its worker stopped by itself, says so, and never takes that for an answer', async () => {
    edges.byItself = false
    const first = edges.look('t1')
    worker.ears!.stopped(new Error('out of memory'))
    expect([await first, edges.running, edges.trouble]).toEqual([false, null, 'The check stopped by itself (out of memory). It goes on with the next change.'])
    const again = edges.look('t1')
    found(checks()[1]!.number, 't1', [finding('x', 4)])
    expect([await again, told().filter(({ kind }) => kind === 'begin').length, edges.trouble]).toEqual([true, 2, null])
    const mending = edges.tryMend(finding('x', 4), 'larger')
    await settled()
    worker.ears!.stopped(new Error('out of memory'))
    await mending
    expect([film.lastRefusal!.text, edges.working, edges.trial]).toEqual(['The mend could not be worked out: out of memory. Nothing was changed; try it again.', null, null])
    // What it knew is gone: the shot is looked at before it is mended.
    void edges.tryMend(finding('x', 4), 'larger')
    await settled()
    expect(told().slice(-2).map(({ kind }) => kind)).toEqual(['begin', 'check'])
    found(checks().at(-1)!.number, 't1', [finding('x', 4)])
    await settled()
    expect(told().at(-1)).toMatchObject({ kind: 'mend', key: 't1' })
    answer({ kind: 'mended', key: 't1', number: (told().at(-1) as { number: number }).number, mend: null })
    await settled()
    expect(film.lastRefusal!.text).toContain('No larger level closes every frame')
  })

  it('forgets what it found when another film is opened', async () => {
    edges.byItself = false
    const over = edges.lookThroughFilm()
    await settled()
    film.projectId = 'another'
    await over
    expect([edges.whole, edges.running, edges.looked.size, edges.trouble]).toEqual([null, null, 0, null])
  })
})
