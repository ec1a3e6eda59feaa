import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { untouchedPose, type CameraPose } from '../camera'
import { cellIdOf, EMPTY_TAKE, orderOfNumber, type Level, type TakeBody } from '../document'
import { createTakeStage, frameSignature, type StageFrame } from './index'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const NOBODY: ReadonlySet<string> = new Set()
const nameOf = (id: string) => id

const level = (id: string, order: number, fields: Partial<Level> = {}): Level => ({ id, order: orderOfNumber(order), name: id, kind: 'drawn', x: 0, y: 0, depth: 0, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, ...fields }) as Level

function takeOf(levels: readonly Level[], changes: Partial<TakeBody> = {}): TakeBody {
  const byId = <T extends { readonly id: string }>(records: readonly T[]) => Object.fromEntries(records.map((record) => [record.id, record]))
  return {
    ...EMPTY_TAKE,
    panels: byId(['p1', 'p2'].map((id, i) => ({ id, order: orderOfNumber(i), lengthFrames: 12, lengthLocked: false, action: '', dialogue: '', notes: '' }))),
    levels: byId(levels),
    cells: byId(levels.map(({ id }) => ({ id: cellIdOf(id, 'p1'), levelId: id, panelId: 'p1', drawingId: `d-${id}` }))),
    ...changes,
  }
}
const at = (take: TakeBody, frame = 0) => createTakeStage(take, OPTICS).at(frame)
const signature = (frame: StageFrame, leftOut = NOBODY) => frameSignature(frame, nameOf, leftOut)

const FIELDS = ['x', 'y', 'depth', 'scale', 'panDegrees', 'tiltDegrees', 'rollDegrees', 'opacity'] as const

describe('a frame’s signature', () => {
  it('is the same in whatever order a pose holds its fields', () => {
    const { x, y, depth, panDegrees, tiltDegrees, rollDegrees, focalLengthMm } = { ...REST, x: 0.3, y: -0.1, panDegrees: 7 }
    const poses: readonly CameraPose[] = [
      { x, y, depth, panDegrees, tiltDegrees, rollDegrees, focalLengthMm },
      { focalLengthMm, rollDegrees, tiltDegrees, panDegrees, depth, y, x },
    ]
    const stage = createTakeStage(takeOf([level('a', 1)]), OPTICS)
    expect(new Set(poses.map((pose) => signature(stage.withPose(0, pose)))).size).toBe(1)
    // Two fields changed for one another are another pose.
    expect(signature(stage.withPose(0, { ...poses[0]!, x: y, y: x }))).not.toBe(signature(stage.withPose(0, poses[0]!)))
  })

  it('is another for whatever is seen of a level, and for the camera', () => {
    fc.assert(
      fc.property(fc.constantFrom(...FIELDS), fc.double({ min: 0.05, max: 0.9, noNaN: true }), (field, by) => {
        const base = level('b', 2, { opacity: 0.95 })
        const other = field === 'opacity' ? base.opacity * by : base[field] + by
        expect(signature(at(takeOf([level('a', 1), { ...base, [field]: other } as Level])))).not.toBe(signature(at(takeOf([level('a', 1), base]))))
      }),
    )
    const [plain, tinted, fainter] = [null, { colour: '#2a6a99', strength: 0.5 }, { colour: '#2a6a99', strength: 0.4 }].map((tint) => signature(at(takeOf([level('a', 1, { tint } as Partial<Level>)]))))
    expect(new Set([plain, tinted, fainter]).size).toBe(3)
    for (const field of Object.keys(REST) as (keyof CameraPose)[]) {
      const stage = createTakeStage(takeOf([level('a', 1)]), OPTICS)
      expect(signature(stage.withPose(0, { ...REST, [field]: REST[field] + 0.1 })), field).not.toBe(signature(stage.withPose(0, REST)))
    }
  })

  it('is the same for what is not seen: names, locks, words, and levels left out, hidden or empty', () => {
    const before = signature(at(takeOf([level('a', 1)])))
    const panels = Object.fromEntries(Object.values(takeOf([]).panels).map((panel) => [panel.id, { ...panel, action: 'Tilda runs.', notes: 'x' }]))
    const others: readonly StageFrame[] = [
      at(takeOf([level('a', 1, { name: 'Sky', locked: true })])),
      at(takeOf([level('a', 1)], { panels })),
      at(takeOf([level('a', 1), level('b', 2, { visible: false })])),
      at({ ...takeOf([level('a', 1), level('b', 2)]), cells: takeOf([level('a', 1)]).cells }),
    ]
    for (const each of others) expect(signature(each)).toBe(before)
    expect(signature(at(takeOf([level('a', 1), level('b', 2)])), new Set(['b']))).toBe(before)
  })

  it('follows a drawing’s content, and which one is shown', () => {
    const take = takeOf([level('a', 1)])
    const frame = at(take)
    expect(frameSignature(frame, () => 1, NOBODY)).not.toBe(frameSignature(frame, () => 2, NOBODY))
    const id = cellIdOf('a', 'p2')
    const changed = { ...take, cells: { ...take.cells, [id]: { id, levelId: 'a', panelId: 'p2', drawingId: 'other' } } }
    expect(signature(at(changed, 11))).toBe(signature(at(take, 11)))
    expect(signature(at(changed, 12))).not.toBe(signature(at(take, 12)))
  })

  it('is one for all frames in which nothing moves', () => {
    const stage = createTakeStage(takeOf([level('a', 1), level('b', 2, { depth: 3 })]), OPTICS)
    expect(new Set(Array.from({ length: stage.lengthFrames }, (_, frame) => signature(stage.at(frame)))).size).toBe(1)
  })
})
