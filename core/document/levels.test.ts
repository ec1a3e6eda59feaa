import { describe, expect, it } from 'vitest'
import { applyChange, checkEdit, editLevel, rebaseChange, type Change, type Edit, type Made } from '../edits'
import { EMPTY_OUTLINE, EMPTY_TAKE, keptSince, openTakeBody, orderOfNumber, takeProblems, type Film, type Level, type TakeBody } from './index'
import { editsOf } from '../edits/testing'
import { newLevel } from './newLevel'

const reference = { ...newLevel({ id: 'plan', name: 'Plan', order: 'a1' }), kind: 'reference', over: true, sequence: { startFrame: 3, framesEach: 2 } } as const satisfies Level
const drawn: Level = newLevel({ id: 'reeds', name: 'Reeds', order: 'a2' })
const panel = { id: 'p', order: orderOfNumber(0), lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' }
const take: TakeBody = { ...EMPTY_TAKE, panels: { p: panel }, levels: { plan: reference, reeds: drawn } }
const film: Film = { outline: EMPTY_OUTLINE, takes: { t: take }, drawings: {} }
const changeOf = (made: Made): Change => ({ id: 'c', label: 'x', edits: editsOf(made) })

describe('what only a reference has', () => {
  it('goes when it is made art, and undo has it again', () => {
    const edits = editsOf(editLevel(take, 't', 'plan', { kind: 'drawn' }))
    for (const edit of edits) expect(checkEdit(edit)).toBeNull()
    const after = edits[0]!.changes.levels!.plan!.after as Level
    expect([after.kind, 'over' in after, 'sequence' in after]).toEqual(['drawn', false, false])
    expect(edits[0]!.changes.levels!.plan!.before).toEqual(reference)
  })

  it('stays away from all other levels, whoever says it', () => {
    const [edit] = editsOf(editLevel(take, 't', 'reeds', { over: true }))
    expect(edit!.changes).toEqual({})
    const forced: Edit = { kind: 'x', unit: { kind: 'take', id: 't' }, changes: { levels: { reeds: { before: { ...drawn }, after: { ...drawn, over: true } } } } }
    expect(checkEdit(forced)).toMatchObject({ path: ['levels', 'reeds'] })
    expect(takeProblems({ ...take, levels: { reeds: { ...drawn, over: true } as Level } })).toEqual([{ code: 'not-a-reference', path: ['levels', 'reeds'] }])
  })

  it('of which one hand makes art while another times it is a clash, not a half of each', () => {
    const theirs = applyChange(film, changeOf(editLevel(take, 't', 'plan', { kind: 'drawn' })))
    if (!theirs.ok) throw new Error('theirs')
    const mine = changeOf(editLevel(take, 't', 'plan', { sequence: { startFrame: 9, framesEach: 2 } }))
    expect(rebaseChange(theirs.value, mine)).toMatchObject({ ok: false, clashes: [{ collection: 'levels', id: 'plan' }] })
  })

  it('is left off what earlier versions kept: bodies, and changes that waited in a browser', () => {
    const before = JSON.parse(JSON.stringify({ ...take, levels: { plan: reference, reeds: { ...drawn, over: false, sequence: null } } }))
    expect(openTakeBody(before, 7)).toEqual({ ok: true, value: take })
    expect(openTakeBody(before, 8)).toMatchObject({ ok: false, code: 'malformed' })
    const waiting = { edits: [{ changes: { levels: { reeds: { before: { ...drawn, over: false }, after: { ...drawn, over: false, x: 1 } }, plan: { before: null, after: reference } } } }] }
    expect(keptSince(waiting)).toEqual({ edits: [{ changes: { levels: { reeds: { before: drawn, after: { ...drawn, x: 1 } }, plan: { before: null, after: reference } } } }] })
  })
})
