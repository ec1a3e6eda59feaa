import type { Optics } from '../../camera/lens'
import type { CameraPose } from '../../camera/pose'
import type { EdgeOptions, Finding } from '../../checks/edges'
import { viewsAt } from '../../checks/views'
import { seenRings } from '../../checks/outline'
import { reachOf } from '../../checks/reach'
import { into } from '../../depth/carriage'
import { carriageIn } from '../../document/carriers'
import { isSetLevel, pieceOf } from '../../document/sets'
import { takeRef, type TakeBody } from '../../document/units'
import { add, cross, dot, scale, subtract, type Point3 } from '../../geometry/point'
import { angleAt } from '../../moves/angles'
import { createTakeStage, NOTHING_BEYOND, placedLevel, type Beyond, type TakeStage } from '../../stage/takeStage'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'
import { applyToUnit } from '../change/edit'
import { setFramingPose } from './framings'
import { transformMotion } from './levelMotion'

/** What closes an edge: the level made so many times as large, or the framings at which art is missing drawn so far (0…1) towards the nearest at which it is not. */
export type MendKind = 'larger' | 'shorter'
export interface Mend {
  readonly of: MendKind
  readonly amount: number
}

/** A level is made at most so many times as large: more would be seen for what it is. */
const LARGEST = 3
const STEPS = 22
/** Frames that are looked at while the least is searched; all are when it is found. */
const TRIED_FRAMES = 48

/** The point of a level's plane straight before the lens, or behind it. */
function footOn({ origin, axisX, axisY }: { readonly origin: Point3; readonly axisX: Point3; readonly axisY: Point3 }, lens: Point3): Point3 {
  const normal = cross(axisX, axisY)
  const off = dot(subtract(lens, origin), normal) / dot(normal, normal)
  return subtract(lens, scale(normal, off))
}

/** What a mend makes of a take. Refused where it can be of no use: a piece of a set, a level or a framing that is locked, no framing that is well. */
export function mendEdge(take: TakeBody, takeId: string, finding: Finding, { of, amount }: Mend, optics: Optics): Made {
  return of === 'larger' ? larger(take, takeId, finding, amount, optics) : shorter(take, takeId, finding, amount, optics)
}

function larger(take: TakeBody, takeId: string, { levelId, worstFrame, cameraId }: Finding, factor: number, optics: Optics): Made {
  const level = levelId === null ? undefined : take.levels[levelId]
  if (level === undefined || isSetLevel(level) || pieceOf(level.id) !== null) return refused({ code: 'missing', what: 'level', id: levelId ?? '' })
  if (level.locked) return refused({ code: 'level-locked', id: level.id })
  const stage = createTakeStage(take, optics)
  const frame = stage.through(worstFrame, cameraId)
  const placed = placedLevel(frame, level.id)
  if (placed === null) return refused({ code: 'missing', what: 'level', id: level.id })
  const seen = stage.seen(worstFrame, frame.pose)
  const foot = into(carriageIn(take, level, seen), footOn(placed.plane, frame.lens.position))
  const draft = new Draft(take)
  const refusal = transformMotion(draft, take, level, { place: (at) => add(foot, scale(subtract(at, foot), factor)), handle: (offset) => scale(offset, factor), factor })
  return refusal ?? made(draft.edit('mend-larger', takeRef(takeId)))
}

/** Framings of the camera at which art is missing, each with the nearest in time at which it is not. */
function missingAt(stage: TakeStage, { cameraId, ranges }: Finding) {
  const framings = cameraId === null ? [] : stage.framings(cameraId)
  const isMissing = (frame: number) => ranges.some(([first, last]) => first <= frame && frame <= last)
  const well = framings.filter(({ frame }) => !isMissing(frame))
  return framings.flatMap(({ framing, frame }) => {
    if (!isMissing(frame) || well.length === 0) return []
    const nearest = well.reduce((best, each) => (Math.abs(each.frame - frame) < Math.abs(best.frame - frame) ? each : best))
    return [{ framing, to: nearest.framing.pose }]
  })
}

function shorter(take: TakeBody, takeId: string, finding: Finding, part: number, optics: Optics): Made {
  const missing = missingAt(createTakeStage(take, optics), finding)
  if (missing.length === 0) return refused({ code: 'nothing-selected' })
  const edits = []
  for (const { framing, to } of missing) {
    const one = setFramingPose(take, takeId, framing.id, towards(framing.pose, to, part))
    if (!one.ok) return one
    edits.push(...one.edits)
  }
  return made(...edits)
}

function towards(from: CameraPose, to: CameraPose, part: number): CameraPose {
  const even = (a: number, b: number) => a + (b - a) * part
  return {
    x: even(from.x, to.x),
    y: even(from.y, to.y),
    depth: even(from.depth, to.depth),
    panDegrees: angleAt(from.panDegrees, to.panDegrees, part),
    tiltDegrees: angleAt(from.tiltDegrees, to.tiltDegrees, part),
    rollDegrees: angleAt(from.rollDegrees, to.rollDegrees, part),
    focalLengthMm: from.focalLengthMm ** (1 - part) * to.focalLengthMm ** part,
  }
}

/** The least of a mend that leaves nothing missing at any frame that is shown of the shot; null where no amount of it does, or it is of no use. */
export function leastMend(take: TakeBody, finding: Finding, of: MendKind, optics: Optics, options: EdgeOptions, beyond: Beyond = NOTHING_BEYOND): Mend | null {
  const { levelId, side, ranges } = finding
  if (levelId === null || side === 'inside') return null
  const [none, most] = of === 'larger' ? [1, LARGEST] : [0, 1]
  const inRanges = ranges.flatMap(([first, last]) => Array.from({ length: last - first + 1 }, (_, i) => first + i))
  const tried = inRanges.filter((_, i) => i % Math.ceil(inRanges.length / TRIED_FRAMES) === 0).concat(finding.worstFrame)
  const closes = (amount: number, frames: readonly number[] | null): boolean => {
    const stage = mended(take, finding, { of, amount }, optics, beyond)
    if (stage === null) return false
    const { first, last } = stage.shown
    const all = frames ?? Array.from({ length: last - first + 1 }, (_, i) => first + i)
    return all.every((frame) =>
      viewsAt(stage, frame).every(({ lens, levels }) => {
        const rings = levels.flatMap((placed) => {
          const outline = placed.level.id === levelId && placed.drawingId !== null ? options.outlineOf(placed.drawingId, placed.pictureIndex) : null
          return outline === null ? [] : seenRings(lens, placed.plane, outline)
        })
        return rings.length === 0 || (reachOf(rings, lens.halfHeight)[side] ?? 0) >= 0
      }),
    )
  }
  if (!closes(most, tried)) return null
  let [low, high] = [none, most]
  for (let step = 0; step < STEPS; step++) {
    const middle = (low + high) / 2
    if (closes(middle, tried)) high = middle
    else low = middle
  }
  // What was not looked at may ask for a little more.
  for (let more = 0; more < 6; more++) {
    const amount = Math.min(most, none + (high - none) * (1 + 0.02 * more))
    if (closes(amount, null)) return { of, amount }
  }
  return null
}

function mended(take: TakeBody, finding: Finding, mend: Mend, optics: Optics, beyond: Beyond): TakeStage | null {
  const found = mendEdge(take, 'take', finding, mend, optics)
  if (!found.ok) return null
  let body = take
  for (const edit of found.edits) {
    const applied = applyToUnit(body, edit)
    if (!applied.ok) return null
    body = applied.value
  }
  return createTakeStage(body, optics, beyond)
}
