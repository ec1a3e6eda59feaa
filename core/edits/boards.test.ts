import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { untouchedPose } from '../camera'
import { cellIdOf, EMPTY_TAKE, inOrder, outlineProblems, outlineSchema, placedPanels, shownCell, takeLengthFrames, takeProblems, type Film, type Passage, type TakeBody, orderOfNumber } from '../document'
import { createTakeStage } from '../stage'
import { planPanels } from '../script'
import { addSequence, boardAsPanels, boardAsShot, carryPanels, changedLinks, cutShot, duplicatePanels, duplicateShot, fillPanel, filmOrder, joinPanels, joinShots, movePanels, moveSequence, moveShots, removePanels, removeSequence, removeShots, renumberShots, setScript, settleWords, splitPanel, applyChange, invertChange, type Made } from './index'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const RATE = { numerator: 24, denominator: 1 }
let counter = 0
const newId = () => `n${counter++}`
const mark = (id: string) => ({ id, order: 'a1', kind: 'fill' as const, mode: 'ink' as const, outlines: [[0, 0, 1, 0, 1, 1]], colour: '#000000', opacity: 1 })

/** Panels of `lengths`; level `bg` drawn in the first, level `figure` in all that `drawn` names. */
function takeOf(prefix: string, lengths: readonly number[], drawn: readonly number[]): TakeBody {
  const panels = Object.fromEntries(lengths.map((lengthFrames, i) => [`p${i}`, { id: `p${i}`, order: orderOfNumber(i), lengthFrames, lengthLocked: false, action: `${prefix}${i}`, dialogue: '', notes: '' }]))
  const level = (id: string, order: number) => ({ id, order: orderOfNumber(order), name: id, kind: 'drawn' as const, x: 0, y: 0, depth: order, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false })
  const cell = (levelId: string, panelId: string) => ({ id: cellIdOf(levelId, panelId), levelId, panelId, drawingId: `${prefix}-${levelId}-${panelId}` })
  const cells = [cell('bg', 'p0'), ...drawn.map((i) => cell('figure', `p${i}`))]
  return {
    ...EMPTY_TAKE,
    panels,
    levels: { figure: level('figure', 0), bg: level('bg', 1) },
    cells: Object.fromEntries(cells.map((each) => [each.id, each])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
    framings: {
      f1: { id: 'f1', cameraId: 'a', panelId: 'p0', offsetFrames: 0, pose: REST, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }, locked: false },
      f2: { id: 'f2', cameraId: 'a', panelId: `p${lengths.length - 1}`, offsetFrames: lengths.at(-1)! - 1, pose: { ...REST, x: 1 }, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }, locked: false },
    },
  }
}

