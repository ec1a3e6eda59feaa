import { describe, expect, it } from 'vitest'
import { type Film, inOrder, labelBetween, placedPanels } from '../../document'
import { addShot, applyChange, editShot, invertChange, newOutline, removeShot } from '..'

describe('shots', () => {
  const project = { id: 'film', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 48 }
  const empty: Film = { outline: newOutline(project, { id: 'seq', order: 'a1', label: '01', title: '', targetFrames: null }), takes: {}, drawings: {} }
  const ids = (n: number) => ({ shot: `s${n}`, take: `t${n}`, panel: `p${n}`, camera: `c${n}` })
  const withShot = (film: Film, n: number, after: string | null) => {
    const made = addShot(film, 'film', 'seq', after, ids(n), 24)
    const applied = made.ok ? applyChange(film, made) : null
    if (!applied?.ok) throw new Error('addShot')
    return applied.value
  }

  it('are numbered in tens, and by the middle between two', () => {
    const film = withShot(withShot(withShot(empty, 1, null), 2, null), 3, 's1')
    expect(inOrder(film.outline.shots).map((shot) => shot.label)).toEqual(['010', '015', '020'])
    expect(labelBetween('010', '011', new Set(['010', '011']))).toBe('010A')
    expect(labelBetween(null, null, new Set())).toBe('010')
    expect(labelBetween('030', null, new Set(['030', '040']))).toBe('050')
  })

  it('come with a take of one panel and a camera', () => {
    const film = withShot(empty, 1, null)
    expect(placedPanels(film.takes.t1!)).toHaveLength(1)
    expect(Object.values(film.takes.t1!.cameras).map((camera) => camera.letter)).toEqual(['A'])
  })

  it('taken out come back by undo with all they had', () => {
    const film = withShot(withShot(empty, 1, null), 2, null)
    const made = removeShot(film.outline, 'film', 's1')
    if (!made.ok) throw new Error('removeShot')
    const change = { id: 'change-1', label: 'delete shot 010', edits: made.edits }
    const gone = applyChange(film, change)
    expect(gone.ok && Object.keys(gone.value.outline.shots)).toEqual(['s2'])
    const back = gone.ok ? applyChange(gone.value, invertChange(change, 'change-2')) : gone
    expect(back.ok && back.value).toEqual(film)
  })

  it('keep labels unique', () => {
    const film = withShot(withShot(empty, 1, null), 2, null)
    expect(editShot(film.outline, 'film', 's1', { label: '020' })).toMatchObject({ refusal: { code: 'label-taken' } })
    expect(editShot(film.outline, 'film', 's1', { label: '005' })).toMatchObject({ ok: true })
  })
})
