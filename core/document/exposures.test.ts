import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { exposureAt, exposuresOf, shownAt, shownCell } from './exposures'
import { cellIdOf, type Cell } from './records'
import { orderOfNumber } from './order'
import { EMPTY_TAKE, type TakeBody } from './units'

/** Panels of these lengths; cells by level and panel, null where a level shows nothing from there on. */
function takeOf(lengths: readonly number[], cells: readonly (readonly [levelId: string, panel: number, drawingId: string | null])[]): TakeBody {
  const panels = Object.fromEntries(lengths.map((lengthFrames, i) => [`p${i}`, { id: `p${i}`, order: orderOfNumber(i), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }]))
  const records = cells.map(([levelId, panel, drawingId]) => ({ id: cellIdOf(levelId, `p${panel}`), levelId, panelId: `p${panel}`, drawingId }) as Cell)
  return { ...EMPTY_TAKE, panels, cells: Object.fromEntries(records.map((cell) => [cell.id, cell])) }
}

/** What a level shows in a panel, found by walking back. */
function walked(take: TakeBody, levelId: string, panel: number): string | null {
  for (let i = panel; i >= 0; i--) {
    const cell = take.cells[cellIdOf(levelId, `p${i}`)]
    if (cell !== undefined) return cell.drawingId
  }
  return null
}

describe('what a level shows at a frame', () => {
  const take = takeOf([12, 1, 24], [['a', 2, 'late'], ['a', 0, 'first'], ['b', 1, 'bee'], ['b', 2, null]])

  it('is its own drawing from the panel’s first frame on, held until the next, and past the end', () => {
    expect([0, 11, 12, 13, 36, 900].map((frame) => shownAt(take, 'a', frame)?.drawingId)).toEqual(['first', 'first', 'first', 'late', 'late', 'late'])
  })

  it('is nothing before the first, where it is blank, and for a level that has none', () => {
    expect([0, 11, 12, 13].map((frame) => shownAt(take, 'b', frame)?.drawingId ?? null)).toEqual([null, null, 'bee', null])
    expect([shownAt(take, 'nobody', 5), shownAt(take, 'a', -1), shownAt(EMPTY_TAKE, 'a', 0), shownCell(EMPTY_TAKE, { id: 'a' }, 0)]).toEqual([null, null, null, null])
    // A blank exposure is one all the same: it ends what was held.
    expect(exposureAt(exposuresOf(take, 'b'), 20)?.cell.drawingId).toBeNull()
  })

  it('is not told by cells of panels that are gone', () => {
    const orphan = takeOf([12], [['a', 0, 'first'], ['a', 7, 'gone']])
    expect(exposuresOf(orphan, 'a').map(({ cell }) => cell.drawingId)).toEqual(['first'])
  })

  it('is found anew when panels change, and when cells do', () => {
    const longer = { ...take, panels: takeOf([20, 1, 24], []).panels }
    expect(shownAt(take, 'a', 13)?.drawingId).toBe('late')
    expect(shownAt(longer, 'a', 13)?.drawingId).toBe('first')
    expect(shownAt(take, 'a', 13)?.drawingId).toBe('late')
    expect(shownAt({ ...take, cells: takeOf([1], [['a', 0, 'other']]).cells }, 'a', 13)?.drawingId).toBe('other')
  })

  it('is what walking back from each panel finds, for any panels and cells', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 12 }),
        fc.array(fc.tuple(fc.constantFrom('a', 'b'), fc.integer({ min: 0, max: 13 }), fc.option(fc.constantFrom('d1', 'd2', 'd3'))), { maxLength: 14 }),
        (lengths, cells) => {
          const some = takeOf(lengths, cells)
          let start = 0
          for (const [panel, length] of lengths.entries()) {
            for (const id of ['a', 'b']) {
              const wanted = walked(some, id, panel)
              expect(shownCell(some, { id }, panel)?.drawingId ?? null).toBe(wanted)
              for (const frame of [start, start + length - 1]) expect(shownAt(some, id, frame)?.drawingId ?? null).toBe(wanted)
            }
            start += length
          }
        },
      ),
    )
  })
})
