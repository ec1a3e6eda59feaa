import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FORMAT_VERSION, freeze, orderOfNumber, takeLengthFrames, type Outline, type TakeBody, type Transition } from '../document'
import { planConform } from '../edits'
import { REST, sampleTake } from '../edits/testing'
import { createFilmStage, cutListOf, mostTransitionFrames, type CutList } from '../stage'
import { RATES, timecodeOfFrame, type Rate } from '../time'
import { readEditList, readTimeline, writeEditList, writeMarks, writeSoundList, writeTimeline, type TimelineFilm } from '.'
import { reelNames } from './editList'

const stageOf = ({ outline, takes }: TimelineFilm) => createFilmStage(outline, (takeId) => takeLengthFrames(takes[takeId]!))
const listOf = (film: TimelineFilm): CutList => cutListOf(film.outline, stageOf(film))
const readable = (read: ReturnType<typeof readTimeline>) => {
  if (!read.ok) throw new Error(read.why)
  return read
}

const shot = fc.record({ label: fc.string({ minLength: 1, maxLength: 12 }).filter((each) => each.trim() === each && !/[\0\p{Surrogate}]/u.test(each)), lengths: fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1, maxLength: 4 }) })
const transition = fc.record({ into: fc.nat(6), kind: fc.constantFrom('dissolve' as const, 'wipe' as const, 'colour' as const), lengthFrames: fc.integer({ min: 1, max: 12 }), place: fc.constantFrom('centre' as const, 'before' as const, 'after' as const) })
const clip = fc.record({ shot: fc.option(fc.nat(5)), offset: fc.integer({ min: 0, max: 2000 }).map((each) => each / 16), from: fc.integer({ min: 0, max: 4000 }).map((each) => each / 1000), length: fc.integer({ min: 10, max: 4000 }).map((each) => each / 1000), gainDb: fc.integer({ min: -20, max: 6 }), fade: fc.nat(9).map((each) => each / 1000) })
/** A film of a few shots at any rate, with transitions where there is room, sound and marks. */
const film = fc.record({ rate: fc.constantFrom(...RATES), drop: fc.boolean(), start: fc.constantFrom(0, 86_400), shots: fc.array(shot, { minLength: 1, maxLength: 6 }), transitions: fc.array(transition, { maxLength: 4 }), clips: fc.array(clip, { maxLength: 5 }), marks: fc.array(fc.nat(30), { maxLength: 3 }), moves: fc.boolean() }).map((made): TimelineFilm => {
  const drop = made.drop && made.rate.denominator === 1001 && made.rate.numerator !== 24000
  const labels = new Set<string>()
  const shots = made.shots.map((each, i) => ({ ...each, label: labels.has(each.label.toLowerCase()) ? `s-${i}` : (labels.add(each.label.toLowerCase()), each.label) }))
  const takes = Object.fromEntries(
    shots.map(({ lengths }, i): [string, TakeBody] => {
      const take = sampleTake(lengths)
      const cells = Object.fromEntries(Object.entries(take.cells).filter(([, { panelId }]) => take.panels[panelId] !== undefined))
      const framings: TakeBody['framings'] = made.moves ? { f: { id: 'f', cameraId: 'a', panelId: 'p1', offsetFrames: 0, pose: { ...REST, x: i }, move: { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }, locked: false } } : {}
      return [`t${i}`, freeze({ ...take, cells, framings })]
    }),
  )
  const ids = shots.map((_, i) => `s${i}`)
  const base: Outline = {
    project: { film: { id: 'film', title: 'Salt Lantern', rate: made.rate, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24, startTimecodeFrames: made.start, dropFrame: drop } },
    sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
    shots: Object.fromEntries(ids.map((id, i) => [id, { id, sequenceId: 'q', order: orderOfNumber(i), label: shots[i]!.label, title: i === 0 ? 'The harbour' : '', circledTakeId: `t${i}`, ...(made.moves && i % 2 === 0 ? { startsAt: i - 3 } : {}) }])),
    takes: Object.fromEntries(ids.map((id, i) => [`t${i}`, { id: `t${i}`, shotId: id, order: 'a0', letter: 'A' }])),
    passages: {}, links: {}, sets: {}, transitions: {},
    rulerMarks: Object.fromEntries(made.marks.map((at, i) => [`m${i}`, { id: `m${i}`, shotId: ids[i % ids.length]!, offsetFrames: at, name: `cue ${i}`, meaning: 'sound' as const }])),
    lanes: { v: { id: 'v', order: 'a0', name: 'Voices', kind: 'voices', gainDb: 0, muted: false, soloed: false } },
    clips: Object.fromEntries(made.clips.map((each, i) => [`c${i}`, { id: `c${i}`, laneId: 'v', shotId: each.shot === null ? null : ids[each.shot % ids.length]!, offsetFrames: each.offset, assetHash: 'ab'.repeat(32), name: `line ${i}`, sourceSeconds: 9, fromSeconds: each.from, lengthSeconds: each.length, gainDb: each.gainDb, fadeInSeconds: Math.min(each.fade, each.length), fadeOutSeconds: 0, speaker: '', line: '', passageId: null, panelId: null }])),
  }
  const transitions: Record<string, Transition> = {}
  for (const { into, kind, lengthFrames, place } of made.transitions) {
    const at = into === 0 ? 'start' : into >= ids.length ? 'end' : 'cut'
    const id = at === 'cut' ? ids[into]! : `film-${at}`
    const stage = createFilmStage({ ...base, transitions }, (takeId) => takeLengthFrames(takes[takeId]!))
    if (transitions[id] !== undefined || mostTransitionFrames(transitions, stage.shots, { at, place }, Math.min(into, ids.length)) < lengthFrames) continue
    transitions[id] = { id, at, kind: at === 'cut' ? kind : 'colour', lengthFrames, place: at === 'cut' ? place : 'centre', angleDegrees: 30, softness: 0.25, colour: '#102030', soundToo: false }
  }
  return freeze({ outline: freeze({ ...base, transitions }), takes })
})

