import type { CameraPose } from '@rubato/core/camera'
import { EMPTY_TAKE, orderOfNumber, type CameraSpan, type Framing, type Level, type LevelKey, type TakeBody } from '@rubato/core/document'
import { operatedPoses } from '@rubato/core/moves'
import { createTakeStage, fitFramings } from '@rubato/core/stage'
import { size } from '../scripts/benchSize.mjs'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const LENGTH = 1000
const SPAN = { inFrames: 12, outFrames: 12, panelId: 'p', offsetFrames: 0 }

/** A runner among twelve levels, and so many cameras; with `follows` all of them follow, aim and are held by hand. */
function takeOf(cameras: number, follows: boolean): TakeBody {
  const level = (i: number): Level => ({ id: `l${i}`, order: orderOfNumber(i), name: `l${i}`, kind: 'drawn', x: 0, y: 0, depth: 0.2 * i, scale: 1, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, opacity: 1, visible: true, locked: false })
  const move = { timing: { kind: 'cushioned', leaveFrames: 9, arriveFrames: 9 }, path: { kind: 'straight' }, evenness: { kind: 'set' } } as const
  const keys = Array.from({ length: 11 }, (_, i): LevelKey => ({ id: `k${i}`, levelId: 'l0', panelId: 'p', offsetFrames: Math.min(LENGTH - 1, i * 100), move, locked: false, of: 'place', value: { x: 0.6 * i, y: 0.1 * Math.sin(i), depth: 0.1 * (i % 3) } }))
  const ids = Array.from({ length: cameras }, (_, i) => `c${i}`)
  const pose = (x: number): CameraPose => ({ x, y: 0, depth: -2, panDegrees: 3 * x, tiltDegrees: 0, rollDegrees: 0, focalLengthMm: 50 })
  const framings = ids.flatMap((cameraId, n) => Array.from({ length: 6 }, (_, i): Framing => ({ id: `${cameraId}-${i}`, cameraId, panelId: 'p', offsetFrames: Math.min(LENGTH - 1, i * 190), pose: pose(i * 0.4 + n), move, locked: false })))
  const target = { levelId: 'l0' }
  const spans: CameraSpan[] = !follows
    ? []
    : ids.flatMap((cameraId) => [
        { ...SPAN, id: `${cameraId}-f`, cameraId, kind: 'follow' as const, target, u: -0.1, v: 0, lagFrames: 6, axes: { x: true, y: true, depth: false }, still: { widthFw: 0.05, heightFw: 0.05 }, lead: { mostFw: 0.1, atFwPerFrame: 0.01 } },
        { ...SPAN, id: `${cameraId}-a`, cameraId, kind: 'aim' as const, target: { levelId: 'l5' }, u: 0, v: 0.05, lagFrames: 4 },
        { ...SPAN, id: `${cameraId}-h`, cameraId, kind: 'hand' as const, placeFw: 0.01, rollDegrees: 0.5, turnDegrees: 0, periodFrames: 48, seed: 3 },
      ])
  const byId = <R extends { readonly id: string }>(records: readonly R[]) => Object.fromEntries(records.map((record) => [record.id, record]))
  return {
    ...EMPTY_TAKE,
    panels: { p: { id: 'p', order: 'a1', lengthFrames: LENGTH, lengthLocked: false, action: '', dialogue: '', notes: '' } },
    levels: byId(Array.from({ length: 12 }, (_, i) => level(i))),
    levelKeys: byId(keys),
    cameras: byId(ids.map((id, i) => ({ id, order: orderOfNumber(i), letter: 'ABCDEF'[i]!, locked: false }))),
    framings: byId(framings),
    spans: byId(spans),
  }
}

const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!
const inOrder = Array.from({ length: LENGTH }, (_, frame) => frame)
const scattered = inOrder.map((frame) => (frame * 607) % LENGTH)

/** The cost of a frame, µs, over all of them in an order; the first has all of the following to work out. */
function evaluate(take: TakeBody, frames: readonly number[]) {
  const stage = createTakeStage(take, OPTICS)
  const begun = performance.now()
  let [first, worst] = [0, 0]
  frames.forEach((frame, i) => {
    const before = performance.now()
    stage.at(frame)
    const took = performance.now() - before
    if (i === 0) first = took
    else worst = Math.max(worst, took)
  })
  return { all: ((performance.now() - begun) / LENGTH) * 1000, first, worst }
}

const takes = { follow: takeOf(1, true), one: takeOf(1, false), six: takeOf(6, false) }
const times = { order: [] as number[], random: [] as number[], first: [] as number[], worst: [] as number[], one: [] as number[], six: [] as number[] }
// Turn and turn about, so that a slow spell of the machine falls on all.
for (let round = 0; round < size(60, 4); round++) {
  const [order, random] = [evaluate(takes.follow, inOrder), evaluate(takes.follow, scattered)]
  const [one, six] = [evaluate(takes.one, inOrder), evaluate(takes.six, inOrder)]
  if (round < size(15, 2)) continue
  times.order.push(order.all)
  times.random.push(random.all)
  times.first.push(random.first)
  times.worst.push(random.worst)
  times.one.push(one.all)
  times.six.push(six.all)
}

const SECONDS = size(60, 4)
/** A minute of a hand at 120 samples a second and 24 frames: it goes along, dwells, comes nearer, and trembles eight times a second. */
const samples = Array.from({ length: SECONDS * 120 + 1 }, (_, i) => {
  const f = i / 5
  const tremble = 0.003 * Math.sin(2 * Math.PI * 8 * (i / 120)) + 0.002 * Math.sin(2 * Math.PI * 11.3 * (i / 120))
  return { at: f, pose: { x: 2 * Math.sin(f / 210) + 0.3 * Math.sin(f / 61) + tremble, y: 0.2 * Math.sin(f / 130) - tremble, depth: -2 + 0.6 * Math.sin(f / 330), panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, focalLengthMm: 50 } }
})
const begun = performance.now()
const led = operatedPoses(samples, 24 * SECONDS - 1, 6)
const fitted = fitFramings(led, { optics: OPTICS, depths: [0, 1, 3], limit: 1 / 1920 })!
const fitMs = performance.now() - begun
console.log(JSON.stringify({ ...Object.fromEntries(Object.entries(times).map(([name, each]) => [name, median(each)])), fitMs, framings: fitted.framings.length, mostPx: fitted.most * 1920 }))
