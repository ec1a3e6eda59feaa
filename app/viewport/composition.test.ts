import { describe, expect, it } from 'vitest'
import { untouchedPose } from '@rubato/core/camera'
import { EMPTY_TAKE, type Drawing, type Level, type TakeBody, orderOfNumber } from '@rubato/core/document'
import { createTakeStage } from '@rubato/core/stage'
import { ArtLibrary, RIM_PX } from './artLibrary'
import { keptBy } from './cuts'
import { compose, octaveNeeded, samePicture, wholeFrame } from './composition'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)

/** A canvas that takes any drawing and keeps nothing. */
function deafCanvas(width: number, height: number) {
  const context = new Proxy({}, { get: () => () => undefined, set: () => true })
  return { width, height, getContext: () => context } as unknown as OffscreenCanvas
}
const library = (budget?: number) => new ArtLibrary(1280, () => null, { ...(budget === undefined ? {} : { budgetBytes: budget }), makeCanvas: deafCanvas })
const picture = (widthFw: number, widthPx = 1280, heightPx = 720): Drawing => ({
  marks: [{ id: 'm', order: 'a1', kind: 'picture', assetHash: '0'.repeat(64), widthPx, heightPx, x: 0, y: 0, widthFw }],
})

function takeOf(levels: readonly Partial<Level>[]): TakeBody {
  const list = levels.map((fields, i) => ({ id: `l${i}`, order: orderOfNumber(i), name: 'l', kind: 'placed', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, ...fields }) as Level)
  return {
    ...EMPTY_TAKE,
    panels: { p: { id: 'p', order: 'a1', lengthFrames: 24, lengthLocked: false, action: '', dialogue: '', notes: '' } },
    levels: Object.fromEntries(list.map((level) => [level.id, level])),
    cells: Object.fromEntries(list.map((level) => [`${level.id}.p`, { id: `${level.id}.p`, levelId: level.id, panelId: 'p', drawingId: `d-${level.id}` }])),
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
  }
}
const stageOf = (levels: readonly Partial<Level>[]) => createTakeStage(takeOf(levels), OPTICS)
const VIEW = wholeFrame(1280, 720)

describe('a composition', () => {
  it('puts a picture as wide as the frame on the frame, pixel for pixel', () => {
    const { levels, turned } = compose(stageOf([{}]).at(0), VIEW, library(), () => picture(1), false)
    expect(turned).toBe(false)
    // Adding 0 makes −0 plain 0.
    expect(levels[0]!.affine!.map((n) => n + 0)).toEqual([1, 0, 0, 1, -RIM_PX, -RIM_PX])
  })

  it('halves it at twice the distance', () => {
    const { levels } = compose(stageOf([{ depth: -REST.depth }]).at(0), VIEW, library(), () => picture(1), false)
    const [bottomLeft, bottomRight] = levels[0]!.corners
    const shown = (bottomRight![0] - bottomLeft![0]) / levels[0]!.raster.canvas.width
    expect(shown * levels[0]!.raster.pxPerFw).toBeCloseTo(640, 6)
  })

  it('gives turned levels corners with their distance, and no affine', () => {
    const { levels, turned } = compose(stageOf([{ panDegrees: 40 }]).at(0), VIEW, library(), () => picture(1), false)
    expect(turned).toBe(true)
    expect(levels[0]!.affine).toBeNull()
    // Panned right, a level's right edge goes nearer to the lens than its left.
    expect(levels[0]!.corners[1]![2]).toBeLessThan(levels[0]!.corners[0]![2])
  })

  it('draws a level that goes through another in parts that leave nothing out and share nothing', () => {
    // Seen square on, a wall panned by 60° comes through it along the frame's middle.
    const { levels } = compose(stageOf([{}, { panDegrees: 60 }]).at(0), VIEW, library(), () => picture(1), false)
    const order = levels.map(({ levelId, part }) => (part === null ? levelId : `part of ${levelId}`))
    const cutOne = order.find((name) => name.startsWith('part'))!
    const whole = order.find((name) => !name.startsWith('part'))!
    expect(order).toEqual([cutOne, whole, cutOne])
    const [far, near] = levels.filter(({ part }) => part !== null).map(({ part }) => part!.cuts)
    let both = [0, 0]
    for (const y of [0, 200, 719]) for (let x = 0; x < 1280; x++) {
      expect(keptBy(far!, x, y)).toBe(!keptBy(near!, x, y))
      both = [both[0]! + Number(keptBy(far!, x, y)), both[1]! + Number(keptBy(near!, x, y))]
    }
    expect(both).toEqual([3 * 640, 3 * 640])
  })

  it('orders levels by what hides what, not by where their middles stand', () => {
    // A floor whose middle is far behind what stands on it, and a tree near its front edge.
    const floor = { tiltDegrees: -90, y: -0.25, depth: 3, scale: 6 }
    const names = (levels: readonly Partial<Level>[]) => compose(stageOf(levels).at(0), VIEW, library(), () => picture(1), false).levels.map(({ levelId }) => levelId)
    expect(names([floor, { depth: 4, y: 0.2 }])).toEqual(['l0', 'l1'])
    expect(names([{ depth: 4, y: 0.2 }, floor])).toEqual(['l1', 'l0'])
  })

  it('leaves out what is outside the view, and reference levels but where they are wanted', () => {
    expect(compose(stageOf([{ x: 3 }]).at(0), VIEW, library(), () => picture(1), false).levels).toEqual([])
    const reference = stageOf([{ kind: 'reference' }])
    expect(compose(reference.at(0), VIEW, library(), () => picture(1), false).levels).toEqual([])
    expect(compose(reference.at(0), VIEW, library(), () => picture(1), true).levels).toHaveLength(1)
  })

  it('names the drawings that are not loaded', () => {
    const { levels, missing } = compose(stageOf([{}, {}]).at(0), VIEW, library(), (id) => (id === 'd-l0' ? picture(1) : null), false)
    expect(levels).toHaveLength(1)
    expect(missing).toEqual(['d-l1'])
  })

  it('is the same picture exactly when nothing that shows has changed', () => {
    const [stage, art, drawing] = [stageOf([{}, { depth: 2 }]), library(), picture(1)]
    const at = (x: number, dim = 1) => compose(stage.withPose(0, { ...REST, x }), VIEW, art, () => drawing, false, () => dim).signature
    expect(samePicture(at(0), at(0))).toBe(true)
    expect(samePicture(at(0), at(0.001))).toBe(false)
    expect(samePicture(at(0), at(0, 0.5))).toBe(false)
    art.forgetPicture('0'.repeat(64))
    expect(samePicture(at(0), at(0))).toBe(true)
  })
})

