import { beforeAll, describe, expect, it, vi } from 'vitest'
import { z } from 'zod'
import { ANCHORED } from '../../document/anchored'
import { KEY_KINDS, keyTrack, placedKeys, type KeyKind, type KeyOwner, type KeyRecord } from '../../document/keys'
import { orderOfNumber } from '../../document/order'
import { placedPanels, takeLengthFrames } from '../../document/panels'
import { moveSchema } from '../../document/records'
import { EMPTY_OUTLINE, EMPTY_TAKE, takeRef, type Film, type TakeBody } from '../../document/units'
import type { Keyable, Mix } from '../../moves/keyable'
import { createTiming, settleOf } from '../../moves/timing'
import type { MoveSpec } from '../../moves/move'
import { applyThinned, applyChange, bendMove, checkEdit, copyKeyTo, copyMove, cutShot, editKey, filmOrder, holdUntil, invertChange, moveKey, putMove, removeKeys, removePanel, retimeKeys, setPath, settleRoom, smoothKey, splitPanel, type Made } from '../index'
import { putKey } from './keys'

/**
 * A kind of key that there is not: how brightly a lamp glows. What it takes is an entry in `keys.ts`, a line in `anchored.ts`
 * and its schema in `units.ts` (3 files); all the edits of keys go by those alone.
 */
vi.mock('../../document/units', async (original) => {
  const units = await original<Record<'EMPTY_TAKE' | 'UNIT_SCHEMAS', Record<string, object>>>()
  const glow = z.strictObject({ id: z.string(), lampId: z.string(), panelId: z.string(), offsetFrames: z.int(), strength: z.number(), move: moveSchema, locked: z.boolean(), smooth: z.boolean().optional() })
  return { ...units, EMPTY_TAKE: Object.freeze({ ...units.EMPTY_TAKE, glows: Object.freeze({}) }), UNIT_SCHEMAS: { ...units.UNIT_SCHEMAS, take: { ...units.UNIT_SCHEMAS.take, glows: glow } } }
})

