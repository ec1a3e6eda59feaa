import { posesEqual } from '../camera/pose'
import { project } from '../camera/projection'
import { pointOnPlane } from '../depth/levelPlane'
import type { Rectangle } from '../geometry/rectangle'
import type { Point3 } from '../geometry/point'
import { sameName } from '../stage/speakers'
import type { StageFrame, TakeStage } from '../stage/takeStage'

/** What is seen at one side of a cut: the last frame before it, or the first after it. */
export interface CutSide {
  readonly stage: TakeStage
  readonly frame: number
  readonly cameraId: string | null
  /** Who speaks there, by name. */
  readonly speakers: readonly string[]
}

/** Where one picture is followed by another at once. */
export interface Cut {
  /** From shot to shot, from camera to camera in one, or between two framings a frame apart. */
  readonly kind: 'shots' | 'cameras' | 'framings'
  readonly before: CutSide
  readonly after: CutSide
}

/** A cut inside a shot. */
export interface InnerCut {
  readonly kind: 'cameras' | 'framings'
  /** Tells it from others of its shot: the framing that it jumps to, or the frame at which the camera changes. */
  readonly key: string
  /** The first after it. */
  readonly frame: number
  readonly from: string | null
  readonly to: string | null
}

/** Cuts inside a shot, by the frame that is the first after each: where another camera is live at once, and where the live one jumps. */
export function cutsInside(stage: TakeStage): readonly InnerCut[] {
  const { live, lengthFrames } = stage
  const cuts: InnerCut[] = []
  for (const [i, { from, cameraId, dissolveFrames }] of live.spans.entries()) {
    const isCut = i > 0 && (dissolveFrames === 0 || live.dissolveAt(from) === null)
    if (isCut) cuts.push({ kind: 'cameras', key: `at${from}`, frame: from, from: live.spans[i - 1]!.cameraId, to: cameraId })
    const end = live.spans[i + 1]?.from ?? lengthFrames
    const framings = stage.framings(cameraId)
    for (const [n, { frame, framing }] of framings.entries()) {
      const before = framings[n - 1]
      if (before === undefined || frame <= from || frame >= end) continue
      const jumps = frame - before.frame === 1 || before.framing.move.timing.kind === 'hold'
      if (jumps && !posesEqual(framing.pose, before.framing.pose, 1e-9)) cuts.push({ kind: 'framings', key: framing.id, frame, from: cameraId, to: cameraId })
    }
  }
  return cuts.sort((a, b) => a.frame - b.frame)
}

/** A figure as a camera sees it. */
export interface SeenFigure {
  readonly levelId: string
  readonly name: string
  /** Where it stands: its pivot. */
  readonly place: Point3
  /** Of its picture, fw: from the middle of its foot to the middle of its top. */
  readonly height: number
  /** The middle of its top sixth, no farther out than the frame's edge. */
  readonly head: { readonly u: number; readonly v: number }
  /** How much of the frame it takes up, as a box. */
  readonly share: number
}

/** Of a figure's height, from the foot: the middle of its top sixth. */
const HEAD = 11 / 12
const within = (value: number, most: number) => Math.min(most, Math.max(-most, value))

/** The figures in a frame, the largest first. `boundsOf` says where a drawing's art lies, in its own fw; null where it has none. */
export function figuresIn(view: StageFrame, boundsOf: (drawingId: string) => Rectangle | null): readonly SeenFigure[] {
  const { lens, levels } = view
  const half = lens.halfHeight
  return levels
    .flatMap((placed): SeenFigure[] => {
      const { level, drawingId, copy, plane } = placed
      const bounds = level.figure !== true || level.kind === 'reference' || copy !== 0 || drawingId === null ? null : boundsOf(drawingId)
      if (bounds === null) return []
      const { left, right, bottom, top } = bounds
      const middle = (left + right) / 2
      const at = (x: number, y: number) => project(lens, pointOnPlane(plane, { x, y }))
      const corners = [at(left, bottom), at(right, bottom), at(right, top), at(left, top)]
      if (corners.some(({ z }) => z <= 0)) return []
      const [us, vs] = [corners.map(({ u }) => within(u, 0.5)), corners.map(({ v }) => within(v, half))]
      const share = ((Math.max(...us) - Math.min(...us)) * (Math.max(...vs) - Math.min(...vs))) / (2 * half)
      if (share <= 0) return []
      const [foot, crown, head] = [at(middle, bottom), at(middle, top), at(middle, bottom + (top - bottom) * HEAD)]
      const height = Math.hypot(crown.u - foot.u, crown.v - foot.v)
      return [{ levelId: level.id, name: level.name, place: placed.place, height, head: { u: within(head.u, 0.5), v: within(head.v, half) }, share }]
    })
    .sort((a, b) => b.share - a.share || (a.levelId < b.levelId ? -1 : 1))
}

/** Where the viewer looks, and why there. */
export interface Eye {
  readonly u: number
  readonly v: number
  readonly by: 'speaker' | 'figure' | 'centre'
  readonly name: string | null
}

/** At who speaks, else at the head of the largest figure, else at the middle: what is brightest is not guessed at. */
export function eyeOf(figures: readonly SeenFigure[], speakers: readonly string[]): Eye {
  const speaks = figures.find(({ name }) => speakers.some((speaker) => sameName(speaker, name)))
  const on = speaks ?? figures[0]
  return on === undefined ? { u: 0, v: 0, by: 'centre', name: null } : { ...on.head, by: speaks === undefined ? 'figure' : 'speaker', name: on.name }
}

/** How far the eye has to go, fw. */
export const eyeTravel = (from: Pick<Eye, 'u' | 'v'>, to: Pick<Eye, 'u' | 'v'>): number => Math.hypot(to.u - from.u, to.v - from.v)

/** On which side of the line from A to B a camera stands, from above: the sign of this. 0: on the line. */
export const sideOfLine = (a: Point3, b: Point3, camera: Point3): number => (b.x - a.x) * (camera.depth - a.depth) - (b.depth - a.depth) * (camera.x - a.x)