describe('the octave a level needs', () => {
  it('goes up as the camera comes nearer', () => {
    const [stage, art, drawing] = [stageOf([{}]), library(), { marks: [...picture(1).marks, { ...picture(1).marks[0]!, id: 'n' }] }]
    const at = (depth: number) => {
      const frame = stage.withPose(0, { ...REST, depth })
      return octaveNeeded(frame, frame.levels[0]!, wholeFrame(1280, 720), art, drawing) + 0
    }
    expect([at(REST.depth), at(REST.depth * 0.9), at(REST.depth * 2)]).toEqual([0, 1, -1])
  })
})

describe('the art library', () => {
  const soft: Drawing = { marks: [{ id: 'm', order: 'a1', kind: 'picture', assetHash: '1'.repeat(64), widthPx: 640, heightPx: 360, x: 0, y: 0, widthFw: 1 }, { id: 'n', order: 'a2', kind: 'picture', assetHash: '1'.repeat(64), widthPx: 64, heightPx: 36, x: 0, y: 0, widthFw: 0.1 }] }

  it('picks the octave that is shrunk to no less than half', () => {
    const art = library()
    for (const [needed, octave] of [[1280, 0], [1281, 1], [640, -1], [641, 0], [200, -2]] as const) expect(art.octaveFor(soft, needed) + 0).toBe(octave)
  })

  it('keeps a lone picture’s own pixels at the top', () => {
    const art = library()
    expect(art.raster('d', picture(1, 1000, 500), art.octaveFor(picture(1, 1000, 500), 5000))!.pxPerFw).toBe(1000)
  })

  it('makes a raster once for a drawing, and anew for another', () => {
    const art = library()
    const first = art.raster('d', soft, 0)
    expect(art.raster('d', soft, 0)).toBe(first)
    expect(art.made).toBe(1)
    art.raster('d', { marks: [soft.marks[0]!] }, 0)
    expect(art.made).toBe(2)
  })

  it('paints what was added on the raster that is there', () => {
    const art = library()
    const first = art.raster('d', soft, 0)!
    const version = first.version
    const more: Drawing = { marks: [...soft.marks, { ...soft.marks[1]!, id: 'o', order: 'a3' }] }
    expect(art.raster('d', more, 0)).toBe(first)
    expect(first.version).not.toBe(version)
    expect(art.made).toBe(1)
  })

  it('lets the least recently used go when the budget is passed', () => {
    const one = 1284 * 724 * 4
    const art = library(one * 2.5)
    const pictures = ['a', 'b', 'c', 'd'].map((id) => [id, picture(1)] as const)
    for (const [id, drawing] of pictures) art.raster(id, drawing, 0)
    expect(pictures.map(([id, drawing]) => art.has(id, drawing, 0))).toEqual([false, false, true, true])
  })

  it('has no raster for an empty drawing', () => {
    expect(library().raster('d', { marks: [] }, 0)).toBeNull()
  })
})
