import { untouchedPose } from '@rubato/core/camera'
import { EMPTY_TAKE, placedFramings, type Framing, type TakeBody } from '@rubato/core/document'
import { createCameraTrack } from '@rubato/core/moves'
import { thinFramings } from '@rubato/core/stage'
import { size } from '../scripts/benchSize.mjs'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }
const REST = untouchedPose(OPTICS)
const LENGTH = 2400

/** A shot whose camera goes along a bent path over so many framings. */
function takeOf(count: number): TakeBody {
  const framings = Array.from({ length: count }, (_, i): Framing => {
    const t = i / (count - 1)
    return {
      id: `f${i}`,
      cameraId: 'a',
      panelId: 'p',
      offsetFrames: Math.round(t * (LENGTH - 1)),
      pose: { ...REST, x: 3 * t, y: 0.2 * Math.sin(9 * t), depth: REST.depth + 0.4 * t, panDegrees: 15 * Math.sin(7 * t) },
      move: { timing: { kind: 'cushioned', leaveFrames: 4, arriveFrames: 4 }, path: { kind: 'bent', leave: { x: 0.01, y: 0.02, depth: 0 }, arrive: { x: -0.01, y: 0.02, depth: 0 } }, evenness: { kind: 'set' } },
      locked: false,
    }
  })
  return {
    ...EMPTY_TAKE,
    panels: { p: { id: 'p', order: 'a1', lengthFrames: LENGTH, lengthLocked: false, action: '', dialogue: '', notes: '' } },
    cameras: { a: { id: 'a', order: 'a1', letter: 'A', locked: false } },
    framings: Object.fromEntries(framings.map((framing) => [framing.id, framing])),
  }
}

const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!
const tracks = { few: createCameraTrack(placedFramings(takeOf(2), 'a'), OPTICS), many: createCameraTrack(placedFramings(takeOf(100), 'a'), OPTICS) }

/** Microseconds a frame, over every frame of the shot. */
function evaluate(track: typeof tracks.few): number {
  const begun = performance.now()
  for (let frame = 0; frame < LENGTH; frame++) track.at(frame)
  return ((performance.now() - begun) / LENGTH) * 1000
}

const times = { few: [] as number[], many: [] as number[] }
// Turn and turn about, so that a slow spell of the machine falls on both.
for (let round = 0; round < size(80, 4); round++) {
  const [few, many] = [evaluate(tracks.few), evaluate(tracks.many)]
  if (round < size(10, 2)) continue
  times.few.push(few)
  times.many.push(many)
}
const thinning: number[] = []
for (let round = 0; round < size(5, 1); round++) {
  const begun = performance.now()
  thinFramings(takeOf(100), 'a', OPTICS, 0.5, 1920)
  thinning.push(performance.now() - begun)
}
console.log(JSON.stringify({ few: median(times.few), many: median(times.many), thinMs: median(thinning) }))
