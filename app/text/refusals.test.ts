import type { MakeRefusal, EditRefusal } from '@rubato/core/edits'
import type { ExposureRefusal } from '@rubato/core/interchange'
import { describe, expect, it } from 'vitest'
import { wordArea } from './areas'
import { wordExposureRefusal } from './exposureRefusals'
import { fieldWord } from './fields'
import { wordRefusal } from './refusals'

type Refusal = MakeRefusal | EditRefusal
/** One of each code, as the core makes it: a new one is not forgotten here, since this would not compile. */
const EACH: { readonly [C in Refusal['code']]: Extract<Refusal, { readonly code: C }> | Omit<Refusal, 'code'> } = {
  'missing': { what: 'level', id: 'l' },
  'length-out-of-range': { received: 90_000, min: 1, max: 86_400 },
  'last-panel': {},
  'last-shot': {},
  'last-camera': {},
  'last-take': {},
  'level-locked': { id: 'l' },
  'key-locked': { id: 'k' },
  'framing-locked': { id: 'f' },
  'camera-locked': { id: 'a' },
  'length-locked': { id: 'p' },
  'last-sequence': {},
  'not-side-by-side': {},
  'too-short-to-split': {},
  'nothing-to-cut': {},
  'has-alternates': {},
  'nobody-gives': {},
  'gives-too-little': { asked: 12, most: 7 },
  'fit-too-short': { asked: 10, least: 17 },
  'fit-all-held': { asked: 40, heldFrames: 48 },
  'carrier-circle': { id: 'l', names: ['Boat', 'Tilda'] },
  'drawing-name': { name: '3b' },
  'carriers-too-deep': { id: 'l' },
  'carrier-shows-nothing': { id: 'l' },
  'too-many-cameras': { most: 26 },
  'target-hangs': { id: 'l' },
  'followed-hangs': { id: 'l', camera: 'B' },
  'spans-work-there': { id: 's' },
  'try-too-long': { received: 500_000, most: 432_000 },
  'between-keys': {},
  'between-air-keys': {},
  'still-settling': { restsAtFrame: 31 },
  'pose-not-finite': {},
  'out-of-reach': { received: 123_456.7891, most: 10_000 },
  'words-too-long': { received: 20_000, most: 5000 },
  'nothing-to-paste': {},
  'nothing-to-hold': {},
  'move-too-long': { asked: 30, most: 12 },
  'nothing-after': { what: 'frame' },
  'clip-not-there': {},
  'transition-too-long': { asked: 30, most: 12 },
  'nothing-before': {},
  'label-taken': { label: '040' },
  'nothing-selected': {},
  'too-many-columns': { most: 20 },
  'spread-ends': {},
  'not-for-a-set': { name: 'Kite', why: 'keys' },
  'too-many-pieces': { received: 300, most: 256 },
  'set-has-no-time': { id: 'l' },
  'set-has-no-references': { id: 'l' },
  'piece-stays': { id: 'l' },
  'piece-carries': { id: 'l' },
  'piece-followed': { id: 'l' },
  'set-in-use': { name: 'Lamp room', shots: 3 },
  'ground-gone': {},
  'depth-not-finite': {},
  'depth-behind-lens': { depth: -2, lensDepth: -1.38888 },
  'level-behind-lens': { lensDepth: -1.38888 },
  'stale': {},
  'malformed': { path: ['levels', 'l', 'x'], message: 'expected a number' },
}
const refusals = Object.entries(EACH).map(([code, fields]) => ({ code, ...fields }) as Refusal)
const word = (code: Refusal['code'], fields: object = EACH[code]) => wordRefusal({ code, ...fields } as Refusal)

