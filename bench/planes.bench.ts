import { planeTree, type FlatArt } from '@rubato/core/depth'
import { basisOf } from '@rubato/core/camera'
import { scale } from '@rubato/core/geometry'
import { size } from '../scripts/benchSize.mjs'

/** Turned planes that cut each other: sorting and splitting them anew, and going through them while nothing turns. */
let seed = 7
const chance = () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32
const by = (most: number) => (chance() * 2 - 1) * most

function planes(count: number, room: number): FlatArt[] {
  return Array.from({ length: count }, (_, rackIndex) => {
    const { right, up } = basisOf({ panDegrees: by(180), tiltDegrees: by(90), rollDegrees: by(180) })
    const size = 0.7 + chance() * 0.6
    return { plane: { origin: { x: by(room), y: by(room * 0.6), depth: 1 + by(room) }, axisX: scale(right, size), axisY: scale(up, size) }, bounds: { left: -0.5, bottom: -0.28, right: 0.5, top: 0.28 }, rackIndex }
  })
}

const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!
function measure(count: number, room: number) {
  const made: number[] = []
  const walked: number[] = []
  const parts: number[] = []
  for (let round = 0; round < size(40, 12); round++) {
    const list = planes(count, room)
    let begun = performance.now()
    const tree = planeTree(list)
    made.push(performance.now() - begun)
    parts.push(tree.parts)
    tree.farToNear({ x: 0, y: 0, depth: -1.4 })
    begun = performance.now()
    for (let i = 0; i < 10; i++) tree.farToNear({ x: i * 0.01, y: 0, depth: -1.4 })
    walked.push((performance.now() - begun) / 10)
  }
  return { made: median(made.slice(10)), walked: median(walked.slice(10)), parts: median(parts) }
}

console.log(JSON.stringify({ some: measure(40, 1.2), dense: measure(40, 0.35) }))
