import { cellIdOf, EMPTY_OUTLINE, EMPTY_TAKE, UNIT_KINDS, type Drawing, type Film, type TakeBody, type Unit } from '@rubato/core/document'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { shallowRef } from 'vue'
import type { LoadedUnit } from '~/api/units'
import { createUnits } from './units'

/** What the server has, and what it was asked for; an answer waits where `held` says so. */
const server = vi.hoisted(() => ({ units: {} as Record<string, LoadedUnit>, asked: [] as string[], held: null as Promise<void> | null }))
vi.mock('~/api/units', () => {
  const load = (kind: string) => async (projectId: string, version: string | null, ids: readonly string[]) => {
    server.asked.push(`${projectId} ${version ?? 'now'} ${kind} ${ids.join()}`)
    await server.held
    return ids.flatMap((id) => server.units[`${kind}:${id}`] ?? [])
  }
  return { UNIT_LOADERS: { take: load('take'), drawing: load('drawing'), song: load('song') } }
})

const drawing = (points: number): Drawing => ({ marks: [{ id: 'm', order: 'a0', kind: 'stroke', mode: 'ink', points: Array.from({ length: points }, () => 0.5), widthFw: 0.01, colour: '#000000', opacity: 1 }] })
/** A take whose one level shows a drawing of its own. */
const take = (name: string): TakeBody => ({
  ...EMPTY_TAKE,
  panels: { p: { id: 'p', order: 'a0', lengthFrames: 12, lengthLocked: false, action: name, dialogue: '', notes: '' } },
  levels: { l: { id: 'l', order: 'a0', name: 'l', kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false } },
  cells: { [cellIdOf('l', 'p')]: { id: cellIdOf('l', 'p'), levelId: 'l', panelId: 'p', drawingId: `d-${name}` } },
})
const has = (kind: string, id: string, unit: Unit, revision = 1) => void (server.units[`${kind}:${id}`] = { id, revision, unit })

function setUp({ busy = () => false, version = null, isFresh = () => true }: { busy?: () => boolean; version?: string | null; isFresh?: () => boolean } = {}) {
  const film = shallowRef<Film>({ outline: EMPTY_OUTLINE, takes: {}, drawings: {} })
  const revisions = new Map<string, number>()
  const left: string[] = []
  let projectId: string | null = 'film'
  const units = createUnits({ film, projectId: () => projectId, version: () => version, revisions, isFresh, inPlace: (work) => work(), busy, waiting: () => [], onLeaving: (takes) => left.push(...takes.map(([id]) => id)) })
  return { film, revisions, left, units, close: () => (projectId = null) }
}

beforeEach(() => {
  Object.assign(server, { units: {}, asked: [], held: null })
})

describe('units of a film', () => {
  it('are asked for once, together, and only those that are not there', async () => {
    for (const name of ['a', 'b']) has('take', name, take(name), 3)
    const { film, revisions, units } = setUp()
    await Promise.all([units.ensure('take', ['a', 'b', 'a']), units.ensure('take', ['b'])])
    await units.ensure('take', ['a'])
    expect(server.asked).toEqual(['film now take a,b'])
    expect([Object.keys(film.value.takes), Object.fromEntries(revisions)]).toEqual([['a', 'b'], { 'take:a': 3, 'take:b': 3 }])
  })

  it('of a version are asked for there', async () => {
    has('drawing', 'd', drawing(2))
    const { units, film } = setUp({ version: 'v1' })
    await units.ensure('drawing', ['d'])
    expect([server.asked, Object.keys(film.value.drawings)]).toEqual([['film v1 drawing d'], ['d']])
  })

  it('that were changed while they came stay as they were changed', async () => {
    has('take', 'a', take('from the server'))
    let go: () => void = () => undefined
    server.held = new Promise((resolve) => (go = resolve))
    const { film, units } = setUp()
    const coming = units.ensure('take', ['a'])
    film.value = { ...film.value, takes: { a: take('mine') } }
    go()
    await coming
    expect(film.value.takes.a!.panels.p!.action).toBe('mine')
  })

  it('do not come into a film that was closed meanwhile', async () => {
    has('take', 'a', take('a'))
    const { film, units, close } = setUp()
    const coming = units.ensure('take', ['a'])
    close()
    await coming
    expect(film.value.takes).toEqual({})
  })

  it('are asked for again where news has overtaken the answer', async () => {
    has('take', 'a', take('a'))
    let answers = 0
    const { units } = setUp({ isFresh: () => ++answers > 2 })
    await units.ensure('take', ['a'])
    expect(server.asked).toHaveLength(3)
  })

  it('come with every drawing they show', async () => {
    has('take', 'a', take('a'))
    has('drawing', 'd-a', drawing(4))
    const { film, units } = setUp()
    await units.ensureTakeWithArt('a')
    expect([server.asked, Object.keys(film.value.drawings)]).toEqual([['film now take a', 'film now drawing d-a'], ['d-a']])
  })

  it('used longest ago leave memory when there is too much, with their drawings; not while something is done', async () => {
    const names = Array.from({ length: 12 }, (_, i) => `t${i}`)
    for (const name of names) {
      has('take', name, take(name))
      // Some 4 MB each.
      has('drawing', `d-${name}`, drawing(500_000))
    }
    let busy = true
    const { film, units, left, revisions } = setUp({ busy: () => busy })
    for (const name of names.slice(0, 11)) await units.ensureTakeWithArt(name)
    expect([left, Object.keys(film.value.takes).length]).toEqual([[], 11])
    busy = false
    await units.ensureTakeWithArt('t11')
    // The six last wanted stay whatever they cost.
    expect(left).toEqual(['t0', 't1', 't2', 't3', 't4', 't5'])
    expect(Object.keys(film.value.drawings)).toEqual(['t6', 't7', 't8', 't9', 't10', 't11'].map((name) => `d-${name}`))
    expect([revisions.has('take:t0'), revisions.has('drawing:d-t0'), revisions.has('take:t11')]).toEqual([false, false, true])
    await units.ensureTakeWithArt('t0')
    expect(server.asked.slice(-2)).toEqual(['film now take t0', 'film now drawing d-t0'])
  })

  it('of a kind that there is not yet are loaded as the others are', async () => {
    Object.assign(UNIT_KINDS, { song: { home: 'songs', empty: { notes: {} }, schemas: {}, open: null, problems: () => [] } })
    has('song', 's', { notes: { n: { id: 'n' } } } as never, 4)
    const { film, revisions, units } = setUp()
    await units.ensure('song' as never, ['s'])
    expect((film.value as unknown as { songs: object }).songs).toEqual({ s: { notes: { n: { id: 'n' } } } })
    expect(revisions.get('song:s')).toBe(4)
    delete (UNIT_KINDS as Record<string, unknown>).song
  })
})
