import { describe, expect, it } from 'vitest'
import { drawingsWith, EMPTY_OUTLINE, EMPTY_TAKE, linkIdOf, outlineProblems, outlineSchema, takeProblems, type Film, type TakeBody } from '../../document'
import { addTake, applyChange, circleTake, invertChange, joinShots, rebaseChange, removePanels, removeTake, renameTake, takesOfShot, type Made } from '..'

const panel = (id: string, order: string) => ({ id, order, lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' })
const level = { id: 'l', order: 'a0', name: 'Figure', kind: 'drawn' as const, x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }
const body: TakeBody = {
  ...EMPTY_TAKE,
  panels: { p: panel('p', 'a0'), q: panel('q', 'a1') },
  cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked: false } },
  levels: { l: level },
  cells: { 'l.p': { id: 'l.p', levelId: 'l', panelId: 'p', drawingId: 'd' } },
}
const film: Film = {
  outline: {
    ...EMPTY_OUTLINE,
    project: { film: { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
    sequences: { s: { id: 's', order: 'a0', label: '01', title: '', targetFrames: null } },
    shots: { one: { id: 'one', sequenceId: 's', order: 'a0', label: '010', title: '', circledTakeId: 't' }, two: { id: 'two', sequenceId: 's', order: 'a1', label: '020', title: '', circledTakeId: 'u' } },
    takes: { t: { id: 't', shotId: 'one', order: 'a0', letter: 'A' }, u: { id: 'u', shotId: 'two', order: 'a0', letter: 'A' } },
    passages: { w: { id: 'w', order: 'a0', kind: 'dialogue', speaker: 'TILDA', manner: '', text: 'Up there.', sequenceId: 's' } },
    links: { [linkIdOf('w', 'q')]: { id: linkIdOf('w', 'q'), passageId: 'w', takeId: 't', panelId: 'q', words: 'Up there.' } },
  },
  takes: { t: body, u: { ...EMPTY_TAKE, panels: { r: panel('r', 'a0') }, cameras: body.cameras } },
  drawings: { d: { marks: [] } },
}
let ids = 0
const newId = () => `n${++ids}`
/** The film after, which holds together, and which undo takes back exactly. */
function done(before: Film, made: Made): Film {
  if (!made.ok) throw new Error(JSON.stringify(made.refusal))
  const change = { id: newId(), label: 'x', edits: made.edits }
  const after = applyChange(before, change)
  if (!after.ok) throw new Error(JSON.stringify(after.refusal))
  expect(outlineProblems(after.value.outline)).toEqual([])
  expect(outlineSchema.safeParse(after.value.outline).error?.issues[0]).toBeUndefined()
  for (const take of Object.values(after.value.takes)) expect(takeProblems(take)).toEqual([])
  const back = applyChange(after.value, invertChange(change, newId()))
  expect(back.ok && back.value.outline).toEqual(before.outline)
  return after.value
}
const circled = (of: Film) => of.outline.shots.one!.circledTakeId
const link = (of: Film) => of.outline.links[linkIdOf('w', 'q')]

describe('takes of a shot', () => {
  it('are made from one, with art of their own, and circled; the script’s words go along', () => {
    const two = done(film, addTake(film, 'film', 't', newId))
    const [a, b] = takesOfShot(two.outline, 'one')
    expect([a!.letter, b!.letter, circled(two)]).toEqual(['A', 'B', b!.id])
    expect(two.takes[b!.id]!.panels).toEqual(body.panels)
    const [copy] = drawingsWith(two.takes[b!.id]!)
    expect(copy).not.toBe('d')
    expect(two.drawings[copy!]).toEqual({ marks: [] })
    expect(link(two)!.takeId).toBe(b!.id)
    const three = done(two, addTake(two, 'film', 't', newId))
    expect(takesOfShot(three.outline, 'one').map(({ letter }) => letter)).toEqual(['A', 'B', 'C'])
    // Where one is gone the next letter is none that is there.
    const gone = done(three, removeTake(three, 'film', b!.id))
    expect(takesOfShot(done(gone, addTake(gone, 'film', 't', newId)).outline, 'one').map(({ letter }) => letter)).toEqual(['A', 'C', 'D'])
  })

  it('are circled and named; no name is none', () => {
    const two = done(film, addTake(film, 'film', 't', newId))
    const back = done(two, circleTake(two, 'film', 't'))
    expect([circled(back), link(back)!.takeId]).toEqual(['t', 't'])
    const named = done(back, renameTake(back.outline, 'film', 't', '  on the move '))
    expect(named.outline.takes.t!.name).toBe('on the move')
    expect(done(named, renameTake(named.outline, 'film', 't', ' ')).outline.takes.t).toEqual(film.outline.takes.t)
    expect(circleTake(film, 'film', 'nobody')).toMatchObject({ refusal: { code: 'missing', what: 'take' } })
  })

  it('go but for the last; the circle passes to the neighbour, with the words that it can hold', () => {
    expect(removeTake(film, 'film', 't')).toMatchObject({ refusal: { code: 'last-take' } })
    const two = done(film, addTake(film, 'film', 't', newId))
    const other = circled(two)
    const back = done(two, removeTake(two, 'film', other))
    expect([circled(back), link(back)!.takeId]).toEqual(['t', 't'])
    // The words’ panel is gone in A: with B they go.
    const short = done(two, removePanels(two, 'film', 't', ['q'], newId))
    expect(link(short)!.takeId).toBe(other)
    expect(link(done(short, removeTake(short, 'film', other)))).toBeUndefined()
    // Circling A leaves the words with B, which has their panel.
    expect(link(done(short, circleTake(short, 'film', 't')))!.takeId).toBe(other)
  })

  it('that would be lost by joining their shot to another keep it from being joined', () => {
    const two = done(film, addTake(film, 'film', 'u', newId))
    expect(joinShots(two, 'film', ['one', 'two'], newId)).toMatchObject({ refusal: { code: 'has-alternates' } })
  })

  it('of two hands: one that another took out can’t be circled, and the circled one can’t be taken out unseen', () => {
    const two = done(film, addTake(film, 'film', 't', newId))
    const other = circled(two)
    const change = (made: Made) => ({ id: newId(), label: 'x', edits: made.ok ? made.edits : [] })
    const at = done(two, circleTake(two, 'film', 't'))
    const [take, circle] = [change(removeTake(at, 'film', other)), change(circleTake(at, 'film', other))]
    for (const [first, second] of [[take, circle], [circle, take]] as const) {
      const theirs = applyChange(at, first)
      expect(theirs.ok && rebaseChange(theirs.value, second).ok).toBe(false)
    }
  })
})