describe('a cut, written and read again', () => {
  it('as a timeline is the same film, document and all, and nothing is to be conformed', () => {
    fc.assert(
      fc.property(film, fc.boolean(), fc.boolean(), (made, nested, movie) => {
        const read = readable(readTimeline(writeTimeline(made, { nested, movie: movie ? 'Salt-Lantern.webm' : null })))
        expect(read.notes).toEqual([])
        expect(read.film).toEqual({ outline: made.outline, takes: made.takes, sets: {}, breakdowns: {} })
        const own = listOf(made)
        expect([read.list.rate, read.list.startFrame, read.list.drop]).toEqual([own.rate, own.startFrame, own.drop])
        expect(read.list.pictures.map(({ label, lengthFrames, shotId }) => [label, lengthFrames, shotId])).toEqual(own.pictures.map(({ label, lengthFrames, shotId }) => [label, lengthFrames, shotId]))
        expect(planConform(made.outline, stageOf(made), read.list).lines).toEqual([])
      }),
    )
  })

  it('as edit lists, picture and sound, asks for nothing to be conformed', () => {
    fc.assert(
      fc.property(film, (made) => {
        const own = listOf(made)
        const { rate } = own
        const pictures = readable(readEditList(writeEditList(own), rate, own.startFrame))
        expect(pictures.notes).toEqual([])
        expect(planConform(made.outline, stageOf(made), pictures.list).lines).toEqual([])
        if (own.sounds.length === 0) return
        const sound = readable(readEditList(writeSoundList(own, 'v'), rate, own.startFrame))
        expect(planConform(made.outline, stageOf(made), sound.list).lines).toEqual([])
      }),
    )
  })

  it('finds shots by their labels where nothing else was kept', () => {
    const drawn = fc.sample(film, { numRuns: 40, seed: 5 }).find(({ outline }) => Object.keys(outline.shots).length > 3 && Object.keys(outline.transitions).length === 0)!
    const shots = Object.fromEntries(Object.values(drawn.outline.shots).map((each, i) => [each.id, { ...each, label: `0${i + 1}0` }]))
    const made = { ...drawn, outline: { ...drawn.outline, shots } }
    const bare = (text: string) => text.split('\r\n').filter((line) => !line.includes('RUBATO') && !line.startsWith('* TITLE')).join('\r\n')
    const read = readable(readEditList(bare(writeEditList(listOf(made))), listOf(made).rate))
    expect(planConform(made.outline, stageOf(made), read.list).lines.filter(({ kind }) => kind !== 'transition')).toEqual([])
  })
})

