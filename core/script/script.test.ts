import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Passage } from '../document'
import { byScene, countWords, keepPassages, matchPassages, planPanels, readFountain, spokenFrames, spokenLines, writeFountain, type ScriptPassage } from './index'

const RATE = { numerator: 24, denominator: 1 }
const SCRIPT = `Title: Salt Lantern
Author: The marsh

# Act one

= The lamp fails.

EXT. SALT MARSH - DUSK

The lamp in the tower gutters.
It is nearly out.

OSKAR (V.O.)
(quietly)
Mind the lamp.

TILDA ^
It’s going out!

[[a note]]

/* nothing
of this */

> CUT TO:

.BELOW THE LAMP

@McBride
Oil!

!SUDDEN DARK
`
const short = (passages: readonly ScriptPassage[]) => passages.map(({ kind, speaker, manner, text }) => [kind, ...(kind === 'dialogue' ? [speaker, manner] : []), text])

describe('a screenplay', () => {
  it('becomes passages, each of its kind', () => {
    const { title, passages } = readFountain(SCRIPT)
    expect(title).toBe('Salt Lantern')
    expect(short(passages)).toEqual([
      ['title', 'Title: Salt Lantern\nAuthor: The marsh'],
      ['section', '# Act one'],
      ['note', '= The lamp fails.'],
      ['scene', 'EXT. SALT MARSH - DUSK'],
      ['action', 'The lamp in the tower gutters.\nIt is nearly out.'],
      ['dialogue', 'OSKAR (V.O.)', 'quietly', 'Mind the lamp.'],
      ['dialogue', 'TILDA', '', 'It’s going out!'],
      ['note', 'a note'],
      ['note', '/* nothing\nof this */'],
      ['transition', 'CUT TO:'],
      ['scene', 'BELOW THE LAMP'],
      ['dialogue', 'McBride', '', 'Oil!'],
      ['action', 'SUDDEN DARK'],
    ])
  })

  it('reads the same with other line ends and a byte order mark, and reads prose as action', () => {
    expect(readFountain(`\uFEFF${SCRIPT.replace(/\n/g, '\r\n')}`)).toEqual(readFountain(SCRIPT))
    expect(readFountain('')).toEqual({ title: null, passages: [], doubts: [] })
    expect(short(readFountain('Just a thought about a lamp.').passages)).toEqual([['action', 'Just a thought about a lamp.']])
  })

  it('written and read again is the same', () => {
    const { passages } = readFountain(SCRIPT)
    expect(short(readFountain(writeFountain(passages)).passages)).toEqual(short(passages))
  })

  it('of a comment with the signs of another in it keeps every sign', () => {
    const note = [{ kind: 'note' as const, speaker: '', manner: '', text: '/* /\\*\n*/' }]
    expect(short(readFountain(writeFountain(note)).passages)).toEqual(short(note))
    // Nor is who speaks first a title page for having a colon in the name.
    const first = [{ kind: 'dialogue' as const, speaker: 'CUT TO: \\', manner: '', text: 'Title: x lamp' }]
    expect(short(readFountain(writeFountain(first)).passages)).toEqual(short(first))
  })

  it('of any passages, written and read again, is the same', () => {
    const piece = fc.constantFrom('lamp', 'GOOSE', 'oil', 'INT. ROOM', 'Tilda', 'CUT TO:', 'FADE TO BLACK.', '.dot', '..', 'runs!', '!', '@', '#', '=', '===', '>', '<', '~La la', '[[', ']]', ']', '[[a]]', '/*', '*/', '/\\*', '\\', '(', ')', '(sings)', '*very*', '_so_', '\\*', 'Title:', 'Title: x', '#1A#', '^', 'é', '灯')
    const line = fc.array(piece, { minLength: 1, maxLength: 4 }).map((words) => words.join(' ').trim())
    const oneLine = line.filter((text) => text !== '')
    const lines = fc.array(fc.oneof({ weight: 4, arbitrary: line }, fc.constant('')), { minLength: 1, maxLength: 4 }).map((list) => list.join('\n').replace(/^\n+|\n+$/g, '')).filter((text) => text !== '')
    const made = (kind: ScriptPassage['kind'], text: string, speaker = '', manner = ''): ScriptPassage => ({ kind, speaker, manner, text })
    const passage = fc.oneof(
      lines.map((text) => made('action', text)),
      oneLine.map((text) => made('scene', text)),
      lines.map((text) => made('note', text)),
      // As reading can give them: a transition that ends in < is centred text, a name has no ^ at its end.
      oneLine.filter((text) => !text.endsWith('<')).map((text) => made('transition', text.replace(/^>\s*/, '') || 'CUT TO:')),
      fc.tuple(fc.integer({ min: 1, max: 6 }), oneLine).map(([depth, text]) => made('section', `${'#'.repeat(depth)} x${text}`)),
      fc.tuple(oneLine.filter((text) => !text.endsWith('^') && !text.startsWith('@')), fc.oneof(fc.constant(''), oneLine), fc.oneof(fc.constant(''), lines)).map(([speaker, manner, text]) => made('dialogue', text, speaker, manner)),
    )
    fc.assert(
      fc.property(fc.array(passage, { maxLength: 6 }), (list) => void expect(short(readFountain(writeFountain(list)).passages)).toEqual(short(list))),
      { numRuns: 2000 },
    )
  })

  it('has every sign of the format: songs, notes, brackets, numbers, transitions, lines below sections, comments', () => {
    const kinds = (source: string) => short(readFountain(source).passages)
    expect(kinds('BOB\n~La la')).toEqual([['dialogue', 'BOB', '', '~La la']])
    expect(kinds('SINGER\n(sings)\n~La')).toEqual([['dialogue', 'SINGER', 'sings', '~La']])
    expect(kinds('~La la\n~lo')).toEqual([['action', '~La la\n~lo']])
    expect(kinds('The lamp [[check this]] gutters.')).toEqual([['action', 'The lamp [[check this]] gutters.']])
    expect(kinds('[[a]] [[b]]')).toEqual([['note', 'a'], ['note', 'b']])
    expect(kinds('[[one\ntwo\n  \nthree]]')).toEqual([['note', 'one\ntwo\n\nthree']])
    expect(kinds('OSKAR\n(quietly)\nMind.\n(louder)\nMind the lamp!\n(nods)')).toEqual([['dialogue', 'OSKAR', 'quietly', 'Mind.'], ['dialogue', 'OSKAR', 'louder', 'Mind the lamp!'], ['dialogue', 'OSKAR', 'nods', '']])
    expect(kinds('OSKAR\n(nods)')).toEqual([['dialogue', 'OSKAR', 'nods', '']])
    expect(kinds('INT. TOWER - DAY #1A#')).toEqual([['scene', 'INT. TOWER - DAY #1A#']])
    expect(kinds('FADE TO BLACK.\n\nDISSOLVE TO:\n\nWe go to:\n\n> Burn out')).toEqual([['action', 'FADE TO BLACK.'], ['transition', 'DISSOLVE TO:'], ['action', 'We go to:'], ['transition', 'Burn out']])
    expect(kinds('# One\nThe lamp.\n\n= What happens\nINT. TOWER\nIt gutters.')).toEqual([['section', '# One'], ['action', 'The lamp.'], ['note', '= What happens'], ['scene', 'INT. TOWER'], ['action', 'It gutters.']])
    expect(kinds('*Very* \\*dark\\* and _wet_.')).toEqual([['action', '*Very* \\*dark\\* and _wet_.']])
    expect(kinds('> THE END <')).toEqual([['action', '> THE END <']])
    expect(kinds('The lamp /* or two */ gutters.')).toEqual([['note', '/* or two */'], ['action', 'The lamp  gutters.']])
    expect(readFountain('Title:\n    **Salt**\n    Lantern\nAuthor: The marsh\n\nDusk.')).toMatchObject({ title: 'Salt Lantern', passages: [{ kind: 'title' }, { kind: 'action', text: 'Dusk.' }] })
    expect(kinds('FADE IN:\n\nDusk.')).toEqual([['action', 'FADE IN:'], ['action', 'Dusk.']])
  })

  it('never fails as a whole: what is left open is action, and named by its line', () => {
    const { passages, doubts } = readFountain('Dusk.\n\n[[never closed\n\nINT. TOWER\n\nOil /* and more')
    expect(short(passages)).toEqual([['action', 'Dusk.'], ['action', '[[never closed'], ['scene', 'INT. TOWER'], ['action', 'Oil /* and more']])
    expect(doubts.map(({ line, what }) => [line, what]).sort()).toEqual([[3, 'open-note'], [7, 'open-comment']])
    fc.assert(fc.property(fc.string({ unit: 'binary', maxLength: 200 }), (source) => void expect(() => readFountain(source)).not.toThrow()))
    const long = readFountain('x'.repeat(45_000))
    expect([long.passages.map((each) => each.text.length), long.doubts]).toEqual([[20_000, 20_000, 5000], [{ line: 1, what: 'too-long' }]])
  })

  it('of any length is read in time that grows with it', () => {
    const scenes = (count: number) => Array.from({ length: count }, (_, i) => `INT. ROOM ${i} - DAY\n\nThe lamp gutters, for the ${i}th time.\n\nOSKAR\nMind the lamp ${i}.\n`).join('\n')
    const { passages } = readFountain(scenes(4000))
    expect(passages.length).toBe(12_000)
    expect(short(passages.slice(-2))).toEqual([['action', 'The lamp gutters, for the 3999th time.'], ['dialogue', 'OSKAR', '', 'Mind the lamp 3999.']])
  })
})