type Glow = KeyRecord & { readonly lampId: string; readonly strength: number }
const NUMBERS: Keyable<number> = { fields: [{ name: 'strength', of: (value) => value, least: 1e-3, turns: false }], equal: (a, b) => a === b, placeOf: () => null, turnOf: () => 0, mirrored: (value) => value }
const mix: Mix<number> = (from, to, { timing }, lengthFrames, mostSettleFrames) => {
  const share = createTiming(timing, lengthFrames, mostSettleFrames)
  const end = lengthFrames + Math.min(settleOf(timing), mostSettleFrames)
  return (frame) => (frame >= end ? to : from + (to - from) * share(frame / lengthFrames))
}
const LOCKED = new Set<string>()
type Lamps = Omit<KeyKind<number>, 'collection' | 'words'> & { readonly collection: 'glows'; readonly words: object }
const GLOWS = {
  collection: 'glows',
  words: { key: 'glow', locked: 'framing-locked', owner: 'camera', ownerLocked: 'camera-locked' },
  isOf: () => true,
  values: NUMBERS,
  mix: () => mix,
  ownerOf: (record) => (record as Glow).lampId,
  valueOf: (record) => (record as Glow).strength,
  fieldsOf: (lampId, strength) => ({ lampId, strength }),
  held: (value) => (Number.isFinite(value) ? value : null),
  ownerIn: (_take, id) => (id.startsWith('lamp') ? { locked: LOCKED.has(id) } : null),
  ownersIn: () => ['lamp1', 'lamp2'],
  rest: () => 0,
} satisfies Lamps as unknown as KeyKind<number>
beforeAll(() => {
  Object.assign(KEY_KINDS, { glows: GLOWS })
  Object.assign(ANCHORED, { glows: { owner: null, slotOf: (record: { readonly lampId?: string }) => `glow ${record.lampId}`, track: true } })
})

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const lamp1: KeyOwner<number> = { kind: GLOWS, id: 'lamp1' }
const CUSHIONED: MoveSpec = { timing: { kind: 'cushioned', leaveFrames: 4, arriveFrames: 6 }, path: { kind: 'straight' }, evenness: { kind: 'set' } }
const EVEN: MoveSpec = { ...CUSHIONED, timing: { kind: 'even' } }
const glow = (id: string, panelId: string, offsetFrames: number, strength: number, lampId = 'lamp1'): Glow => ({ id, lampId, panelId, offsetFrames, strength, move: CUSHIONED, locked: false })
const take: TakeBody = {
  ...EMPTY_TAKE,
  panels: Object.fromEntries(['p0', 'p1', 'p2'].map((id, i) => [id, { id, order: orderOfNumber(i), lengthFrames: 12, lengthLocked: false, action: '', dialogue: '', notes: '' }])),
  ...({ glows: { a: glow('a', 'p0', 2, 0), b: glow('b', 'p1', 8, 1), c: glow('c', 'p2', 9, 0.25), z: glow('z', 'p1', 0, 7, 'lamp2') } } as object),
}
const film: Film = {
  outline: {
    ...EMPTY_OUTLINE,
    project: { film: { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
    sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
    shots: { s: { id: 's', sequenceId: 'q', order: 'a0', label: '010', title: '', circledTakeId: 't' } },
    takes: { t: { id: 't', shotId: 's', order: 'a0', letter: 'A' } },
  },
  get takes() {
    return { t: take }
  },
  drawings: {},
}
let ids = 0
const newId = () => `n${++ids}`

function after(made: Made, from: Film = film): Film {
  if (!made.ok) throw new Error(made.refusal.code)
  for (const edit of made.edits) expect(checkEdit(edit)).toBeNull()
  const change = { id: newId(), label: 'x', edits: made.edits }
  const applied = applyChange(from, change)
  if (!applied.ok) throw new Error(applied.refusal.code)
  const back = applyChange(applied.value, invertChange(change, newId()))
  expect(back.ok && back.value.takes.t).toEqual(from.takes.t)
  return applied.value
}
const strengths = (of: TakeBody, owner = lamp1) => {
  const track = keyTrack(of, owner, OPTICS)
  return Array.from({ length: takeLengthFrames(of) }, (_, frame) => track.at(frame) ?? NaN)
}
const takeOf = (made: Made) => after(made).takes.t!
const near = (a: readonly number[], b: readonly number[]) => a.forEach((value, i) => expect(value, `frame ${i}`).toBeCloseTo(b[i]!, 9))
const frames = (of: TakeBody) => placedKeys(of, lamp1).map(({ frame }) => frame)

describe('a made-up kind of key', () => {
  it('put where it is under way changes no frame, and is refused where it can’t be kept or its owner is locked', () => {
    const now = takeOf(putKey(take, 't', lamp1, 9, strengths(take)[9]!, newId()))
    expect(frames(now)).toEqual([2, 9, 20, 33])
    near(strengths(now), strengths(take))
    expect(putKey(take, 't', lamp1, 9, NaN, newId())).toMatchObject({ refusal: { code: 'pose-not-finite' } })
    LOCKED.add('lamp1')
    expect(putKey(take, 't', lamp1, 9, 1, newId())).toMatchObject({ refusal: { code: 'camera-locked' } })
    expect(moveKey(take, 't', 'b', 15)).toMatchObject({ refusal: { code: 'camera-locked' } })
    LOCKED.clear()
    expect(putKey(take, 't', { kind: GLOWS, id: 'no one' }, 9, 1, newId())).toMatchObject({ refusal: { code: 'missing' } })
  })

  it('is moved, edited, scaled in time, held and removed as framings are; another owner’s stay', () => {
    expect(frames(takeOf(moveKey(take, 't', 'b', 500)))).toEqual([2, 32, 33])
    expect(frames(takeOf(retimeKeys(take, 't', lamp1, ['a', 'b'], { kind: 'shift', byFrames: 5 })))).toEqual([7, 25, 33])
    expect(frames(takeOf(retimeKeys(take, 't', lamp1, ['b', 'c'], { kind: 'scale', aboutFrame: 2, factor: 0.5 })))).toEqual([2, 11, 18])
    const held = takeOf(holdUntil(take, 't', lamp1, 11, newId()))
    expect(strengths(held).slice(0, 12)).toEqual(Array(12).fill(0))
    near(strengths(held).slice(20), strengths(take).slice(20))
    const gone = takeOf(removeKeys(take, 't', ['b']))
    expect([frames(gone), strengths(gone, { kind: GLOWS, id: 'lamp2' })[0]]).toEqual([[2, 33], 7])
    expect(strengths(takeOf(editKey(take, 't', 'a', { move: EVEN })))[11]).toBeCloseTo(0.5, 9)
    expect(editKey(takeOf(editKey(take, 't', 'a', { locked: true })), 't', 'a', { move: EVEN })).toMatchObject({ refusal: { code: 'framing-locked', id: 'a' } })
    expect([settleRoom(take, 'a'), settleRoom(take, 'b'), settleRoom(take, 'nobody')]).toEqual([12, Infinity, 0])
  })

  it('is copied, pasted and thinned; what has no place has no path to bend', () => {
    const copied = copyMove(take, lamp1, ['a', 'b'])
    expect(copied.map(({ frame, value }) => [frame, value])).toEqual([[0, 0], [18, 1]])
    const there = { ...take, ...({ glows: {} } as object) } as TakeBody
    const pasted = putMove(there, 't', lamp1, copied, 10, newId)
    expect(pasted.ok && pasted.edits[0]!.unit).toEqual(takeRef('t'))
    expect(copyKeyTo(take, 't', lamp1, 4, strengths(take)[4]!, 30, newId).ok).toBe(true)
    expect(bendMove(take, 't', 'a', 'leave', { x: 1, y: 0, depth: 0 })).toMatchObject({ refusal: { code: 'nothing-after' } })
    expect(setPath(take, 't', 'a', { kind: 'straight' }).ok).toBe(false)
    expect(smoothKey(take, 't', 'b', true).ok).toBe(true)
    const b = placedKeys(take, lamp1)[1]!.record
    expect(frames(takeOf(applyThinned(take, 't', { remove: [b], change: [] })))).toEqual([2, 33])
  })

  it('shows what it showed where its panels are split, cut into shots of their own, or go', () => {
    near(strengths(takeOf(splitPanel(take, 't', 'p1', 5, newId()))), strengths(take))
    const cut = after(cutShot(film, 'film', 's', 'p1', newId))
    near(filmOrder(cut.outline).flatMap((shot) => strengths(cut.takes[shot.circledTakeId]!)), strengths(take))
    const without = takeOf(removePanel(take, 't', 'p1', OPTICS, newId))
    expect(placedPanels(without)).toHaveLength(2)
    near(strengths(without).slice(12), strengths(take).slice(24))
  })
})