function filmOf(shots: Readonly<Record<string, TakeBody>>): Film {
  const ids = Object.keys(shots)
  return {
    outline: {
      project: { film: { id: 'film', title: 'F', rate: RATE, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
      sequences: { q1: { id: 'q1', order: 'a1', label: '01', title: 'One', targetFrames: null }, q2: { id: 'q2', order: 'a2', label: '02', title: 'Two', targetFrames: null } },
      shots: Object.fromEntries(ids.map((id, i) => [`s-${id}`, { id: `s-${id}`, sequenceId: 'q1', order: orderOfNumber(i + 1), label: String((i + 1) * 10).padStart(3, '0'), title: id, circledTakeId: id }])),
      takes: Object.fromEntries(ids.map((id) => [id, { id, shotId: `s-${id}`, order: 'a1', letter: 'A' }])),
      passages: {},
      links: {},
      rulerMarks: {},
      lanes: {},
      clips: {},
      transitions: {},
      sets: {},
    },
    takes: shots,
    drawings: Object.fromEntries(Object.values(shots).flatMap((take) => Object.values(take.cells).map((cell) => [cell.drawingId!, { marks: [mark('m')] }]))),
  }
}

function done(film: Film, made: Made): Film {
  if (!made.ok) throw new Error(made.refusal.code)
  const result = applyChange(film, { edits: made.edits })
  if (!result.ok) throw new Error(result.refusal.code)
  expect(outlineProblems(result.value.outline)).toEqual([])
  for (const take of Object.values(result.value.takes)) expect(takeProblems(take)).toEqual([])
  // Whatever is done is taken back exactly.
  const back = applyChange(result.value, invertChange({ id: 'x', label: 'x', edits: made.edits }, 'y'))
  expect(back.ok && { outline: back.value.outline, takes: Object.fromEntries(Object.keys(film.takes).map((id) => [id, back.value.takes[id]])) }).toEqual({ outline: film.outline, takes: film.takes })
  return result.value
}

/** What is seen, panel by panel: words and each level's drawing by the level's name. */
const seen = (take: TakeBody) =>
  placedPanels(take).map(({ panel, index }) => [panel.action, Object.fromEntries(inOrder(take.levels).map((level) => [level.name, shownCell(take, level, index)?.drawingId ?? null]).filter(([, id]) => id !== null))])
/** The same where art may have been copied: which level shows something. */
const full = (take: TakeBody) => seen(take).map(([words, shows]) => [words, Object.keys(shows as object).sort()])


describe('panels', () => {
  const film = () => filmOf({ t: takeOf('t', [10, 20, 30, 40], [1, 3]), u: takeOf('u', [8, 9], [0]) })

  it('that are moved still show what they showed, whatever moves where', () => {
    fc.assert(
      fc.property(fc.subarray(['p0', 'p1', 'p2', 'p3'], { minLength: 1 }), fc.constantFrom('p0', 'p1', 'p2', 'p3', null), (ids, before) => {
        const start = film()
        const moved = done(start, movePanels(start.takes.t!, 't', ids, before, newId)).takes.t!
        const pictures = new Map(seen(start.takes.t!).map(([words, shows]) => [words, shows]))
        expect(seen(moved).every(([words, shows]) => JSON.stringify(shows) === JSON.stringify(pictures.get(words)))).toBe(true)
        expect(takeLengthFrames(moved)).toBe(100)
      }),
    )
  })

  it('moved to the front take the place of the first, in their own order', () => {
    const start = film()
    expect(seen(done(start, movePanels(start.takes.t!, 't', ['p3', 'p1'], 'p0', newId)).takes.t!).map(([words]) => words)).toEqual(['t1', 't3', 't0', 't2'])
  })

  it('that are duplicated come after the last of them, and nothing after changes', () => {
    const start = film()
    const take = done(start, duplicatePanels(start.takes.t!, 't', ['p0', 'p1'], ['c0', 'c1'])).takes.t!
    const before = seen(start.takes.t!)
    expect(seen(take)).toEqual([before[0], before[1], before[0], before[1], before[2], before[3]])
  })

  it('split keep their time, their picture and their keys at the same frames', () => {
    const start = film()
    const take = done(start, splitPanel(start.takes.t!, 't', 'p3', 15, 'new')).takes.t!
    expect(placedPanels(take).map((each) => each.panel.lengthFrames)).toEqual([10, 20, 30, 15, 25])
    const stages = [start.takes.t!, take].map((each) => createTakeStage(each, OPTICS))
    for (let frame = 0; frame < 100; frame += 7) expect(stages[1]!.poseAt(frame)).toEqual(stages[0]!.poseAt(frame))
    expect(splitPanel(filmOf({ t: takeOf('t', [1], []) }).takes.t!, 't', 'p0', 1, 'n')).toMatchObject({ ok: false, refusal: { code: 'too-short-to-split' } })
  })

  it('split then joined are the panel before', () => {
    const start = film()
    const split = done(start, splitPanel(start.takes.t!, 't', 'p1', 5, 'new'))
    expect(done(split, joinPanels(split, 'film', 't', ['p1', 'new'])).takes.t).toEqual(start.takes.t)
  })

  it('joined keep all words and time, and the first picture; those apart are refused', () => {
    const start = film()
    const take = done(start, joinPanels(start, 'film', 't', ['p0', 'p1'])).takes.t!
    expect(take.panels.p0).toMatchObject({ lengthFrames: 30, action: 't0\nt1' })
    expect(seen(take)[1]).toEqual(seen(start.takes.t!)[2])
    expect(joinPanels(start, 'film', 't', ['p0', 'p2'])).toMatchObject({ refusal: { code: 'not-side-by-side' } })
  })

  it('carried into another shot bring their picture along and leave the others’ as they were', () => {
    const start = film()
    const after = done(start, carryPanels(start, 'film', 't', ['p1', 'p2'], 'u', 'p1', newId))
    expect(full(after.takes.u!)).toEqual([['u0', ['bg', 'figure']], ['t1', ['bg', 'figure']], ['t2', ['bg', 'figure']], ['u1', ['bg', 'figure']]])
    expect(seen(after.takes.u!)[0]).toEqual(seen(start.takes.u!)[0])
    expect(seen(after.takes.u!)[3]).toEqual(seen(start.takes.u!)[1])
    expect(full(after.takes.t!)).toEqual([['t0', ['bg']], ['t3', ['bg', 'figure']]])
    // The background is still in use where it was: the carried panels have one of their own.
    const bg = shownCell(after.takes.u!, { id: inOrder(after.takes.u!.levels).find((level) => level.name === 'bg')!.id }, 1)!.drawingId
    expect(bg).not.toBe('t-bg-p0')
    expect(after.drawings[bg]).toEqual(after.drawings['t-bg-p0'])
  })

  it('carried among others are seen as they were, and so are those', () => {
    const start = film()
    const [t, u] = [createTakeStage(start.takes.t!, OPTICS), createTakeStage(start.takes.u!, OPTICS)]
    const after = createTakeStage(done(start, carryPanels(start, 'film', 't', ['p1', 'p2'], 'u', 'p1', newId)).takes.u!, OPTICS)
    // u's first panel, 8 frames; t's second and third, frames 10 to 59; u's second, 9 frames.
    for (const frame of [0, 4, 7]) expect(after.poseAt(frame).x).toBeCloseTo(u.poseAt(frame).x, 9)
    for (const frame of [0, 19, 20, 25, 49]) expect(after.poseAt(8 + frame).x).toBeCloseTo(t.poseAt(10 + frame).x, 9)
    for (const frame of [8, 12, 16]) expect(after.poseAt(50 + frame).x).toBeCloseTo(u.poseAt(frame).x, 9)
  })

  it('carried where the camera stands alike put no key', () => {
    const start = film()
    const still = { ...start, takes: Object.fromEntries(Object.entries(start.takes).map(([id, take]) => [id, { ...take, framings: { f1: take.framings.f1! } }])) }
    const after = done(still, carryPanels(still, 'film', 't', ['p1'], 'u', 'p1', newId))
    expect(Object.keys(after.takes.u!.framings)).toEqual(['f1'])
  })

  it('carried out to the last take their shot away, and their drawings are not copied', () => {
    const start = film()
    const after = done(start, carryPanels(start, 'film', 'u', ['p0', 'p1'], 't', null, newId))
    expect(after.outline.shots['s-u']).toBeUndefined()
    expect(seen(after.takes.t!).slice(4).map(([, shows]) => Object.values(shows as object).sort())).toEqual([['u-bg-p0', 'u-figure-p0'], ['u-bg-p0', 'u-figure-p0']])
  })

  it('taken out all at once take the shot out; one shot stays', () => {
    const start = film()
    const after = done(start, removePanels(start, 'film', 'u', ['p0', 'p1'], newId))
    expect(Object.keys(after.outline.shots)).toEqual(['s-t'])
    expect(removePanels(after, 'film', 't', ['p0', 'p1', 'p2', 'p3'], newId)).toMatchObject({ refusal: { code: 'last-shot' } })
  })
})

describe('shots', () => {
  const film = () => filmOf({ t: takeOf('t', [10, 20, 30, 40], [1, 3]), u: takeOf('u', [8, 9], [0]), v: takeOf('v', [5], [0]) })
  const labelsOf = (value: Film) => filmOrder(value.outline).map((shot) => shot.label)

  it('moved keep their labels until they are renumbered', () => {
    const start = film()
    const moved = done(start, moveShots(start.outline, 'film', ['s-v'], 'q1', 's-t'))
    expect(labelsOf(moved)).toEqual(['030', '010', '020'])
    const numbered = done(moved, renumberShots(moved.outline, 'film', null))
    expect(labelsOf(numbered)).toEqual(['010', '020', '030'])
    expect(numbered.outline.shots['s-v']!.label).toBe('010')
    expect(done(start, moveShots(start.outline, 'film', ['s-t'], 'q2', null)).outline.shots['s-t']!.sequenceId).toBe('q2')
  })

  it('numbered in one sequence don’t take another’s labels', () => {
    const start = film()
    const moved = done(start, moveShots(start.outline, 'film', ['s-t'], 'q2', null))
    expect(renumberShots(moved.outline, 'film', 'q1')).toMatchObject({ refusal: { code: 'label-taken', label: '010' } })
    expect(labelsOf(done(moved, renumberShots(moved.outline, 'film', 'q1', 110)))).toEqual(['110', '120', '010'])
  })

  it('duplicated get the label between and art of their own', () => {
    const start = film()
    const after = done(start, duplicateShot(start, 'film', 's-t', newId))
    expect(labelsOf(after)).toEqual(['010', '015', '020', '030'])
    const copy = after.takes[filmOrder(after.outline)[1]!.circledTakeId]!
    expect(full(copy)).toEqual(full(start.takes.t!))
    const shared = Object.values(copy.cells).filter((cell) => Object.values(start.takes.t!.cells).some((other) => other.drawingId === cell.drawingId))
    expect(shared).toEqual([])
  })

  it('cut at a panel show at every frame what they showed, but for the pace of a move across the cut', () => {
    const start = film()
    const before = createTakeStage(start.takes.t!, OPTICS)
    const after = done(start, cutShot(start, 'film', 's-t', 'p2', newId))
    const [left, right] = filmOrder(after.outline).slice(0, 2).map((shot) => createTakeStage(after.takes[shot.circledTakeId]!, OPTICS))
    expect([left!.lengthFrames, right!.lengthFrames]).toEqual([30, 70])
    for (const frame of [0, 10, 29]) expect(left!.poseAt(frame).x).toBeCloseTo(before.poseAt(frame).x, 9)
    for (const frame of [30, 60, 99]) expect(right!.poseAt(frame - 30).x).toBeCloseTo(before.poseAt(frame).x, 9)
    expect([...full(left!.take), ...full(right!.take)]).toEqual(full(start.takes.t!))
    expect(cutShot(start, 'film', 's-t', 'p0', newId)).toMatchObject({ refusal: { code: 'nothing-to-cut' } })
  })

  it('cut then joined are as before to look at', () => {
    const start = film()
    const before = createTakeStage(start.takes.t!, OPTICS)
    const cut = done(start, cutShot(start, 'film', 's-t', 'p1', newId))
    const joined = done(cut, joinShots(cut, 'film', filmOrder(cut.outline).slice(0, 2).map((shot) => shot.id), newId))
    const after = createTakeStage(joined.takes.t!, OPTICS)
    expect(full(joined.takes.t!)).toEqual(full(start.takes.t!))
    for (let frame = 0; frame < 100; frame++) expect(after.poseAt(frame).x).toBeCloseTo(before.poseAt(frame).x, 9)
    expect(joined.takes.t!.levels).toEqual(start.takes.t!.levels)
  })

  it('joined jump where they were cut', () => {
    const start = film()
    const [t, u] = [createTakeStage(start.takes.t!, OPTICS), createTakeStage(start.takes.u!, OPTICS)]
    const joined = createTakeStage(done(start, joinShots(start, 'film', ['s-t', 's-u'], newId)).takes.t!, OPTICS)
    for (const frame of [0, 50, 99]) expect(joined.poseAt(frame)).toEqual(t.poseAt(frame))
    for (const frame of [0, 8, 16]) expect(joined.poseAt(100 + frame)).toEqual(u.poseAt(frame))
    expect(joinShots(start, 'film', ['s-t', 's-v'], newId)).toMatchObject({ refusal: { code: 'not-side-by-side' } })
  })

  it('go several at once, but never all', () => {
    const start = film()
    expect(labelsOf(done(start, removeShots(start.outline, 'film', ['s-t', 's-v'])))).toEqual(['020'])
    expect(removeShots(start.outline, 'film', ['s-t', 's-u', 's-v'])).toMatchObject({ refusal: { code: 'last-shot' } })
  })
})

describe('sequences', () => {
  it('are added, moved with their shots, and taken out with them', () => {
    const start = filmOf({ t: takeOf('t', [10], []) })
    const added = done(start, addSequence(start.outline, 'film', 'q3', 'q1', 'Between'))
    expect(inOrder(added.outline.sequences).map((each) => each.label)).toEqual(['01', '03', '02'])
    const moved = done(added, moveSequence(added.outline, 'film', 'q1', null))
    expect(inOrder(moved.outline.sequences).map((each) => each.id)).toEqual(['q3', 'q2', 'q1'])
    expect(removeSequence(start.outline, 'film', 'q1')).toMatchObject({ refusal: { code: 'last-shot' } })
    expect(Object.keys(done(start, removeSequence(start.outline, 'film', 'q2')).outline.sequences)).toEqual(['q1'])
  })
})

describe('the script on the boards', () => {
  const passage = (id: string, order: number, kind: Passage['kind'], text: string, speaker = ''): Passage => ({ id, order: orderOfNumber(order), kind, text, speaker, manner: '', sequenceId: null })
  const SCRIPT = [passage('h', 1, 'scene', 'EXT. SALT MARSH - DUSK'), passage('a', 2, 'action', 'The lamp gutters.'), passage('d', 3, 'dialogue', 'Mind the lamp.', 'OSKAR'), passage('b', 4, 'action', 'Tilda runs.')]
  const start = () => {
    const film = filmOf({ t: takeOf('t', [10], []) })
    return done(film, setScript(film.outline, 'film', SCRIPT, [{ id: 'new', title: 'Salt marsh', sceneIds: ['h'] }]))
  }

  it('makes sequences of scenes, after those that are there', () => {
    const film = start()
    expect(inOrder(film.outline.sequences).map((each) => [each.label, each.title])).toEqual([['01', 'One'], ['02', 'Two'], ['03', 'Salt marsh']])
    expect(film.outline.passages.h!.sequenceId).toBe('new')
  })

  it('makes a shot of panels with words and lengths, numbered on', () => {
    const film = start()
    const plan = planPanels(SCRIPT, 150, RATE, 24)
    expect(plan.map(({ action, dialogue, lengthFrames }) => [action, dialogue, lengthFrames])).toEqual([
      // Three words at 150 a minute are 1.2 s; with the breath 1.7 s, 40.8 frames.
      ['The lamp gutters.', 'OSKAR: Mind the lamp.', 41],
      ['Tilda runs.', '', 24],
    ])
    const after = done(film, boardAsShot(film, 'film', 'new', null, plan, 'Dusk', newId))
    const shot = filmOrder(after.outline).at(-1)!
    expect([shot.label, shot.sequenceId, takeLengthFrames(after.takes[shot.circledTakeId]!)]).toEqual(['020', 'new', 65])
    expect(Object.values(after.outline.links).map((link) => link.passageId).sort()).toEqual(['a', 'b', 'd'])
  })

  it('tells which panels’ words changed, and settles them', () => {
    let film = start()
    film = done(film, boardAsPanels(film, 'film', 't', null, planPanels(SCRIPT.slice(1, 3), 150, RATE, 24), newId))
    film = done(film, fillPanel(film, 'film', 't', 'p0', [SCRIPT[3]!]))
    const id = inOrder(film.takes.t!.panels).at(-1)!.id
    expect(changedLinks(film.outline, 't', id)).toEqual([])
    const edited = SCRIPT.map((each) => (each.id === 'a' ? { ...each, text: 'The lamp dies.' } : each)).filter((each) => each.id !== 'b')
    film = done(film, setScript(film.outline, 'film', edited, []))
    expect(changedLinks(film.outline, 't', id).map((link) => link.passageId)).toEqual(['a'])
    // A passage that is gone leaves its words where they are.
    expect(film.takes.t!.panels.p0!.action).toBe('t0\nTilda runs.')
    expect(Object.values(film.outline.links).some((link) => link.panelId === 'p0')).toBe(false)
    const taken = done(film, settleWords(film, 'film', 't', id, true))
    expect(taken.takes.t!.panels[id]).toMatchObject({ action: 'The lamp dies.', dialogue: 'OSKAR: Mind the lamp.' })
    const own = done(film, settleWords(film, 'film', 't', id, false))
    expect(own.takes.t!.panels[id]!.action).toBe('The lamp gutters.')
    expect(changedLinks(own.outline, 't', id)).toEqual([])
  })

  it('keeps its links to panels that are carried, cut off, joined or duplicated away', () => {
    let film = start()
    film = done(film, boardAsShot(film, 'film', 'q1', null, planPanels(SCRIPT, 150, RATE, 24), '', newId))
    const shot = filmOrder(film.outline)[1]!
    const [first, second] = inOrder(film.takes[shot.circledTakeId]!.panels)
    const carried = done(film, carryPanels(film, 'film', shot.circledTakeId, [first!.id], 't', null, newId))
    expect(Object.values(carried.outline.links).map((link) => [link.passageId, link.takeId === 't']).sort()).toEqual([['a', true], ['b', false], ['d', true]])
    const joined = done(film, joinPanels(film, 'film', shot.circledTakeId, [first!.id, second!.id]))
    expect(Object.values(joined.outline.links).every((link) => link.panelId === first!.id)).toBe(true)
    const cut = done(film, cutShot(film, 'film', shot.id, second!.id, newId))
    expect(Object.values(cut.outline.links).filter((link) => link.takeId !== shot.circledTakeId).map((link) => link.passageId)).toEqual(['b'])
  })
})

describe('an outline kept by version 1', () => {
  it('had no script, and opens with an empty one', () => {
    const { passages, links, ...old } = filmOf({ t: takeOf('t', [10], []) }).outline
    expect([passages, links]).toEqual([{}, {}])
    expect(outlineSchema.parse(old)).toMatchObject({ passages: {}, links: {} })
  })
})
