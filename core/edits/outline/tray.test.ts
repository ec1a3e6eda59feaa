import { describe, expect, it } from 'vitest'
import { inOrder, isInFilm, type Film } from '../../document'
import { createFilmStage } from '../../stage'
import { addShot, applyChange, filmOrder, invertChange, newOutline, removeSequence, removeShots, renumberShots, trayShots, untrayShots, type Made } from '..'

const PROJECT = { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 48 }
const after = (film: Film, made: Made): Film => {
  const applied = made.ok ? applyChange(film, made) : null
  if (!applied?.ok) throw new Error(made.ok ? 'stale' : made.refusal.code)
  return applied.value
}
const film = [1, 2, 3].reduce<Film>((now, n) => after(now, addShot(now, 'film', 'q', null, { shot: `s${n}`, take: `t${n}`, panel: `p${n}`, camera: `c${n}` }, 24)), { outline: newOutline(PROJECT, { id: 'q', order: 'a1', label: '01', title: '', targetFrames: null }), takes: {}, drawings: {} })
const labels = (of: Film) => filmOrder(of.outline).map(({ label }) => label)

describe('the tray', () => {
  const made = trayShots(film.outline, 'film', ['s2'])
  const without = after(film, made)

  it('takes a shot out of the film with all it has, and gives it back where it was', () => {
    expect([labels(without), createFilmStage(without.outline, () => 24).lengthFrames, without.takes.t2]).toEqual([['010', '030'], 48, film.takes.t2])
    expect(after(without, untrayShots(without.outline, 'film', ['s2'])).outline).toEqual(film.outline)
    const change = { id: 'tray-change', label: 'x', edits: made.ok ? made.edits : [] }
    const undone = applyChange(without, invertChange(change, 'undo-change'))
    expect(undone.ok && undone.value.outline).toEqual(film.outline)
  })

  it('frees the label for others, and gives it another where it comes back too late', () => {
    const renumbered = after(without, renumberShots(without.outline, 'film', null))
    expect(labels(renumbered)).toEqual(['010', '020'])
    const back = after(renumbered, untrayShots(renumbered.outline, 'film', ['s2']))
    expect(labels(back)).toEqual(['010', '030', '020'])
    expect(new Set(labels(back)).size).toBe(3)
  })

  it('leaves one shot in the film, counts none of its own as one, and goes with its sequence', () => {
    expect(trayShots(film.outline, 'film', ['s1', 's2', 's3'])).toMatchObject({ refusal: { code: 'last-shot' } })
    const one = after(film, trayShots(film.outline, 'film', ['s1', 's2']))
    expect(removeShots(one.outline, 'film', ['s3'])).toMatchObject({ refusal: { code: 'last-shot' } })
    expect(labels(after(one, removeShots(one.outline, 'film', ['s1'])))).toEqual(['030'])
    const two = { ...one, outline: { ...one.outline, sequences: { ...one.outline.sequences, r: { id: 'r', order: 'a2', label: '02', title: '', targetFrames: null } }, shots: { ...one.outline.shots, s3: { ...one.outline.shots.s3!, sequenceId: 'r' } } } }
    const gone = after(two, removeSequence(two.outline, 'film', 'q'))
    expect([inOrder(gone.outline.shots).map(({ id }) => id), Object.values(gone.outline.shots).every(isInFilm)]).toEqual([['s3'], true])
  })
})
