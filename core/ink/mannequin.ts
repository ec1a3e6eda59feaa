import type { Point2 } from '../geometry/point'

/** From where a figure is seen. */
export const FIGURE_VIEWS = Object.freeze(['front', 'three-quarter', 'side', 'back'] as const)
export type FigureView = (typeof FIGURE_VIEWS)[number]
export const FIGURE_POSES = Object.freeze(['standing', 'walking', 'running', 'sitting'] as const)
export type FigurePose = (typeof FIGURE_POSES)[number]

/** A limb or the trunk as it is seen: a capsule between two circles; drawn in order, the farthest first. */
export interface Capsule {
  readonly from: Point2
  readonly to: Point2
  readonly fromRadius: number
  readonly toRadius: number
}

/** Degrees to the side that the figure faces, from straight at who looks. */
const YAW: Record<FigureView, number> = { front: 0, 'three-quarter': 40, side: 90, back: 180 }

/** Of one side's limb: how far its upper part is swung forward, and how far its lower part is bent against that, degrees. */
type Limb = readonly [swing: number, bend: number]
interface Stance {
  /** The trunk, forward. */
  readonly lean: number
  readonly legs: readonly [Limb, Limb]
  readonly arms: readonly [Limb, Limb]
}
const STANCES: Record<FigurePose, Stance> = {
  standing: { lean: 0, legs: [[0, 0], [0, 0]], arms: [[-3, 8], [-3, 8]] },
  walking: { lean: 3, legs: [[27, 8], [-22, 14]], arms: [[-26, 16], [24, 22]] },
  running: { lean: 15, legs: [[64, 82], [-30, 62]], arms: [[-52, 86], [44, 92]] },
  sitting: { lean: 2, legs: [[88, 88], [88, 88]], arms: [[28, 46], [28, 46]] },
}

interface Point3D {
  readonly x: number
  readonly y: number
  /** Forward, the way that the figure faces. */
  readonly z: number
}
const plus = (a: Point3D, b: Point3D, times = 1): Point3D => ({ x: a.x + b.x * times, y: a.y + b.y * times, z: a.z + b.z * times })
/** Hanging down, swung forward by so many degrees. */
const hung = (degrees: number): Point3D => ({ x: 0, y: -Math.cos((degrees * Math.PI) / 180), z: Math.sin((degrees * Math.PI) / 180) })

/**
 * A jointed figure `height` tall when it stands, of so many heads (2 to 9), as it is seen: its lowest foot at y 0, its hips over x 0, facing
 * right where it is turned. The bones are stood in space and laid flat from there, so that every pose is seen from every side.
 */
export function mannequin(height: number, heads: number, view: FigureView, pose: FigurePose): readonly Capsule[] {
  const head = 1 / heads
  const shoulders = 1 - head * 1.18
  const hips = shoulders * 0.58
  const trunk = shoulders - hips
  const [thigh, shin] = [hips * 0.51, hips * 0.49]
  const [upperArm, lowerArm] = [trunk * 0.48, trunk * 0.52]
  const thick = 0.035 + 0.12 * head
  const { lean, legs, arms } = STANCES[pose]
  const bones: { readonly from: Point3D; readonly to: Point3D; readonly radii: readonly [number, number] }[] = []
  const put = (from: Point3D, to: Point3D, a: number, b = a) => void bones.push({ from, to, radii: [a, b] })
  const hip = { x: 0, y: hips, z: 0 }
  const up = hung(180 - lean)
  const chest = plus(hip, up, trunk)
  const neck = plus(chest, up, head * 0.3)
  put(plus(hip, up, thick * 0.4), plus(chest, up, -thick * 0.9), thick * 1.05, thick * 1.4)
  put(neck, plus(neck, up, head * 0.4), head * 0.42, head * 0.46)
  // The face is ahead of the head, so that one sees where it looks.
  const face = plus(plus(neck, up, head * 0.22), { x: 0, y: 0, z: 1 }, head * 0.46)
  put(face, face, head * 0.09)
  for (const side of [0, 1] as const) {
    const across = side === 0 ? -1 : 1
    const [swing, bend] = legs[side]
    const [reach, elbow] = arms[side]
    const joint = plus(hip, { x: across * thick * 0.85, y: 0, z: 0 })
    const knee = plus(joint, hung(swing), thigh)
    const ankle = plus(knee, hung(swing - bend), shin)
    put(joint, knee, thick * 0.78, thick * 0.6)
    put(knee, ankle, thick * 0.6, thick * 0.42)
    const toe = plus(ankle, hung(swing - bend + 82), thick * 1.5)
    put(ankle, toe, thick * 0.42, thick * 0.34)
    const shoulder = plus(plus(chest, up, -thick * 0.6), { x: across * thick * 1.9, y: 0, z: 0 })
    const elbowAt = plus(shoulder, hung(lean * 0.5 + reach), upperArm)
    const wrist = plus(elbowAt, hung(lean * 0.5 + reach + elbow), lowerArm)
    put(shoulder, elbowAt, thick * 0.52, thick * 0.44)
    put(elbowAt, wrist, thick * 0.44, thick * 0.38)
  }
  const yaw = (YAW[view] * Math.PI) / 180
  const seen = bones.map(({ from, to, radii }) => {
    const flat = ({ x, y, z }: Point3D) => ({ x: x * Math.cos(yaw) + z * Math.sin(yaw), y, near: z * Math.cos(yaw) - x * Math.sin(yaw) })
    const [a, b] = [flat(from), flat(to)]
    return { a, b, radii, near: (a.near + b.near) / 2 }
  })
  const foot = Math.min(...seen.map(({ a, b, radii }) => Math.min(a.y - radii[0], b.y - radii[1])))
  // Standing it is as tall as asked for, from the sole to the top of the head.
  const tall = height / (shoulders + head * 0.3 + head * 0.4 + head * 0.46 + thick * (0.34 + 1.5 * Math.cos((82 * Math.PI) / 180)))
  const at = ({ x, y }: Point2): Point2 => ({ x: x * tall, y: (y - foot) * tall })
  return seen.sort((one, other) => one.near - other.near).map(({ a, b, radii }) => ({ from: at(a), to: at(b), fromRadius: radii[0] * tall, toRadius: radii[1] * tall }))
}

/** Around a capsule, a little rounder than it needs to be at the size that it is looked at; x and y in turn. */
export function capsuleOutline({ from, to, fromRadius, toRadius }: Capsule, wider = 0): number[] {
  const [a, b] = [fromRadius + wider, toRadius + wider]
  const [dx, dy] = [to.x - from.x, to.y - from.y]
  const length = Math.hypot(dx, dy)
  const along = length > 0 ? Math.atan2(dy, dx) : 0
  // Where one circle holds the other, that is all there is.
  if (length <= Math.abs(a - b)) return arc(a >= b ? from : to, Math.max(a, b), 0, Math.PI * 2)
  const spread = Math.acos((a - b) / length)
  return [...arc(to, b, along - spread, along + spread), ...arc(from, a, along + spread, along + Math.PI * 2 - spread)]
}

const STEPS = 12
function arc({ x, y }: Point2, radius: number, begin: number, end: number): number[] {
  return Array.from({ length: STEPS }, (_, i) => begin + ((end - begin) * i) / (STEPS - 1)).flatMap((angle) => [x + Math.cos(angle) * radius, y + Math.sin(angle) * radius])
}
