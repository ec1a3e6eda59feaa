import { describe, expect, it } from 'vitest'
import { COLUMN_PX, columnsSeen, frameOfY, HEAD_PX, hitSheet, LEFT_PX, levelsRight, ROW_PX, rowsSeen, scrolledTo, xOfColumn, yOfFrame, type SheetScale } from './sheetScale'

const scale = (fields: Partial<SheetScale> = {}): SheetScale => ({ widthPx: 900, heightPx: 600, scrollTop: 0, scrollLeft: 0, frames: 10_000, columns: 100, ...fields })

describe('the sheet’s geometry', () => {
  it('finds again what it places, however far it is scrolled', () => {
    for (const [scrollTop, scrollLeft] of [[0, 0], [137, 40], [150_000, 5000]] as const) {
      const at = scale({ scrollTop, scrollLeft })
      const { first, last } = rowsSeen(at)
      const columns = columnsSeen(at)
      for (const frame of [first + 1, last - 1]) {
        expect(frameOfY(at, yOfFrame(at, frame) + 3)).toBe(frame)
        for (const column of [columns.first + 1, columns.last - 1]) expect(hitSheet(at, xOfColumn(at, column) + 5, yOfFrame(at, frame) + 5, null)).toEqual({ kind: 'cell', column, frame })
      }
    }
  })
  it('sees a screenful, whatever the shot’s length and number of levels', () => {
    const at = scale({ scrollTop: 100_000, scrollLeft: 3000 })
    expect(rowsSeen(at).last - rowsSeen(at).first).toBeLessThan(600 / ROW_PX + 2)
    expect(columnsSeen(at).last - columnsSeen(at).first).toBeLessThan(900 / COLUMN_PX)
  })
  it('knows heads, frames, the end in hand, and where nothing is', () => {
    const at = scale()
    expect(hitSheet(at, LEFT_PX + 5, 10, null)).toEqual({ kind: 'head', column: 0 })
    expect(hitSheet(at, 10, HEAD_PX + ROW_PX * 3 + 4, null)).toEqual({ kind: 'frame', frame: 3 })
    expect(hitSheet(at, levelsRight(at) + 10, HEAD_PX + 4, null)).toEqual({ kind: 'frame', frame: 0 })
    expect(hitSheet(at, 300, 200, { x: 304, y: 203 })).toEqual({ kind: 'end' })
    expect(hitSheet(scale({ frames: 3 }), 200, HEAD_PX + ROW_PX * 3 + 2, null)).toBeNull()
    expect(hitSheet(scale({ columns: 1 }), levelsRight(scale({ columns: 1 })) + 2, 10, null)).toBeNull()
  })
  it('scrolls no further than it must', () => {
    expect(scrolledTo(scale(), 0, 5)).toEqual({ top: 0, left: 0 })
    const down = scrolledTo(scale(), 0, 100)
    expect(yOfFrame(scale({ scrollTop: down.top }), 101)).toBe(600)
    expect(scrolledTo(scale({ scrollTop: 4000 }), 0, 100).top).toBe(2000)
    const across = scrolledTo(scale(), 60, 0)
    expect(xOfColumn(scale({ scrollLeft: across.left }), 61)).toBe(levelsRight(scale()))
  })
})