describe('an edit list', () => {
  const list: CutList = {
    title: 'Salt Lantern', rate: { numerator: 24, denominator: 1 }, startFrame: 0, drop: false, sounds: [], marks: [{ markId: 'm', frame: 100, name: 'bell', meaning: 'sound' }], soundWithin: 1,
    pictures: ['010', '020'].map((label, i) => ({ kind: 'shot', shotId: `s${i}`, label, title: '', lengthFrames: 96, sourceFrame: 86_400, sourceZero: 86_400, panels: [] })),
    transitions: [{ into: 1, kind: 'dissolve', before: 12, after: 12, look: { angleDegrees: 0, softness: 0, colour: '#000000', soundToo: false } }],
  }
  it('has its columns, the dissolve where it begins to be seen, and the mark in its shot', () => {
    expect(writeEditList(list).split('\r\n')).toEqual([
      'TITLE: Salt Lantern',
      'FCM: NON-DROP FRAME',
      '',
      '001  010      V     C        01:00:00:00 01:00:03:12 00:00:00:00 00:00:03:12',
      '* FROM CLIP NAME: 010',
      '* RUBATO SHOT: s0 86400',
      '002  010      V     C        01:00:03:12 01:00:03:12 00:00:03:12 00:00:03:12',
      '002  020      V     D    024 00:59:59:12 01:00:04:00 00:00:03:12 00:00:08:00',
      '* FROM CLIP NAME: 010',
      '* TO CLIP NAME: 020',
      '* RUBATO TRANSITION: dissolve 12 12 0 0 #000000 0',
      '* RUBATO SHOT: s1 86400',
      '* MARK: 00:00:04:04 sound bell',
      '',
    ])
    expect(writeMarks(list).split('\r\n')[1]).toBe('00:00:04:04,100,4.1667,020,4,sound,bell')
  })

  it('drops numbers where the rate can', () => {
    const rate: Rate = { numerator: 30000, denominator: 1001 }
    const text = writeEditList({ ...list, rate, drop: true, startFrame: 107_892 })
    expect(text).toContain('FCM: DROP FRAME')
    expect(text).toContain('01:00:00;00')
    expect(readable(readEditList(text, rate)).list.startFrame).toBe(107_892)
    expect(timecodeOfFrame(107_892, rate, true)).toBe('01:00:00;00')
  })

  it('names reels in eight letters, no two alike', () => {
    const reel = reelNames()
    const names = ['Harbour at night 1', 'Harbour at night 2', '010', 'x y', '黒', '010'].map((name, i) => reel(`${name}${i === 5 ? 2 : ''}`, name))
    expect(names).toEqual(['HARBOURA', 'HARBOUR2', '010', 'XY', 'REEL', '0102'])
  })

  it('is refused in words where it is of another rate, ends before it begins, or is none', () => {
    const event = (to: string) => `TITLE: X\n001  010      V     C        01:00:00:00 01:00:03:28 00:00:00:00 ${to}\n`
    expect(readEditList(event('00:00:03:28'), { numerator: 24, denominator: 1 })).toMatchObject({ ok: false, why: expect.stringContaining('01:00:03:28 is no timecode at 24') })
    expect(readEditList(event('00:00:03:28'), { numerator: 30, denominator: 1 })).toMatchObject({ ok: true })
    expect(readEditList('001 010 V C 01:00:00:00 01:00:01:00 00:00:02:00 00:00:01:00', { numerator: 24, denominator: 1 })).toMatchObject({ why: expect.stringContaining('ends before it begins') })
    expect(readEditList('hello', { numerator: 24, denominator: 1 })).toMatchObject({ why: expect.stringContaining('no event') })
  })

  it('of overlapping events, other speeds and holes is taken with a word about each', () => {
    const text = ['001  A V C 00:00:00:00 00:00:02:00 01:00:00:00 01:00:02:00', 'M2 A 012.0 00:00:00:00', '002  B V C 00:00:00:00 00:00:02:00 01:00:01:00 01:00:03:00', '003  C V C 00:00:00:00 00:00:01:00 01:00:04:00 01:00:05:00'].join('\n')
    const read = readable(readEditList(text, { numerator: 24, denominator: 1 }))
    expect(read.list.pictures.map(({ kind, label, lengthFrames }) => [kind, label, lengthFrames])).toEqual([['shot', 'A', 24], ['shot', 'B', 48], ['gap', '', 24], ['shot', 'C', 24]])
    expect(read.notes).toHaveLength(2)
  })
})

