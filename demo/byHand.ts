import { untouchedPose, type CameraPose } from '@rubato/core/camera'
import type { Film, Project } from '@rubato/core/document'
import { addTake, addTry, applyChange, bakeOperated, circleTake, renameTake, type Made } from '@rubato/core/edits'
import { operatedPoses, unpackSamples, type OperatedSample } from '@rubato/core/moves'
import { opticsOf } from '@rubato/core/stage'

/** Samples a frame, as a pointer of 120 a second gives them. */
const A_FRAME = 5
const SMOOTH_FRAMES = 6

/** A hand that waits, drifts to the lamp and comes nearer, and trembles a little. */
function handOver(frames: number, start: CameraPose): readonly OperatedSample[] {
  return Array.from({ length: (frames - 1) * A_FRAME + 1 }, (_, i) => {
    const at = i / A_FRAME
    const way = Math.max(0, Math.min(1, (at - 14) / (frames - 30)))
    const gone = way * way * (3 - 2 * way)
    const tremble = 0.0012 * Math.sin(at * 2.1) + 0.0008 * Math.sin(at * 3.7 + 1)
    return { at, pose: { ...start, x: start.x + 0.11 * gone + tremble, y: start.y + 0.09 * gone + 0.7 * tremble, depth: start.depth + 0.34 * gone } }
  })
}

/** A second take of a shot, on which the camera was worked by hand; the first stays circled. */
export function withTakeByHand(film: Film, shotId: string, takeId: string, cameraId: string): Film {
  let count = 0
  const newId = () => (count++ === 0 ? takeId : `hand-${count.toString(36)}`)
  let now = film
  const step = (made: Made) => {
    const applied = made.ok ? applyChange(now, made) : null
    if (applied === null || !applied.ok) throw new Error(`withTakeByHand: ${JSON.stringify(made.ok ? applied : made.refusal)}`)
    now = applied.value
  }
  const project: Project = Object.values(film.outline.project)[0]!
  const optics = opticsOf(project)
  const first = film.outline.shots[shotId]!.circledTakeId
  step(addTake(now, project.id, first, newId))
  step(renameTake(now.outline, project.id, takeId, 'by hand'))
  step(circleTake(now, project.id, first))
  const take = now.takes[takeId]!
  const frames = Object.values(take.panels).reduce((sum, { lengthFrames }) => sum + lengthFrames, 0)
  const start = Object.values(take.framings).find((framing) => framing.cameraId === cameraId)?.pose ?? untouchedPose(optics)
  const ids = { tried: newId(), samples: newId() }
  step(addTry(take, takeId, ids, cameraId, 0, frames - 1, handOver(frames, start)))
  const samples = unpackSamples(now.tries![ids.samples]!.samples[ids.samples]!)
  const baked = bakeOperated(now.takes[takeId]!, takeId, cameraId, 0, operatedPoses(samples, frames - 1, SMOOTH_FRAMES), { optics, tolerancePx: 2, outputWidthPx: project.widthPx }, newId)
  step(baked!.made)
  return now
}