describe('what is refused', () => {
  it.each(refusals.map((refusal) => [refusal.code, refusal] as const))('is told as sentences that hold nothing of the code: %s', (_, refusal) => {
    const text = wordRefusal(refusal)
    expect(text).toMatch(/^[A-Z“\d].*\.$/s)
    expect(text).not.toMatch(/undefined|NaN|null|\[object|\$\{| {2}/)
    expect(text.length).toBeLessThan(260)
  })

  it('says the numbers that it is about, as people write them', () => {
    expect(word('length-out-of-range')).toContain('1 to 86,400 frames; 90000 was asked for')
    expect(word('gives-too-little')).toBe('The panel after can give 7 frames; 12 frames are wanted, 5 too many. Use Push, or make that panel longer first.')
    expect(word('gives-too-little', { asked: 1, most: 0 })).toContain('can give 0 frames; 1 frame is wanted, 1 too many')
    expect(word('fit-too-short')).toContain('10 frames are 7 too few')
    expect(word('fit-all-held')).toContain('at 48 frames, 8 more than asked for')
    expect(word('fit-all-held', { asked: 50, heldFrames: 48 })).toContain('2 fewer than asked for')
    expect(word('out-of-reach')).toContain('123456.789 fw was asked for')
    // Frames are counted from 0, and it rests after that one.
    expect(word('still-settling')).toContain('from frame 32 of the shot')
    expect(word('depth-behind-lens')).toContain('The lens stands at -1.389 fw. At -2 fw')
  })

  it('says what now for each way that a thing can be in the way', () => {
    expect(word('transition-too-long', { asked: 8, most: 0 })).toContain('no frame left')
    expect(word('transition-too-long', { asked: 1, most: 12 })).toContain('12 frames; 1 was asked for')
    expect(word('nothing-after')).toContain('no later frame')
    expect(word('nothing-after', { what: 'framing' })).toContain('last framing')
    expect(word('drawing-name')).toContain('has a drawing 3b already')
    for (const name of ['', 'a name that is long']) expect(word('drawing-name', { name })).toBe('A drawing is called by 1 to 12 letters or digits.')
    expect(word('set-in-use', { name: 'Pier', shots: 1 })).toBe('“Pier” stands in a shot. Take it out of that first.')
    expect(word('carrier-circle')).toBe('That would make “Boat” hang on itself: “Boat” on “Tilda” on “Boat”. Let one of them go first.')
    for (const what of ['air', 'drawing', 'span'] as const) expect(word('missing', { what, id: 'x' })).toMatch({ air: /turned off meanwhile/, drawing: /still being loaded/, span: /The span is no longer there/ }[what])
    for (const why of ['reference', 'set', 'keys', 'drawings', 'camera', 'followed', 'locked', 'follows'] as const) expect(word('not-for-a-set', { name: 'Kite', why })).toMatch(/^“Kite” can’t be part of a set: [a-z].*\.$/)
  })

  it('holds a name of any length or kind without becoming longer than can be read', () => {
    const name = '<b>’n’ “long” '.repeat(100)
    for (const code of ['not-for-a-set', 'set-in-use'] as const) expect(word(code, { ...EACH[code], name }).length).toBeLessThan(400)
    expect(word('carrier-circle', { id: 'l', names: [name, name] }).length).toBeLessThan(700)
  })
})

describe('a row of a sheet that is wrong', () => {
  const EXPOSURES: { readonly [C in ExposureRefusal['code']]: readonly [Omit<ExposureRefusal, 'code'>, RegExp] } = {
    'no-header': [{ found: 'a;b' }, /must be: frame,level,drawing. It is “a;b”/],
    'no-rows': [{}, /no row under the header/],
    'broken-row': [{ row: 4, cells: 2 }, /^Row 4 has 2 values; it must have three/],
    'no-frame': [{ row: 5, found: '99', last: 47 }, /^Row 5: “99” is no frame of this shot. Frames go from 0 to 47\.$/],
    'no-level': [{ row: 6, level: 'Kite' }, /^Row 6: this shot has no level “Kite”/],
    'many-levels': [{ row: 7, level: 'Reed' }, /several levels are called “Reed”/],
    'no-drawing': [{ row: 8, level: 'Kite', drawing: '9' }, /“Kite” has no drawing “9”/],
    'twice': [{ row: 9, level: 'Kite', frame: 12 }, /^Row 9: frame 12 of “Kite” is there twice\.$/],
  }
  it.each(Object.entries(EXPOSURES))('is named: %s', (code, [fields, says]) => {
    expect(wordExposureRefusal({ code, ...fields } as ExposureRefusal)).toMatch(says)
  })

  it('says so where there is nothing at all', () => {
    expect(wordExposureRefusal({ code: 'no-header', found: '' })).toContain('It is empty.')
    expect(wordExposureRefusal({ code: 'no-frame', row: 2, found: '', last: 9 })).toContain('there is no frame')
    expect(wordExposureRefusal({ code: 'broken-row', row: 3, cells: 1 })).toContain('1 value;')
  })
})

describe('other words', () => {
  it('say why an area was not filled, and what now', () => {
    for (const code of ['on-a-line', 'runs-out', 'no-ink'] as const) expect(wordArea({ kind: 'refused', refusal: { code } } as Parameters<typeof wordArea>[0])).toMatch(/\. [A-Z].*\.$/)
  })

  it('call fields by what stands on the screen', () => {
    expect(['x', 'order', 'lengthLocked', 'panDegrees', 'cameraId', 'strokeWidth', 'notes'].map(fieldWord)).toEqual(['place', 'place in the order', 'fermata', 'pan', 'camera', 'stroke width', 'notes'])
  })
})
