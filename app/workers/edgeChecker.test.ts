import { untouchedPose } from '@rubato/core/camera'
import { rectangleOutline } from '@rubato/core/checks'
import { cellIdOf, EMPTY_TAKE, orderOfNumber, type Drawing, type Framing, type Level, type TakeBody } from '@rubato/core/document'
import { NOTHING_BEYOND } from '@rubato/core/stage'
import { describe, expect, it, vi } from 'vitest'
import type { ArtRaster } from '../viewport/artRaster'
import { createEdgeChecker } from './edgeChecker'

/** Rasters need a browser: of a drawing here is its mark's rectangle, and how often it was asked for. */
const painted: string[] = []
vi.mock('../viewport/artLibrary', () => ({
  ArtLibrary: class {
    raster(name: string, drawing: Drawing) {
      painted.push(name)
      return drawing
    }
    forgetDrawings() {}
    forgetPicture() {}
    freeAll() {}
  },
}))
vi.mock('./artOutline', () => ({
  outlineOfRaster: (raster: ArtRaster) => {
    const [mark] = (raster as unknown as Drawing).marks
    const [left, bottom, , , right, top] = mark?.kind === 'fill' ? mark.outlines[0]! : []
    return rectangleOutline(left!, bottom!, right!, top!)
  },
}))

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const sea = (right: number): Drawing => ({ marks: [{ id: 'm', order: 'a1', kind: 'fill', mode: 'ink', outlines: [[-2.3, -0.25, right, -0.25, right, 0.25, -2.3, 0.25]], colour: '#2e7a68', opacity: 1 }] })
/** The camera goes right, evenly, until the sea behind ends. */
function travelling(): TakeBody {
  const level: Level = { id: 'sea', order: orderOfNumber(1), name: 'sea', kind: 'drawn', x: 0, y: -0.2, depth: 3.2, scale: 1.2, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }
  const cell = { id: cellIdOf('sea', 'p1'), levelId: 'sea', panelId: 'p1', drawingId: 'd-sea' }
  const move = { timing: { kind: 'even' as const }, path: { kind: 'straight' as const }, evenness: { kind: 'set' as const } }
  const framing = (id: string, offsetFrames: number, x: number): Framing => ({ id, cameraId: 'a', panelId: 'p1', offsetFrames, pose: { ...untouchedPose(OPTICS), x }, move, locked: false })
  return {
    ...EMPTY_TAKE,
    panels: { p1: { id: 'p1', order: orderOfNumber(1), lengthFrames: 49, lengthLocked: false, action: '', dialogue: '', notes: '' } },
    levels: { sea: level },
    cells: { [cell.id]: cell },
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
    framings: { f1: framing('f1', 0, 0), f2: framing('f2', 48, 1.2) },
  }
}

async function looked() {
  painted.length = 0
  const checker = createEdgeChecker(OPTICS, 1920, '')
  checker.putDrawing('d-sea', sea(2.3))
  const take = travelling()
  const look = async () => (await checker.check('t', take, NOTHING_BEYOND, () => false, () => undefined))!
  const first = await look()
  return { checker, take, look, first, finding: first.findings.find(({ id }) => id === 'sea.right')! }
}

describe('the edge checker', () => {
  it('finds where art ends, and looks again only at frames that are others', async () => {
    const { checker, look, first, finding } = await looked()
    expect(finding).toMatchObject({ kind: 'runs-out', side: 'right', ranges: [[45, 48]], worstFrame: 48 })
    expect(first).toMatchObject({ frames: 49, again: 49, anyArt: true })
    expect(await look()).toMatchObject({ findings: first.findings, again: 0 })
    checker.changeDrawing('d-sea', ['m'], sea(3).marks)
    const after = await look()
    expect(after.findings.filter(({ kind }) => kind === 'runs-out')).toEqual([])
    expect(after.again).toBe(49)
    expect(painted).toEqual(['d-sea', 'd-sea'])
  })

  it('mends what was found though the drawing has been let go of, as if it were there', async () => {
    const { checker, take, finding } = await looked()
    const mend = (of: 'larger' | 'shorter') => checker.mend(take, NOTHING_BEYOND, finding, of)
    const before = [mend('larger'), mend('shorter')]
    expect(before.map((each) => each?.of)).toEqual(['larger', 'shorter'])
    checker.forgetDrawings(['d-sea'])
    expect([mend('larger'), mend('shorter')]).toEqual(before)
  })

  it('ends at once where nobody wants it any more', async () => {
    const checker = createEdgeChecker(OPTICS, 1920, '')
    checker.putDrawing('d-sea', sea(2.3))
    let now = 0
    const clock = vi.spyOn(performance, 'now').mockImplementation(() => (now += 10))
    expect(await checker.check('t', travelling(), NOTHING_BEYOND, () => true, () => undefined)).toBeNull()
    clock.mockRestore()
  })
})