describe('a timeline made elsewhere', () => {
  const time = (value: number, rate = 24) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate })
  const range = (start: number, duration: number, rate = 24) => ({ OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, rate), duration: time(duration, rate) })
  const timeline = (children: object[], more: object = {}) => JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', name: 'Cut', metadata: {}, tracks: { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children }, ...((more as { tracks?: object[] }).tracks ?? [])] }, ...more, })
  const clip = (name: string, start: number, duration: number, rate = 24) => ({ OTIO_SCHEMA: 'Clip.2', name, source_range: range(start, duration, rate), media_references: { DEFAULT_MEDIA: { OTIO_SCHEMA: 'ExternalReference.1', target_url: `${name}.mov`, available_range: range(86_400, 100, rate) } }, active_media_reference_key: 'DEFAULT_MEDIA' })

  it('is read by what its schema says: gaps, transitions, nested stacks, marks, media that begin anywhere', () => {
    const read = readable(
      readTimeline(
        timeline([
          clip('010', 86_410, 40),
          { OTIO_SCHEMA: 'Transition.1', transition_type: 'SMPTE_Dissolve', in_offset: time(4), out_offset: time(6) },
          { ...clip('020', 86_400, 50), markers: [{ OTIO_SCHEMA: 'Marker.2', name: 'hit', color: 'RED', marked_range: range(86_405, 1) }] },
          { OTIO_SCHEMA: 'Gap.1', source_range: range(0, 24) },
          { OTIO_SCHEMA: 'Stack.1', name: '030', children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children: [clip('a', 0, 10), clip('b', 0, 14)] }] },
        ]),
      ),
    )
    expect(read.list.pictures.map(({ kind, label, lengthFrames, sourceFrame, sourceZero, panels }) => [kind, label, lengthFrames, sourceFrame, sourceZero, panels.length])).toEqual([['shot', '010', 40, 86_410, 86_400, 0], ['shot', '020', 50, 86_400, 86_400, 0], ['gap', '', 24, null, null, 0], ['shot', '030', 24, null, null, 2]])
    expect(read.list.transitions).toEqual([{ into: 1, kind: 'dissolve', before: 4, after: 6 }])
    expect(read.list.marks).toEqual([{ markId: null, frame: 45, name: 'hit', meaning: 'mend' }])
  })

  it('of a rate that no film has, without pictures, or with impossible times is refused in words', () => {
    expect(readTimeline(timeline([clip('a', 0, 10, 17)]))).toMatchObject({ ok: false, why: expect.stringContaining('17 frames a second') })
    expect(readTimeline(timeline([]))).toMatchObject({ ok: false })
    expect(readTimeline(timeline([clip('a', 0, 1e300)]))).toMatchObject({ ok: false, why: expect.stringContaining('longer than any film') })
    expect(readTimeline('{"OTIO_SCHEMA":"Clip.1"}')).toMatchObject({ ok: false })
    expect(readTimeline(`${'['.repeat(200_000)}`)).toMatchObject({ ok: false })
    const deep = (levels: number): object => (levels === 0 ? clip('a', 0, 10) : { OTIO_SCHEMA: 'Stack.1', name: 'x', children: [deep(levels - 1)] })
    expect(readTimeline(timeline([clip('b', 0, 5), deep(60)]))).toMatchObject({ ok: false, why: expect.stringContaining('nested deeper') })
  })

  it('whatever is done to a good one is read or refused, and never throws', () => {
    const good = writeTimeline(fc.sample(film, { numRuns: 1, seed: 3 })[0]!, { nested: true, movie: null })
    const values = [null, -1, 1e308, '', [], {}, 'Stack.1', true, { OTIO_SCHEMA: 'TimeRange.1' }]
    const broken = fc.tuple(fc.nat(400), fc.constantFrom(...values)).map(([at, value]) => {
      let n = 0
      return JSON.stringify(JSON.parse(good), (_, each: unknown) => (n++ === at * 7 ? value : each))
    })
    const cut = fc.nat(good.length).map((at) => good.slice(0, at))
    fc.assert(fc.property(fc.oneof(broken, cut, fc.json()), (text) => {
      const read = readTimeline(text)
      if (!read.ok) expect(read.why.length).toBeGreaterThan(10)
      else expect(read.list.pictures.every(({ lengthFrames }) => lengthFrames > 0)).toBe(true)
    }), { numRuns: 600 })
    const list = writeEditList(listOf(fc.sample(film, { numRuns: 1, seed: 4 })[0]!))
    const edited = fc.tuple(fc.nat(list.length), fc.nat(6), fc.string({ maxLength: 8 })).map(([at, out, into]) => list.slice(0, at) + into + list.slice(at + out))
    fc.assert(fc.property(fc.oneof(edited, fc.string({ maxLength: 300 })), (text) => {
      const read = readEditList(text, { numerator: 24, denominator: 1 })
      if (!read.ok) expect(read.why.length).toBeGreaterThan(10)
      else expect(read.list.pictures.every(({ lengthFrames }) => lengthFrames > 0)).toBe(true)
    }), { numRuns: 600 })
  })

  it('carries the format that it was written in', () => {
    const made = fc.sample(film, { numRuns: 1, seed: 9 })[0]!
    const newer = writeTimeline(made, { nested: false, movie: null }).replace(`"format":${FORMAT_VERSION}`, `"format":${FORMAT_VERSION + 1}`)
    const read = readable(readTimeline(newer))
    expect([read.film, read.notes.length]).toEqual([null, 1])
  })
})
