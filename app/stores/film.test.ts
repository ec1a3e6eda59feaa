import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { JournalEntry } from '#shared/live'
import type { LoadedUnit } from '~/api/units'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'
import { filmOfTwo, openWindow } from './testing'

/** The server: its takes, and what it tells. */
const server = vi.hoisted(() => ({ takes: {} as Record<string, LoadedUnit>, tell: null as ((entry: JournalEntry) => void) | null }))
vi.mock('~/api/live', () => ({ openLive: (_: string, __: unknown, { onEntry }: { onEntry: (entry: JournalEntry) => void }) => ((server.tell = onEntry), { moved: () => undefined, end: () => undefined }) }))
vi.mock('~/api/units', () => ({ UNIT_LOADERS: { take: async (_: string, __: null, ids: readonly string[]) => ids.flatMap((id) => server.takes[id] ?? []) } }))
vi.mock('~/api/client', () => ({ api: { openProject: async () => ({ outline: filmOfTwo().outline, outlineRevision: 1, journalSeq: 5, takeLengths: { t1: 24, t2: 24 }, takePanels: { t1: 1, t2: 1 } }) } }))

const lengthened = (takeLengths: Record<string, number>): JournalEntry => ({ seq: 6, change: { id: 'c', label: 'length', edits: [] }, author: 'Ines', revisions: { 'take:t1': 2 }, takeLengths, takePanels: {} })
const held = (lengthFrames: number): LoadedUnit => ({ id: 't1', revision: 2, unit: filmOfTwo(lengthFrames).takes.t1! })

describe('an open film', () => {
  let window: ReturnType<typeof openWindow>
  beforeEach(() => {
    Object.assign(server, { takes: {}, tell: null })
    window = openWindow()
  })
  afterEach(() => (useFilmStore().close(), window.close()))

  async function standInTheSecond() {
    const [film, desk] = [useFilmStore(), useDeskStore()]
    await film.open('f')
    desk.goToShot('s2')
    desk.goTo(desk.playhead + 7)
    return { film, desk, where: () => [desk.shotId, desk.shotFrame, desk.playhead] }
  }

  it('leaves the artist at their frame of their shot when another makes a shot before it longer or shorter, loaded or not', async () => {
    const { desk, where } = await standInTheSecond()
    expect(where()).toEqual(['s2', 7, 31])
    const looked = { shotId: 's2', frame: 7, pose: { x: 0.2 } as never }
    desk.trial = looked
    server.tell!(lengthened({ t1: 72 }))
    await nextTick()
    // What they only look at stays too.
    expect([where(), desk.trial, desk.trialHere]).toEqual([['s2', 7, 79], looked, looked.pose])
    server.tell!({ ...lengthened({ t1: 2 }), seq: 7, revisions: { 'take:t1': 3 } })
    expect(where()).toEqual(['s2', 7, 9])
  })

  it('does so too when a take is read that is longer than was told', async () => {
    const { film, where } = await standInTheSecond()
    server.takes.t1 = held(60)
    await film.ensure('take', ['t1'])
    expect(where()).toEqual(['s2', 7, 67])
  })

  it('keeps the playhead within itself: it waits while a drag makes the film shorter, and stays where that is kept', async () => {
    const [film, desk] = [useFilmStore(), useDeskStore()]
    film.film = filmOfTwo()
    desk.goTo(40)
    const gesture = film.beginGesture('length')
    film.film = filmOfTwo(10)
    await nextTick()
    expect([desk.playhead, desk.shotId, desk.shotFrame]).toEqual([19, 's2', 9])
    film.film = filmOfTwo()
    await nextTick()
    expect(desk.playhead).toBe(40)
    gesture.abandon()
    film.film = filmOfTwo(10)
    await nextTick()
    film.film = filmOfTwo()
    await nextTick()
    expect(desk.playhead).toBe(19)
    // Read anew, as after a backup was brought back, it is where it was.
    film.close()
    await nextTick()
    expect(desk.playhead).toBe(0)
    await film.open('f')
    await nextTick()
    expect(desk.playhead).toBe(19)
  })

  it('leaves them at the last frame where their own shot has become shorter than that', async () => {
    const { where } = await standInTheSecond()
    server.tell!({ ...lengthened({ t2: 5 }), revisions: { 'take:t2': 2 } })
    expect(where()).toEqual(['s2', 4, 28])
  })
})
