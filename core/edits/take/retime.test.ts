import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { untouchedPose } from '../../camera'
import { EMPTY_TAKE, outlineProblems, placedPanels, takeLengthFrames, takeProblems, type Film, type Framing, type TakeBody, orderOfNumber } from '../../document'
import { addRulerMark, applyChange, cutShot, edgeRange, editRulerMark, fitLengths, invertChange, joinShots, reactionMs, removeRulerMark, removeShots, retime, tapPanels, trimEnd, type Made, type PanelPlace, type Run } from '../index'

const REST = untouchedPose({ filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 })
const EVEN = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } } as const

interface PanelPlan {
  readonly length: number
  readonly locked?: boolean
  /** Offsets of keys. */
  readonly keys?: readonly number[]
}

function takeOf(panels: readonly PanelPlan[]): TakeBody {
  const framings: Record<string, Framing> = {}
  panels.forEach(({ keys = [] }, i) => keys.forEach((offsetFrames, k) => (framings[`f${i}-${k}`] = { id: `f${i}-${k}`, cameraId: 'a', panelId: `p${i}`, offsetFrames, pose: { ...REST, x: k }, move: EVEN, locked: false })))
  return {
    ...EMPTY_TAKE,
    panels: Object.fromEntries(panels.map(({ length, locked = false }, i) => [`p${i}`, { id: `p${i}`, order: orderOfNumber(i), lengthFrames: length, lengthLocked: locked, action: '', dialogue: '', notes: '' }])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
    framings,
  }
}

/** One shot for each list of panels. */
function filmOf(...shots: readonly (readonly PanelPlan[])[]): Film {
  const ids = shots.map((_, i) => `t${i}`)
  return {
    outline: {
      project: { film: { id: 'film', title: 'F', rate: { numerator: 24, denominator: 1 }, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
      sequences: { q: { id: 'q', order: 'a1', label: '01', title: '', targetFrames: null } },
      shots: Object.fromEntries(ids.map((id, i) => [`s${i}`, { id: `s${i}`, sequenceId: 'q', order: orderOfNumber(i), label: `${i + 1}0`, title: '', circledTakeId: id }])),
      takes: Object.fromEntries(ids.map((id, i) => [id, { id, shotId: `s${i}`, order: 'a1', letter: 'A' }])),
      passages: {},
      links: {},
      rulerMarks: {},
      lanes: {},
      clips: {},
      transitions: {},
      sets: {},
    },
    takes: Object.fromEntries(ids.map((id, i) => [id, takeOf(shots[i]!)])),
    drawings: {},
  }
}

function done(film: Film, made: Made): Film {
  if (!made.ok) throw new Error(made.refusal.code)
  const result = applyChange(film, { edits: made.edits })
  if (!result.ok) throw new Error(result.refusal.code)
  for (const take of Object.values(result.value.takes)) expect(takeProblems(take)).toEqual([])
  expect(outlineProblems(result.value.outline)).toEqual([])
  const back = applyChange(result.value, invertChange({ id: 'x', label: 'x', edits: made.edits }, 'y'))
  expect(back.ok && back.value.takes).toEqual(film.takes)
  return result.value
}

const total = (film: Film) => Object.values(film.takes).reduce((sum, take) => sum + takeLengthFrames(take), 0)
const lengths = (film: Film, take = 't0') => placedPanels(film.takes[take]!).map((entry) => entry.panel.lengthFrames)
const offsets = (film: Film, take = 't0') => Object.values(film.takes[take]!.framings).map((framing) => framing.offsetFrames)
const place = (takeId: string, panelId: string): PanelPlace => ({ takeId, panelId })
const run = (panelId: string, lengthFrames: number, giver: PanelPlace | null = null, takeId = 't0'): Run => ({ lengths: [{ takeId, panelId, lengthFrames }], giver })
const timed = (film: Film, takeId = 't0') => placedPanels(film.takes[takeId]!).map(({ panel }) => ({ takeId, panelId: panel.id, lengthFrames: panel.lengthFrames, lengthLocked: panel.lengthLocked }))

const plans = fc.array(
  fc.record({ length: fc.integer({ min: 1, max: 90 }), locked: fc.boolean(), at: fc.array(fc.double({ min: 0, max: 0.999, noNaN: true }), { maxLength: 3 }) }).map(({ length, locked, at }) => ({ length, locked, keys: [...new Set(at.map((part) => Math.floor(part * length)))] })),
  { minLength: 1, maxLength: 7 },
)

describe('push', () => {
  it('moves what comes later, and keys keep their place in their panels', () => {
    const film = filmOf([{ length: 24, keys: [0, 10, 23] }, { length: 12, keys: [5] }])
    const after = done(film, retime(film, 'film', [run('p0', 30)], 'push'))
    expect(lengths(after)).toEqual([30, 12])
    // The last key stays on the last frame, as the panel's end is what it is keyed to.
    expect(offsets(after)).toEqual([0, 10, 29, 5])
    expect(total(after)).toBe(42)
  })

  it('then pulled back is the original, whatever the panels and their keys', () => {
    fc.assert(
      fc.property(plans, fc.nat(6), fc.integer({ min: 0, max: 400 }), (panels, at, by) => {
        const film = filmOf(panels)
        const panelId = `p${at % panels.length}`
        const panel = film.takes.t0!.panels[panelId]!
        if (panel.lengthLocked) return void expect(retime(film, 'film', [run(panelId, panel.lengthFrames + by + 1)], 'push')).toMatchObject({ ok: false, refusal: { code: 'length-locked' } })
        const pushed = done(film, retime(film, 'film', [run(panelId, panel.lengthFrames + by)], 'push'))
        expect(total(pushed)).toBe(total(film) + by)
        expect(done(pushed, retime(pushed, 'film', [run(panelId, panel.lengthFrames)], 'push')).takes).toEqual(film.takes)
      }),
    )
  })

  it('leaves keys of other panels where they are, in their panels', () => {
    fc.assert(
      fc.property(plans, fc.nat(6), fc.integer({ min: 1, max: 200 }), (panels, at, length) => {
        const film = filmOf(panels.map((panel) => ({ ...panel, locked: false })))
        const panelId = `p${at % panels.length}`
        const after = done(film, retime(film, 'film', [run(panelId, length)], 'push'))
        for (const framing of Object.values(film.takes.t0!.framings)) if (framing.panelId !== panelId) expect(after.takes.t0!.framings[framing.id]).toEqual(framing)
      }),
    )
  })

  it('refuses lengths that no panel has', () => {
    const film = filmOf([{ length: 24 }])
    for (const length of [0, -3, 1.5, NaN, Infinity, 1_000_001]) expect(retime(film, 'film', [run('p0', length)], 'push')).toMatchObject({ ok: false, refusal: { code: 'length-out-of-range' } })
    expect(retime(film, 'film', [run('p9', 4)], 'push')).toMatchObject({ ok: false, refusal: { code: 'missing' } })
  })
})

describe('steal', () => {
  it('takes from the panel after, in the same shot or the next', () => {
    const film = filmOf([{ length: 24 }, { length: 12, keys: [11] }], [{ length: 40 }])
    expect(lengths(done(film, retime(film, 'film', [run('p0', 30, place('t0', 'p1'))], 'steal')))).toEqual([30, 6])
    const across = done(film, retime(film, 'film', [run('p1', 2, place('t1', 'p0'))], 'steal'))
    expect([lengths(across), lengths(across, 't1')]).toEqual([[24, 2], [50]])
  })

  it('never changes the total, however long the panels, and refuses rather than leave less than a frame', () => {
    fc.assert(
      fc.property(plans, plans, fc.nat(20), fc.integer({ min: -60, max: 120 }), (first, second, at, by) => {
        const film = filmOf(first, second)
        const all = [...timed(film), ...timed(film, 't1')]
        const index = at % all.length
        const giver = all.slice(index + 1).find((panel) => !panel.lengthLocked) ?? null
        const panel = all[index]!
        const range = edgeRange(panel, giver, 'steal')
        const made = retime(film, 'film', [run(panel.panelId, panel.lengthFrames + by, giver, panel.takeId)], 'steal')
        // The range an edge can be dragged over is just what is not refused.
        expect(made.ok).toBe(by >= range.least && by <= range.most)
        if (made.ok) expect(total(done(film, made))).toBe(total(film))
      }),
    )
  })

  it('says why it can’t, and by how much', () => {
    const film = filmOf([{ length: 24 }, { length: 10 }, { length: 5, locked: true }])
    expect(retime(film, 'film', [run('p0', 40, place('t0', 'p1'))], 'steal')).toEqual({ ok: false, refusal: { code: 'gives-too-little', asked: 16, most: 9 } })
    expect(retime(film, 'film', [run('p1', 12)], 'steal')).toEqual({ ok: false, refusal: { code: 'nobody-gives' } })
    expect(retime(film, 'film', [run('p1', 12, place('t0', 'p2'))], 'steal')).toEqual({ ok: false, refusal: { code: 'length-locked', id: 'p2' } })
  })
})

describe('fit', () => {
  it('shares the rounding, so that every edge lies within half a frame of its place', () => {
    const film = filmOf([{ length: 10 }, { length: 10 }, { length: 10 }])
    const fitted = fitLengths(timed(film), 40)
    // Edges fall at 13⅓ and 26⅔.
    expect(fitted.ok && fitted.lengths.map((entry) => entry.lengthFrames)).toEqual([13, 14, 13])
  })

  it('is exact, fermatas keep theirs, and it says by how much it can’t', () => {
    fc.assert(
      fc.property(plans, fc.integer({ min: -5, max: 800 }), (panels, asked) => {
        const film = filmOf(panels)
        const all = timed(film)
        const held = all.filter((panel) => panel.lengthLocked).reduce((sum, panel) => sum + panel.lengthFrames, 0)
        const free = all.filter((panel) => !panel.lengthLocked).length
        const fitted = fitLengths(all, asked)
        if (!fitted.ok) {
          if (free === 0) expect(fitted.refusal).toEqual({ code: 'fit-all-held', asked, heldFrames: held })
          else expect(fitted.refusal).toEqual({ code: 'fit-too-short', asked, least: held + free })
          expect(free === 0 ? asked !== held : asked < held + free).toBe(true)
          return
        }
        const after = done(film, retime(film, 'film', [{ lengths: fitted.lengths, giver: null }], 'push'))
        expect(total(after)).toBe(asked)
        all.forEach((panel, i) => panel.lengthLocked && expect(lengths(after)[i]).toBe(panel.lengthFrames))
      }),
    )
  })

  it('to the length there is changes nothing', () => {
    fc.assert(fc.property(plans, (panels) => {
      const film = filmOf(panels)
      const fitted = fitLengths(timed(film), total(film))
      expect(fitted.ok && done(film, retime(film, 'film', [{ lengths: fitted.lengths, giver: null }], 'push')).takes).toEqual(film.takes)
    }))
  })

  it('takes nothing from fractions of a frame, nor from none', () => {
    expect(fitLengths(timed(filmOf([{ length: 10 }])), 10.5)).toMatchObject({ ok: false })
    expect(fitLengths([], 0)).toEqual({ ok: true, lengths: [] })
  })
})

describe('a shot’s end', () => {
  it('is its last panel’s, and eats into those before where that is used up', () => {
    const panels = timed(filmOf([{ length: 24 }, { length: 10, locked: true }, { length: 6 }]))
    const at = (by: number) => {
      const trimmed = trimEnd(panels, by)
      return trimmed.ok ? trimmed.lengths.map((entry) => [entry.panelId, entry.lengthFrames]) : trimmed.refusal
    }
    expect(at(4)).toEqual([['p2', 10]])
    expect(at(-5)).toEqual([['p2', 1]])
    expect(at(-9)).toEqual([['p2', 1], ['p0', 20]])
    expect(at(-29)).toEqual({ code: 'fit-too-short', asked: 11, least: 12 })
    expect(trimEnd(timed(filmOf([{ length: 5, locked: true }])), 1)).toMatchObject({ ok: false, refusal: { code: 'fit-all-held' } })
  })
})

describe('tapping', () => {
  const panels = timed(filmOf([{ length: 24 }, { length: 10 }, { length: 8, locked: true }, { length: 30 }]))
  const named = (taps: readonly number[], elapsed = taps.at(-1) ?? 0) => {
    const { ended, current, currentStart } = tapPanels(panels, taps, elapsed)
    return { ended: ended.map((entry) => entry.lengthFrames), current, currentStart }
  }

  it('ends a panel a tap, where the tap fell', () => {
    expect(named([15, 40])).toEqual({ ended: [15, 25], current: 2, currentStart: 40 })
    expect(named([])).toEqual({ ended: [], current: 0, currentStart: 0 })
  })

  it('lets fermatas pass by themselves', () => {
    expect(named([15, 40], 48)).toEqual({ ended: [15, 25, 8], current: 3, currentStart: 48 })
    // One inside the fermata counts for nothing.
    expect(named([15, 40, 44, 60])).toEqual({ ended: [15, 25, 8, 12], current: 4, currentStart: 60 })
  })

  it('gives a second tap in one frame a frame of its own, and stops after the last panel', () => {
    expect(named([15, 15])).toEqual({ ended: [15, 1], current: 2, currentStart: 16 })
    expect(named([1, 2, 20, 21, 22, 23]).current).toBe(4)
  })

  it('finds how late someone taps, whatever beats are missed', () => {
    const beats = [0, 750, 1500, 2250, 3000, 3750]
    expect(reactionMs(beats, [62, 815, 2308, 3060, 3100])).toBe(62)
    expect(reactionMs(beats, [60, 810, 1560])).toBeNull()
    expect(reactionMs(beats, [0, 1000, 1250, 2000, 3300, 3500])).toBeNull()
    expect(reactionMs([], [1, 2, 3, 4])).toBeNull()
  })
})

describe('marks on the ruler', () => {
  const mark = { id: 'm', shotId: 's0', offsetFrames: 30, name: 'door', meaning: 'sound' } as const
  const marked = () => {
    const film = filmOf([{ length: 24 }, { length: 12 }], [{ length: 40 }])
    return done(film, addRulerMark(film.outline, 'film', mark))
  }
  const offset = (film: Film) => [film.outline.rulerMarks.m!.shotId, film.outline.rulerMarks.m!.offsetFrames]

  it('stay over their panel when time before them changes', () => {
    const film = marked()
    expect(offset(done(film, retime(film, 'film', [run('p0', 34)], 'push')))).toEqual(['s0', 40])
    expect(offset(done(film, retime(film, 'film', [run('p1', 20)], 'push')))).toEqual(['s0', 30])
    expect(offset(done(film, retime(film, 'film', [run('p0', 90, null, 't1')], 'push')))).toEqual(['s0', 30])
  })

  it('go with their shot when it is joined, cut or taken out', () => {
    const film = marked()
    let n = 0
    const newId = () => `n${n++}`
    const moved = done(film, editRulerMark(film.outline, 'film', 'm', { shotId: 's1', offsetFrames: 100 }))
    expect(offset(done(moved, joinShots(moved, 'film', ['s0', 's1'], newId)))).toEqual(['s0', 36 + 39])
    const cut = cutShot(film, 'film', 's0', 'p1', newId)
    const after = applyChange(film, { edits: cut.ok ? cut.edits : [] })
    expect(after.ok && offset(after.value)[1]).toBe(6)
    expect(after.ok && offset(after.value)[0]).not.toBe('s0')
    expect(done(film, removeShots(film.outline, 'film', ['s0'])).outline.rulerMarks).toEqual({})
    expect(done(film, removeRulerMark(film.outline, 'film', 'm')).outline.rulerMarks).toEqual({})
    expect(removeRulerMark(film.outline, 'film', 'zz')).toMatchObject({ ok: false, refusal: { code: 'missing' } })
    expect(addRulerMark(film.outline, 'film', { ...mark, shotId: 'zz' })).toMatchObject({ ok: false, refusal: { what: 'shot' } })
  })
})
