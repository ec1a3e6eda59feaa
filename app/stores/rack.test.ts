import { cellIdOf, EMPTY_DRAWING, orderOfNumber, type Film, type Level } from '@rubato/core/document'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'
import { useRackStore } from './rack'
import { filmOfTwo, openWindow } from './testing'

const level = (id: string, depth: number): Level => ({ id, order: orderOfNumber(depth), name: id, kind: 'drawn', x: 0, y: 0, depth, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false })
/** A film whose first shot has two levels, drawn as squares of one fw. */
function filmWithLevels(): Film {
  const film = filmOfTwo()
  const body = film.takes.t1!
  const cells = Object.fromEntries(['near', 'far'].map((id) => [cellIdOf(id, 'p'), { id: cellIdOf(id, 'p'), levelId: id, panelId: 'p', drawingId: `d-${id}` }]))
  const square = { ...EMPTY_DRAWING, marks: [{ id: 'm', order: 'a1', kind: 'fill' as const, mode: 'ink' as const, outlines: [[-0.5, -0.5, 0.5, -0.5, 0.5, 0.5, -0.5, 0.5]], colour: '#112233', opacity: 1 }] }
  return { ...film, takes: { ...film.takes, t1: { ...body, levels: { near: level('near', 0), far: level('far', 1) }, cells } }, drawings: { 'd-near': square, 'd-far': square } }
}

describe('what the depth rack tells', () => {
  let window: ReturnType<typeof openWindow>
  let [desk, rack] = [] as unknown as [ReturnType<typeof useDeskStore>, ReturnType<typeof useRackStore>]
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'Date'] })
    window = openWindow(filmWithLevels())
    desk = useDeskStore()
    desk.goTo(0)
    rack = useRackStore()
  })
  afterEach(() => (vi.useRealTimers(), window.close()))
  const rounded = (value: number | undefined) => Number(value?.toFixed(6))
  const look = (depth: number) => {
    desk.trial = { shotId: 's1', frame: 0, pose: { ...desk.stage!.poseAt(0), depth } }
    return nextTick()
  }

  it('is the field at a level and what its art has to spare there', () => {
    // One fw wide at the picture plane, and (z + 1) / z as wide a frame width behind it.
    const z = 50 / 36
    expect(['near', 'far'].map((id) => rounded(rack.readFacts.get(id)?.fieldFw))).toEqual([1, rounded((z + 1) / z)])
    expect(rounded(rack.facts.get('near')!.over!.left)).toBe(0)
    expect(rack.facts.get('far')!.over!.left).toBeLessThan(0)
    expect([...rack.readNear.keys()]).toEqual([])
  })

  it('is read five times a second while the camera moves, and exactly when it rests; what is counted with is never late', async () => {
    const field = (facts: typeof rack.facts) => rounded(facts.get('near')?.fieldFw)
    const told = new Set<number>()
    for (let step = 1; step <= 60; step++) {
      await look(-(50 / 36) - step / 100)
      expect(field(rack.facts)).toBe(rounded((50 / 36 + step / 100) / (50 / 36)))
      told.add(field(rack.readFacts))
      window.now += 16
      vi.advanceTimersByTime(16)
    }
    // A second of it: some five, and not sixty.
    expect(told.size).toBeGreaterThan(3)
    expect(told.size).toBeLessThan(8)
    vi.advanceTimersByTime(200)
    await nextTick()
    expect(field(rack.readFacts)).toBe(field(rack.facts))
    // Let go, it is as it was at once: it had rested.
    window.now += 200
    desk.trial = null
    await nextTick()
    expect(field(rack.readFacts)).toBe(1)
  })

  it('says which levels are too near to be told apart', async () => {
    const film = useFilmStore()
    const take = film.film.takes.t1!
    window.now += 200
    film.film = { ...film.film, takes: { ...film.film.takes, t1: { ...take, levels: { ...take.levels, far: level('far', 0.0005) } } } }
    await nextTick()
    expect([...rack.readNear.keys()].sort()).toEqual(['far', 'near'])
    expect(rack.near.get('near')).toEqual(rack.readNear.get('near'))
  })
})
