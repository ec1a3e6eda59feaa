import { orderOfNumber } from '../document'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Transition } from '../document'
import { createFilmStage, mostTransitionFrames, partsOf, soundCrossings, transitionShare } from './index'

const shot = (id: string, order: number) => ({ id, sequenceId: 's', order: orderOfNumber(order), label: id, title: '', circledTakeId: `t-${id}` })
const transition = (id: string, fields: Partial<Transition> = {}): Transition => ({ id, at: 'cut', kind: 'dissolve', lengthFrames: 8, place: 'centre', angleDegrees: 0, softness: 0, colour: '#000000', soundToo: false, ...fields })
const filmOf = (lengths: readonly number[], transitions: readonly Transition[]) =>
  createFilmStage(
    {
      sequences: { s: { id: 's', order: 'a1', label: '01', title: '', targetFrames: null } },
      shots: Object.fromEntries(lengths.map((_, i) => [`n${i}`, shot(`n${i}`, i)])),
      transitions: Object.fromEntries(transitions.map((each) => [each.id, each])),
    },
    (takeId) => lengths[Number(takeId.slice(3))]!,
  )

describe('transitions in the film', () => {
  it('lie on both sides of the cut, or on one', () => {
    expect(partsOf(transition('b', { lengthFrames: 7 }))).toEqual({ before: 3, after: 4 })
    const spans = (['centre', 'before', 'after'] as const).map((place) => filmOf([20, 20], [transition('n1', { place })]).transitions.map(({ from, to }) => [from, to]))
    expect(spans).toEqual([[[16, 24]], [[12, 20]], [[20, 28]]])
  })

  it('show both shots, the one that goes past its end and the one that comes before its start', () => {
    const film = filmOf([20, 20], [transition('n1', { lengthFrames: 4 })])
    expect(film.shownAt(17, () => null)).toMatchObject({ kind: 'view', takeId: film.shots[0]!.shot.circledTakeId, frame: 17 })
    expect(film.shownAt(18, () => null)).toMatchObject({ kind: 'mix', before: { frame: 18 }, after: { frame: -2 }, share: 0.2 })
    expect(film.shownAt(21, () => null)).toMatchObject({ kind: 'mix', before: { frame: 21 }, after: { frame: 1 }, share: 0.8 })
    expect(film.shownAt(22, () => null)).toMatchObject({ kind: 'view', takeId: film.shots[1]!.shot.circledTakeId, frame: 2 })
  })

  it('come out of a colour from the first frame, and are all colour in the last', () => {
    const film = filmOf([20], [transition('film-start', { at: 'start', kind: 'colour' }), transition('film-end', { at: 'end', kind: 'colour' })])
    expect(film.shownAt(0, () => null)).toMatchObject({ kind: 'mix', share: 0, before: null, after: { frame: 0 } })
    expect(film.shownAt(7, () => null)).toMatchObject({ share: 7 / 8 })
    expect(film.shownAt(19, () => null)).toMatchObject({ kind: 'mix', share: 1, before: { frame: 19 }, after: null })
    expect(film.shownAt(99, () => null)).toEqual(film.shownAt(19, () => null))
  })

  it('show so much of a shot before its first frame and past its last; of others nothing', () => {
    const film = filmOf([20, 20, 20], [transition('n1', { lengthFrames: 5 }), transition('n2', { lengthFrames: 6, place: 'before' }), transition('film-end', { at: 'end', kind: 'colour' })])
    expect(['t-n0', 't-n1', 't-n2', 'elsewhere'].map((id) => film.beyondOf(id))).toEqual([{ before: 0, after: 3 }, { before: 2, after: 0 }, { before: 6, after: 0 }, { before: 0, after: 0 }])
  })

  it('move nothing', () => {
    const [bare, mixed] = [filmOf([20, 9, 20], []), filmOf([20, 9, 20], [transition('n1'), transition('n2')])]
    expect(mixed.shots).toEqual(bare.shots)
    expect(mixed.lengthFrames).toBe(bare.lengthFrames)
  })

  it('of a shot that is first now do nothing, nor do those of an empty film', () => {
    expect(filmOf([20, 20], [transition('n0')]).transitions).toEqual([])
    expect(filmOf([], [transition('film-start', { at: 'start' })]).transitions).toEqual([])
    expect(filmOf([], []).shownAt(0, () => null)).toBeNull()
  })

  it('of which two ask for more of a short shot than it has share it, and never lie over each other', () => {
    const film = filmOf([30, 6, 30], [transition('n1', { place: 'after', lengthFrames: 8 }), transition('n2', { place: 'before', lengthFrames: 4 })])
    expect(film.transitions.map(({ from, to }) => [from, to])).toEqual([[30, 34], [34, 36]])
    const length = fc.integer({ min: 1, max: 30 })
    const some = fc.record({ lengthFrames: fc.integer({ min: 1, max: 60 }), place: fc.constantFrom('centre' as const, 'before' as const, 'after' as const) })
    fc.assert(
      fc.property(fc.array(fc.tuple(length, some), { minLength: 1, maxLength: 8 }), some, (list, ends) => {
        const all = [...list.map(([, each], i) => transition(`n${i}`, each)), transition('film-start', { at: 'start', ...ends }), transition('film-end', { at: 'end', ...ends })]
        const film = filmOf(list.map(([frames]) => frames), all)
        film.transitions.forEach((each, i) => {
          expect(each.to).toBeGreaterThan(each.from)
          expect(each.from).toBeGreaterThanOrEqual(Math.max(film.transitions[i - 1]?.to ?? 0, each.before?.startFrame ?? each.cutFrame))
          expect(each.to).toBeLessThanOrEqual(each.after === null ? each.cutFrame : each.after.startFrame + each.after.lengthFrames)
          for (let frame = each.from; frame < each.to; frame++) expect(film.shownAt(frame, () => null)).toMatchObject({ kind: 'mix', look: each.transition, share: transitionShare(each, frame) })
        })
      }),
    )
  })

  it('have just as much room as can be placed whole', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 20 }), fc.integer({ min: 1, max: 20 }), fc.constantFrom('centre' as const, 'before' as const, 'after' as const), fc.nat(12), (a, b, place, other) => {
        const others = other === 0 ? [] : [transition('film-end', { at: 'end', lengthFrames: Math.min(other, b) })]
        const bare = filmOf([a, b], others)
        const most = mostTransitionFrames(Object.fromEntries(others.map((each) => [each.id, each])), bare.shots, { at: 'cut', place }, 1)
        const lengthOf = (lengthFrames: number) => {
          const found = filmOf([a, b], [...others, transition('n1', { place, lengthFrames })]).transitions.find((each) => each.transition.id === 'n1')
          return found === undefined ? 0 : found.to - found.from
        }
        if (most > 0) expect(lengthOf(most)).toBe(most)
        expect(lengthOf(most + 1)).toBeLessThanOrEqual(most)
      }),
    )
  })

  it('tell the sound where to cross over, where they are to', () => {
    const film = filmOf([24, 24], [transition('n1', { lengthFrames: 12, soundToo: true }), transition('film-end', { at: 'end' })])
    expect(soundCrossings(film.transitions, { numerator: 24, denominator: 1 })).toEqual([{ kind: 'cut', outShotId: 'n0', inShotId: 'n1', fromSeconds: 0.75, toSeconds: 1.25 }])
  })
})
