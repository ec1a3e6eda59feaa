import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyToUnit, checkEdit, editSchema, type Edit } from '../edits'
import { EMPTY_OUTLINE, EMPTY_TAKE, idSchema, outlineProblems, recordIdSchema, SHOTS_MAX, TAKE_FRAMES_MAX, takeProblems } from './index'
import { holdable, isHoldable, pieces, shorten, textSchema } from './text'

const anyText = fc.string({ unit: fc.oneof(fc.constantFrom('a', 'é', '灯', '💡', '\ud83d', '\udca1', '\0', '\n')), maxLength: 60 })
const wellFormed = fc.string({ unit: fc.constantFrom('a', 'é', '灯', '💡', '👩‍🎨', '\n'), maxLength: 60 })

describe('text', () => {
  it('that is shortened is a beginning of it, as long as may be, and well-formed where it was', () => {
    fc.assert(
      fc.property(wellFormed, fc.integer({ min: 1, max: 40 }), (text, most) => {
        const short = shorten(text, most)
        expect(text.startsWith(short)).toBe(true)
        expect(short.length).toBeLessThanOrEqual(most)
        expect(short.length).toBeGreaterThanOrEqual(Math.min(text.length, most - 1))
        expect(isHoldable(short)).toBe(true)
      }),
    )
  })

  it('in pieces is the text again, and each of them can be kept', () => {
    fc.assert(
      fc.property(wellFormed, fc.integer({ min: 2, max: 20 }), (text, most) => {
        const found = pieces(text, most)
        expect(found.join('')).toBe(text)
        for (const piece of found) expect([piece.length <= most, isHoldable(piece)]).toEqual([true, true])
      }),
    )
  })

  it('can be kept when it is UTF-8 without NUL, and not else; what is made so is', () => {
    fc.assert(
      fc.property(anyText, (text) => {
        const utf8 = new TextDecoder().decode(new TextEncoder().encode(text))
        expect(isHoldable(text)).toBe(utf8 === text && !text.includes('\0'))
        expect(textSchema(100).safeParse(text).success).toBe(isHoldable(text))
        expect(isHoldable(holdable(text))).toBe(true)
        if (isHoldable(text)) expect(holdable(text)).toBe(text)
      }),
    )
  })

  it('worked: a speaker cut inside a lamp loses the lamp, not the film', () => {
    expect(shorten('TILDA 💡', 7)).toBe('TILDA ')
    expect(shorten('TILDA 💡', 8)).toBe('TILDA 💡')
  })
})

describe('names that every object has', () => {
  const names = Object.getOwnPropertyNames(Object.prototype)

  it.each(names)('%s is no id, no record’s key and no collection', (name) => {
    expect(idSchema.safeParse(name).success).toBe(false)
    for (const key of [name, `${name}.p1`, `p1.${name}`]) expect(recordIdSchema.safeParse(key).success, key).toBe(false)
    // As it comes out of JSON: an own key, whatever it is called.
    const edit = JSON.parse(`{"kind":"x","unit":{"kind":"take","id":"t"},"changes":{"${name}":{"p1":{"before":null,"after":{"id":"p1"}}}}}`) as Edit
    expect(checkEdit(edit)).toMatchObject({ code: 'malformed', path: [name] })
    expect(applyToUnit(EMPTY_TAKE, edit)).toMatchObject({ ok: false })
    expect(editSchema.safeParse({ kind: 'x', unit: { kind: 'drawing', id: name }, changes: {} }).success).toBe(false)
  })

  it.each(names)('a reference to %s points at nothing', (name) => {
    const panel = { id: 'p', order: 'a1', lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' }
    const take = { ...EMPTY_TAKE, panels: { p: panel }, cells: { [`${name}.p`]: { id: `${name}.p`, levelId: name, panelId: 'p', drawingId: null } }, cuts: { c: { id: 'c', panelId: name, offsetFrames: 0, cameraId: name, dissolveFrames: 0 } } }
    expect(takeProblems(take).map(({ code }) => code).sort()).toEqual(['missing-camera', 'missing-level', 'missing-panel'])
    const outline = { ...EMPTY_OUTLINE, rulerMarks: { m: { id: 'm', shotId: name, offsetFrames: 0, name: '', meaning: 'note' as const } } }
    expect(outlineProblems(outline).map(({ code }) => code)).toContain('missing-shot')
  })

  it('of ids only those are taken; others that only look like them stay', () => {
    for (const id of ['constructors', 'value-of', 'tostring2', 'a', 'take-040-a']) expect(idSchema.safeParse(id).success, id).toBe(true)
  })
})

describe('lengths', () => {
  it('have ends, so that every sum of them is exact', () => {
    const shots = Object.fromEntries(Array.from({ length: SHOTS_MAX + 1 }, (_, i) => [`s${i}`, { id: `s${i}`, sequenceId: 'q', order: 'a1', label: '', title: '', circledTakeId: 't' }]))
    const codes = (count: number) => outlineProblems({ ...EMPTY_OUTLINE, shots: Object.fromEntries(Object.entries(shots).slice(0, count)) }).map(({ code }) => code)
    expect(codes(SHOTS_MAX + 1)).toContain('too-many-shots')
    expect(codes(SHOTS_MAX)).not.toContain('too-many-shots')
    expect(Number.isSafeInteger(SHOTS_MAX * TAKE_FRAMES_MAX * 1000)).toBe(true)
  })
})
