import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { orderOfNumber } from '../document'
import { createFilmStage, filePieces, filmFiles, spanOfPart } from './index'

const filmOf = (lengths: readonly number[]) =>
  createFilmStage(
    {
      sequences: { s: { id: 's', order: 'a0', label: '1', title: '', targetFrames: null } },
      shots: Object.fromEntries(lengths.map((_, i) => [`s${i}`, { id: `s${i}`, sequenceId: 's', order: orderOfNumber(i), label: `${(i + 1) * 10}`, title: '', circledTakeId: String(i) }])),
    },
    (take) => lengths[Number(take)]!,
  )

describe('what of a film is handed over', () => {
  const film = filmOf([48, 10, 100])
  it('is all of it, frames of it, or shots by their labels, whichever is named first', () => {
    expect([spanOfPart(film, { kind: 'film' }), spanOfPart(film, { kind: 'span', start: -5, end: 900 })]).toEqual([{ start: 0, end: 158 }, { start: 0, end: 158 }])
    expect(spanOfPart(film, { kind: 'shots', from: '30', to: '20' })).toEqual({ start: 48, end: 158 })
    expect(spanOfPart(film, { kind: 'shots', from: '20', to: '99' })).toBe(null)
  })

  it('is one file, or one for each shot that is touched, whole, with handles past its ends', () => {
    expect(filmFiles(film, { start: 50, end: 60 }, 'whole')).toEqual([{ shotId: null, label: null, span: { start: 50, end: 60 } }])
    expect(filmFiles(film, { start: 50, end: 60 }, 'shot', 8)).toEqual([
      { shotId: 's1', label: '20', span: { start: -8, end: 18 } },
      { shotId: 's2', label: '30', span: { start: -8, end: 108 } },
    ])
    expect(filmFiles(film, { start: 60, end: 60 }, 'whole')).toEqual([])
  })
})

describe('pieces of a file', () => {
  it('are cut where shots are, short ones together, long ones evenly', () => {
    const film = filmOf([48, 10, 100, 700, 5])
    const [file] = filmFiles(film, { start: 0, end: film.lengthFrames }, 'whole')
    expect(filePieces(film, file!, 96, 360)).toEqual([
      { start: 0, end: 158 },
      { start: 158, end: 508 },
      { start: 508, end: 858 },
      { start: 858, end: 863 },
    ])
    expect(filePieces(film, filmFiles(film, { start: 158, end: 159 }, 'shot', 10)[0]!, 96, 360)).toEqual([{ start: -10, end: 350 }, { start: 350, end: 710 }])
  })

  it('are the file, each frame once and in order, none longer than may be', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 900 }), { minLength: 1, maxLength: 12 }), fc.nat(2000), fc.nat(2000), fc.integer({ min: 1, max: 200 }), fc.integer({ min: 1, max: 400 }), (lengths, a, b, least, most) => {
        const film = filmOf(lengths)
        for (const each of ['whole', 'shot'] as const) {
          for (const file of filmFiles(film, spanOfPart(film, { kind: 'span', start: Math.min(a, b), end: Math.max(a, b) })!, each, 12)) {
            const pieces = filePieces(film, file, least, most)
            expect([pieces[0]!.start, pieces.at(-1)!.end]).toEqual([file.span.start, file.span.end])
            pieces.forEach(({ start, end }, i) => {
              const from = i === 0 ? file.span.start : pieces[i - 1]!.end
              if (!(start === from && end > start && end - start <= most)) throw new Error(`piece ${i} is ${start} to ${end}: from ${from}, at most ${most}`)
            })
          }
        }
      }),
    )
  })
})
