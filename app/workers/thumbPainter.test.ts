import { cellIdOf, EMPTY_TAKE, orderOfNumber, type Drawing, type Level, type TakeBody } from '@rubato/core/document'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { frameOfWidth } from '../viewport/viewBox'
import { createThumbPainter } from './thumbPainter'

/** Canvases that paint nothing; all that were made. */
const made: FakeCanvas[] = []
class FakeCanvas {
  readonly #context = new Proxy({ canvas: this } as object, {
    get: (of, name) => (name === 'canvas' ? this : name === 'getImageData' ? (_x: number, _y: number, width: number, height: number) => ({ width, height, data: new Uint8ClampedArray(width * height * 4) }) : () => of),
    set: () => true,
  })
  constructor(public width: number, public height: number) {
    made.push(this)
  }
  getContext() {
    return this.#context
  }
}
beforeEach(() => {
  made.length = 0
  vi.stubGlobal('OffscreenCanvas', FakeCanvas)
})
afterEach(() => void vi.unstubAllGlobals())

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const ground: Drawing = { marks: [{ id: 'm', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[-0.4, -0.2, 0.4, -0.2, 0.4, 0.2, -0.4, 0.2]], colour: '#2e7a68', opacity: 1 }] }
function take(): TakeBody {
  const level: Level = { id: 'ground', order: orderOfNumber(1), name: 'ground', kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }
  const cell = { id: cellIdOf('ground', 'p1'), levelId: 'ground', panelId: 'p1', drawingId: 'd' }
  return {
    ...EMPTY_TAKE,
    panels: { p1: { id: 'p1', order: orderOfNumber(1), lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' } },
    levels: { ground: level },
    cells: { [cell.id]: cell },
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
  }
}
const pixels = () => made.reduce((sum, { width, height }) => sum + width * height, 0)

describe('the painter of small pictures', () => {
  it('keeps what it rastered for the next picture, and no px of anything once it has ended', async () => {
    const painter = createThumbPainter(OPTICS, 1280, '')
    painter.putDrawing('d', ground)
    const view = frameOfWidth(320, OPTICS.aspect)
    const first = await painter.paint(take(), 0, view)
    expect([first.width, first.height]).toEqual([320, 180])
    const before = made.length
    await painter.paint(take(), 12, view)
    expect(made).toHaveLength(before)
    expect(pixels()).toBeGreaterThan(320 * 180)
    painter.end()
    expect(pixels()).toBe(0)
  })
})