describe('an edited script', () => {
  const passages = (texts: readonly string[]): ScriptPassage[] => texts.map((text) => ({ kind: 'action', speaker: '', manner: '', text }))

  it('keeps what is still there, finds what was edited, and knows what is new', () => {
    const old = passages(['The lamp gutters.', 'Tilda runs the boardwalk, lantern swinging.', 'Oskar looks up.'])
    const next = passages(['Dusk.', 'The lamp gutters.', 'Tilda walks the boardwalk, lantern swinging.', 'Oskar looks up.'])
    expect(matchPassages(old, next)).toEqual([null, 0, 1, 2])
    // Moved past each other, one keeps its id and the other is new: order is what a script is.
    expect(matchPassages(passages(['a b c', 'd e f']), passages(['d e f', 'a b c'])).filter((each) => each !== null)).toHaveLength(1)
  })

  it('gives ids to none twice, and the same script changes nothing', () => {
    const texts = fc.array(fc.constantFrom('The lamp.', 'The goose.', 'The lamp and the goose.', 'Oil.', 'Oil!'), { maxLength: 12 })
    fc.assert(
      fc.property(texts, texts, (a, b) => {
        const ids = matchPassages(passages(a), passages(b)).filter((each) => each !== null)
        expect(new Set(ids).size).toBe(ids.length)
        expect([...ids].sort((x, y) => x! - y!)).toEqual(ids)
        expect(matchPassages(passages(a), passages(a))).toEqual(a.map((_, i) => i))
      }),
    )
    const old = keepPassages([], passages(['One.', 'Two.']), ((n) => () => `id${n++}`)(0))
    expect(keepPassages(old, passages(['One.', 'Two and a half.', 'Three.']), () => 'new').map((each) => each.id)).toEqual(['id0', 'id1', 'new'])
  })
})

