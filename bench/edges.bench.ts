import { untouchedPose } from '@rubato/core/camera'
import { findEdges, viewEdges, viewsAt, type ArtOutline } from '@rubato/core/checks'
import { cellIdOf, EMPTY_TAKE, orderOfNumber, type Level, type TakeBody } from '@rubato/core/document'
import { createTakeStage } from '@rubato/core/stage'
import { size } from '../scripts/benchSize.mjs'

/** The edge check of a shot of 1,000 frames with 12 levels of 200 points each, with and without something that covers all of the frame. */
const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const FRAMES = size(1000, 50)
const POINTS = 200
let seed = 5
const chance = () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32

function shot(covered: boolean, frames = FRAMES) {
  const byId = <R extends { readonly id: string }>(records: readonly R[]) => Object.fromEntries(records.map((record) => [record.id, record]))
  const levels = Array.from({ length: 12 }, (_, i): Level => ({ id: `l${i}`, order: orderOfNumber(i), name: `l${i}`, kind: 'drawn', x: (chance() - 0.5) * 1.5, y: (chance() - 0.5) * 0.3, depth: i * 0.4, scale: 1 + i * 0.29, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false }))
  const outlines = new Map<string, ArtOutline>(
    levels.map(({ id }, i) => {
      const r = covered && i === 11 ? 5 : 0.4
      return [`d-${id}`, { rings: [Array.from({ length: POINTS }, (_, n) => ((q) => [q * 1.4 * Math.cos((n / POINTS) * 2 * Math.PI), q * 0.6 * Math.sin((n / POINTS) * 2 * Math.PI)])(r * (0.9 + 0.1 * chance()))).flat()] }]
    }),
  )
  const framing = (id: string, offsetFrames: number, x: number) => ({ id, cameraId: 'a', panelId: 'p1', offsetFrames, pose: { ...REST, x }, move: { timing: { kind: 'even' as const }, path: { kind: 'straight' as const }, evenness: { kind: 'set' as const } }, locked: false })
  const take: TakeBody = {
    ...EMPTY_TAKE,
    panels: byId([{ id: 'p1', order: orderOfNumber(1), lengthFrames: frames, lengthLocked: false, action: '', dialogue: '', notes: '' }]),
    levels: byId(levels),
    cells: byId(levels.map(({ id }) => ({ id: cellIdOf(id, 'p1'), levelId: id, panelId: 'p1', drawingId: `d-${id}` }))),
    cameras: byId([{ id: 'a', order: 'a1', letter: 'A', locked: false }]),
    framings: byId([framing('f1', 0, 0), framing('f2', frames - 1, 1)]),
  }
  return { stage: createTakeStage(take, OPTICS), outlineOf: (id: string) => outlines.get(id) ?? null }
}

function checkMs(covered: boolean) {
  const { stage, outlineOf } = shot(covered)
  const begun = performance.now()
  const views = Array.from({ length: FRAMES }, (_, frame) => viewsAt(stage, frame).map((view) => viewEdges(view, { outlineOf })))
  const looked = performance.now()
  const findings = findEdges(stage, views, { widthPx: 1920 })
  return { ms: performance.now() - begun, perFrameUs: ((looked - begun) / FRAMES) * 1000, findMs: performance.now() - looked, findings: findings.length }
}
checkMs(true)
console.log(JSON.stringify({ open: checkMs(false), covered: checkMs(true) }))
