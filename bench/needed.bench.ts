import { untouchedPose } from '@rubato/core/camera'
import { needsOfTake, neededOf, takeForDrawings } from '@rubato/core/checks'
import { cellIdOf, EMPTY_SET, EMPTY_TAKE, orderOfNumber, SET_SHOWN, unfolded, type Level, type SetBody, type TakeBody } from '@rubato/core/document'
import { createTakeStage } from '@rubato/core/stage'
import { size } from '../scripts/benchSize.mjs'

/** Art needed of a set of 12 pieces that 100 shots of 96 frames stand in, each with a camera that moves otherwise. */
const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const PIECES = 12
const byId = <R extends { readonly id: string }>(records: readonly R[]) => Object.fromEntries(records.map((record) => [record.id, record]))
const level = (id: string, i: number, fields: object): Level => ({ id, order: orderOfNumber(i), name: id, kind: 'drawn', x: 0, y: 0, depth: i * 0.4, scale: 1 + i * 0.29, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false, ...fields }) as Level
const set: SetBody = {
  ...EMPTY_SET,
  pieces: byId(Array.from({ length: PIECES }, (_, i) => level(`p${i}`, i, { panDegrees: i % 4 === 3 ? 25 : 0 }))) as SetBody['pieces'],
  art: byId(Array.from({ length: PIECES }, (_, i) => ({ id: `p${i}`, drawingId: `d${i}` }))) as SetBody['art'],
}
const drawings = new Set(Array.from({ length: PIECES }, (_, i) => `d${i}`))

// Wide as the backgrounds of a set are.
const hints = new Map([...drawings].map((id) => [id, { bounds: { left: -4, right: 4, bottom: -2, top: 2 }, owes: null }]))

function shot(n: number): TakeBody {
  const framing = (id: string, offsetFrames: number, x: number, depth: number) => ({ id, cameraId: 'a', panelId: 'p1', offsetFrames, pose: { ...REST, x, depth: REST.depth + depth, rollDegrees: n % 7 }, move: { timing: { kind: 'even' as const }, path: { kind: 'straight' as const }, evenness: { kind: 'set' as const } }, locked: false })
  const shown = { id: cellIdOf('s', 'p1'), levelId: 's', panelId: 'p1', drawingId: SET_SHOWN }
  return {
    ...EMPTY_TAKE,
    panels: byId([{ id: 'p1', order: orderOfNumber(1), lengthFrames: 96, lengthLocked: false, action: '', dialogue: '', notes: '' }]),
    levels: byId([level('s', 0, { kind: 'set', setId: 'set', depth: 0, scale: 1 }), ...Array.from({ length: 8 }, (_, i) => level(`own${i}`, i + 1, {}))]),
    cells: byId([shown, ...Array.from({ length: 8 }, (_, i) => ({ id: cellIdOf(`own${i}`, 'p1'), levelId: `own${i}`, panelId: 'p1', drawingId: `own-${i}` }))]),
    cameras: byId([{ id: 'a', order: 'a1', letter: 'A', locked: false }]),
    framings: byId([framing('f1', 0, n * 0.02 - 1, 0), framing('f2', 48, n * 0.03 - 1, 0.3), framing('f3', 95, 1 - n * 0.02, (n % 5) * 0.1)]),
  }
}

function needMs(shots: number) {
  const takes = Array.from({ length: shots }, (_, n) => unfolded(shot(n), () => set))
  const begun = performance.now()
  const parts = takes.map((take, n) => needsOfTake(createTakeStage(takeForDrawings(take, drawings), OPTICS), `t${n}`, hints, 0.05))
  const gathered = performance.now()
  const needs = [...drawings].map((id) => neededOf([id], parts)!)
  return { ms: performance.now() - begun, gatherMs: gathered - begun, points: needs.map(({ rings }) => rings.reduce((sum, ring) => sum + ring.length / 2, 0)), seen: needs[0]!.seen.length }
}
needMs(5)
// A machine shared with others is taken away for seconds at a time: the quickest of a few.
const rounds = Array.from({ length: size(5, 1) }, () => needMs(size(100, 10))).toSorted((a, b) => a.ms - b.ms)
console.log(JSON.stringify({ one: needMs(1), hundred: rounds[0], slowest: rounds.at(-1)!.ms }))