describe('words', () => {
  it('are counted as read and take their time to say', () => {
    expect(countWords('It’s going out! Well-lit rooms, 12 of them.')).toBe(8)
    expect(countWords('灯が消える')).toBe(5)
    // 5 words at 150 a minute: 2 s, and half a second's breath, at 24 frames.
    expect(spokenFrames('one two three four five', 150, RATE)).toBe(60)
    expect(spokenFrames('…', 150, RATE)).toBe(0)
    expect(spokenFrames('one two three four five', 75, { numerator: 24000, denominator: 1001 })).toBe(Math.ceil(4.5 * (24000 / 1001)))
  })

  it('of a panel are lines by speaker', () => {
    expect(spokenLines('OSKAR (quietly): Mind\nthe lamp.\nTILDA: No: you!')).toEqual([
      { speaker: 'OSKAR', manner: 'quietly', text: 'Mind\nthe lamp.' },
      { speaker: 'TILDA', manner: '', text: 'No: you!' },
    ])
    expect(spokenLines('Just a voice. It says: nothing')).toEqual([{ speaker: '', manner: '', text: 'Just a voice. It says: nothing' }])
    expect(spokenLines(' \n')).toEqual([])
  })
})

describe('boarding', () => {
  const passage = (id: string, kind: Passage['kind'], text: string, speaker = ''): Passage => ({ id, order: 'a1', kind, text, speaker, manner: '', sequenceId: null })
  const script = [passage('h1', 'scene', 'A'), passage('a', 'action', 'One.'), passage('d1', 'dialogue', 'Yes.', 'T'), passage('d2', 'dialogue', 'No.', 'O'), passage('h2', 'scene', 'B'), passage('b', 'action', 'Two.')]

  it('begins a panel with each action and each other speaker', () => {
    expect(planPanels(script, 150, RATE, 24).map((panel) => panel.passages.map((each) => each.id))).toEqual([['a', 'd1'], ['d2'], ['b']])
  })

  it('parts a selection by scenes', () => {
    expect(byScene(script, new Set(['d2', 'b', 'h2'])).map(({ scene, passages }) => [scene?.id, passages.map((each) => each.id)])).toEqual([['h1', ['d2']], ['h2', ['b']]])
  })

  it.each([
    ['spaces before a word', (n: number) => `${' '.repeat(n)}x`],
    ['spaces inside a line', (n: number) => `x${' '.repeat(n)}x`],
    ['notes that never close', (n: number) => '[['.repeat(n / 2)],
    ['lines of notes that never close', (n: number) => '[[a\n'.repeat(n / 4)],
    ['comments that close each other', (n: number) => '/*'.repeat(n / 2)],
    ['comments in one line', (n: number) => 'x/**/'.repeat(n / 5)],
    ['comments that never close', (n: number) => '/* '.repeat(n / 3)],
    ['lines of sections', (n: number) => '# a\n'.repeat(n / 4)],
    ['lines of headings', (n: number) => '.a\n'.repeat(n / 3)],
    ['lines of page breaks', (n: number) => '===\n'.repeat(n / 4)],
    ['lines of spaces', (n: number) => '  \n'.repeat(n / 3)],
    ['lines of notes', (n: number) => '[[a]]\n'.repeat(n / 6)],
    ['lines of a manner', (n: number) => `BOB\n${'(x)\n'.repeat(n / 4)}`],
    ['names', (n: number) => 'BOB\n'.repeat(n / 4)],
    ['lines of a title page', (n: number) => 'Title:\n   a\n'.repeat(n / 12)],
    ['brackets after a name', (n: number) => `BOB ${'(x) '.repeat(n / 4)}\nhi`],
    ['a name of brackets', (n: number) => `BOB ${'('.repeat(n)}\nhi`],
    ['empty lines', (n: number) => '\n'.repeat(n)],
  ])('reads %s in time that grows with their length, not its square', (_, make) => {
    const took = (n: number, rounds: number) => {
      const text = make(n)
      let least = Infinity
      for (let round = 0; round < rounds; round++) {
        const begun = performance.now()
        readFountain(text)
        least = Math.min(least, performance.now() - begun)
      }
      return least
    }
    took(4000, 9)
    // A hundred times the text: a hundred times the time, and not ten thousand times. A busy machine may hold one pair up, not three.
    let least = Infinity
    for (let pair = 0; pair < 3 && least >= 1500; pair++) least = Math.min(least, took(1_000_000, 1) / Math.max(0.5, took(10_000, 9)))
    expect(least).toBeLessThan(1500)
  }, 60_000)
})
