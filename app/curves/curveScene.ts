import { createTiming, type Bump, type MoveSpec, type PoseField, type Timing } from '@rubato/core/moves'

/** A number of a camera's pose, or of a level's values. */
export type CurveField = PoseField | 'size' | 'opacity'

/** How each value is called, written and coloured by its line. */
export const CURVE_FIELDS: Readonly<Record<CurveField, { readonly name: string; readonly unit: string; readonly decimals: number; readonly dash: readonly number[]; readonly least: number }>> = Object.freeze({
  x: { name: 'x', unit: 'fw', decimals: 3, dash: [], least: 0.05 },
  y: { name: 'y', unit: 'fw', decimals: 3, dash: [6, 3], least: 0.05 },
  depth: { name: 'depth', unit: 'fw', decimals: 3, dash: [2, 3], least: 0.05 },
  panDegrees: { name: 'pan', unit: '°', decimals: 2, dash: [9, 3, 2, 3], least: 1 },
  tiltDegrees: { name: 'tilt', unit: '°', decimals: 2, dash: [4, 2], least: 1 },
  rollDegrees: { name: 'roll', unit: '°', decimals: 2, dash: [1, 2], least: 1 },
  focalLengthMm: { name: 'lens', unit: 'mm', decimals: 1, dash: [12, 4], least: 2 },
  size: { name: 'size', unit: '×', decimals: 3, dash: [12, 4], least: 0.05 },
  opacity: { name: 'opacity', unit: '', decimals: 2, dash: [3, 6], least: 0.1 },
})

export const isCurveField = (name: string): name is CurveField => Object.hasOwn(CURVE_FIELDS, name)

export interface CurveArea {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

/** A value's range over a shot, a little wider than what it does. */
export interface CurveRange {
  readonly low: number
  readonly high: number
}

export interface Curve {
  readonly field: CurveField
  readonly range: CurveRange
  /** The value at each frame of the shot, from 0. */
  readonly values: Float64Array
  /** What its keys alone say, where something else has a say in it. */
  readonly keyed?: Float64Array
  /** Where what it goes after would have it at once; NaN where nothing does. */
  readonly goals?: Float64Array
}

/** A key, with the numbers of its value: those that its track has. */
export interface CurveKey {
  readonly id: string
  readonly frame: number
  readonly locked: boolean
  readonly move: MoveSpec
  readonly numbers: Readonly<Partial<Record<CurveField, number>>>
}

export interface CurveScene {
  readonly area: CurveArea
  readonly lengthFrames: number
  readonly curves: readonly Curve[]
  readonly keys: readonly CurveKey[]
  /** Speed on screen leaving each frame, fw a frame. */
  readonly speeds: Float32Array
  readonly bumps: readonly Bump<CurveField>[]
  /** Keys that thinning would take out. */
  readonly going: ReadonlySet<string>
  readonly selectedIds: readonly string[]
  /** The value whose beads and handles are in hand. */
  readonly active: CurveField
}

export type Numbers = CurveKey['numbers']

/** A number's line over the shot, from what it is at each frame; and what else there is to know of it there. */
export function curveOf(values: readonly Numbers[], field: CurveField, beside: { readonly keyed: readonly Numbers[]; readonly goals: readonly Numbers[] } | null = null): Curve {
  const line = Float64Array.from(values, (value) => value[field] ?? 0)
  const others = beside === null ? {} : { keyed: Float64Array.from(beside.keyed, (value) => value[field] ?? 0), goals: Float64Array.from(beside.goals, (value) => value[field] ?? NaN) }
  let [low, high] = [Infinity, -Infinity]
  for (const value of [line, others.keyed ?? [], others.goals ?? []].flatMap((each) => [...each])) {
    if (value < low) low = value
    if (value > high) high = value
  }
  const { least } = CURVE_FIELDS[field]
  const [middle, half] = [(low + high) / 2, Math.max(least, high - low) / 2]
  return { field, range: { low: middle - half * 1.15, high: middle + half * 1.15 }, values: line, ...others }
}

/** Of some values those that change over the shot; the first where none does. */
export function movingFields<F extends CurveField>(keys: readonly Pick<CurveKey, 'numbers'>[], fields: readonly F[]): readonly F[] {
  const moving = fields.filter((field) => {
    const own = keysOf(keys, field)
    return own.some(({ numbers }) => numbers[field] !== own[0]!.numbers[field])
  })
  return moving.length === 0 ? fields.slice(0, 1) : moving
}

/** The keys that a value has: all of a camera's, those of one track of a level's. */
export const keysOf = <K extends Pick<CurveKey, 'numbers'>>(keys: readonly K[], field: CurveField): readonly K[] => keys.filter(({ numbers }) => numbers[field] !== undefined)

export const xOf = ({ area, lengthFrames }: Pick<CurveScene, 'area' | 'lengthFrames'>, frame: number) => area.left + (frame / Math.max(1, lengthFrames - 1)) * area.width
export const frameOf = ({ area, lengthFrames }: Pick<CurveScene, 'area' | 'lengthFrames'>, x: number) => ((x - area.left) / area.width) * Math.max(1, lengthFrames - 1)
export const yOf = (area: CurveArea, range: CurveRange, value: number) => area.top + area.height * (1 - (value - range.low) / (range.high - range.low))
export const valueOf = (area: CurveArea, range: CurveRange, y: number) => range.low + (1 - (y - area.top) / area.height) * (range.high - range.low)

export interface CurveHandle {
  readonly keyId: string
  readonly end: 'leave' | 'arrive'
  readonly x: number
  readonly y: number
  readonly fromX: number
  readonly fromY: number
}

/** What a cushion of so many frames looks like as a curve: its handles at two thirds of it keep the ends' slopes and rests. */
export function asCustom(timing: Timing, lengthFrames: number): { readonly x1: number; readonly y1: number; readonly x2: number; readonly y2: number } {
  if (timing.kind === 'custom') return timing
  if (timing.kind === 'part') {
    const p = createTiming(timing, Math.max(1, lengthFrames))
    const near = 0.02
    return { x1: 1 / 3, y1: p(near) / near / 3, x2: 2 / 3, y2: 1 - (1 - p(1 - near)) / near / 3 }
  }
  if (timing.kind !== 'cushioned') return { x1: 1 / 3, y1: 1 / 3, x2: 2 / 3, y2: 2 / 3 }
  const L = Math.max(1, lengthFrames)
  const [a, b] = [Math.min(1, timing.leaveFrames / L), Math.min(1, timing.arriveFrames / L)]
  // Without a cushion the end keeps its slope; with one it lies flat.
  return { x1: a > 0 ? Math.min(0.9, a * 0.9 + 0.08) : 1 / 3, y1: a > 0 ? 0 : 1 / 3, x2: b > 0 ? Math.max(0.1, 1 - b * 0.9 - 0.08) : 2 / 3, y2: b > 0 ? 1 : 2 / 3 }
}

/** The handles of the moves next to what is chosen, on the active value's curve. Where the value does not change there is no slope to take hold of. */
export function curveHandles(scene: CurveScene): readonly CurveHandle[] {
  const curve = scene.curves.find(({ field }) => field === scene.active)
  if (curve === undefined) return []
  const keys = keysOf(scene.keys, scene.active)
  return keys.slice(0, -1).flatMap(({ id, frame, locked, move, numbers }, i): CurveHandle[] => {
    const next = keys[i + 1]!
    if (locked || move.timing.kind === 'hold' || !(scene.selectedIds.includes(id) || scene.selectedIds.includes(next.id))) return []
    const [from, to] = [numbers[scene.active]!, next.numbers[scene.active]!]
    if (from === to) return []
    const { x1, y1, x2, y2 } = asCustom(move.timing, next.frame - frame)
    const at = (t: number, p: number) => ({ x: xOf(scene, frame + (next.frame - frame) * t), y: yOf(scene.area, curve.range, from + (to - from) * p) })
    const [start, end, leave, arrive] = [at(0, 0), at(1, 1), at(x1, y1), at(x2, y2)]
    return [
      { keyId: id, end: 'leave', ...leave, fromX: start.x, fromY: start.y },
      { keyId: id, end: 'arrive', ...arrive, fromX: end.x, fromY: end.y },
    ]
  })
}

export type CurveHit = { readonly kind: 'bead'; readonly keyId: string; readonly field: CurveField } | { readonly kind: 'handle'; readonly handle: CurveHandle } | { readonly kind: 'curve'; readonly field: CurveField } | { readonly kind: 'ground' }

const REACH_PX = 9

export function hitCurves(scene: CurveScene, x: number, y: number): CurveHit {
  const handle = curveHandles(scene).find((each) => Math.hypot(each.x - x, each.y - y) < REACH_PX)
  if (handle !== undefined) return { kind: 'handle', handle }
  // The active value's beads lie over the others.
  const ordered = [...scene.curves].sort((a, b) => Number(b.field === scene.active) - Number(a.field === scene.active))
  for (const { field, range } of ordered) {
    const bead = keysOf(scene.keys, field).find(({ frame, numbers }) => Math.hypot(xOf(scene, frame) - x, yOf(scene.area, range, numbers[field]!) - y) < REACH_PX)
    if (bead !== undefined) return { kind: 'bead', keyId: bead.id, field }
  }
  const frame = Math.round(frameOf(scene, x))
  const near = ordered.find(({ range, values }) => values[frame] !== undefined && Math.abs(yOf(scene.area, range, values[frame]) - y) < 6)
  return near === undefined ? { kind: 'ground' } : { kind: 'curve', field: near.field }
}

/** A handle dragged to a place, as a custom timing: x stays inside the move, y may leave it. */
export function timingFromHandle(scene: CurveScene, handle: Pick<CurveHandle, 'keyId' | 'end'>, x: number, y: number): Timing | null {
  const keys = keysOf(scene.keys, scene.active)
  const at = keys.findIndex(({ id }) => id === handle.keyId)
  const [entry, next, curve] = [keys[at], keys[at + 1], scene.curves.find(({ field }) => field === scene.active)]
  if (entry === undefined || next === undefined || curve === undefined) return null
  const [from, to] = [entry.numbers[scene.active]!, next.numbers[scene.active]!]
  if (from === to) return null
  const t = Math.min(1, Math.max(0, (frameOf(scene, x) - entry.frame) / (next.frame - entry.frame)))
  const p = Math.min(10, Math.max(-10, (valueOf(scene.area, curve.range, y) - from) / (to - from)))
  const now = asCustom(entry.move.timing, next.frame - entry.frame)
  const [tt, pp] = [Number(t.toFixed(4)), Number(p.toFixed(4))]
  return handle.end === 'leave' ? { kind: 'custom', x1: tt, y1: pp, x2: now.x2, y2: now.y2 } : { kind: 'custom', x1: now.x1, y1: now.y1, x2: tt, y2: pp }
}

/** Numbers with one changed, kept where values can be. */
export function withValue<V extends CurveKey['numbers']>(numbers: V, field: keyof V & CurveField, value: number): V {
  const limits: Partial<Record<CurveField, readonly [number, number]>> = { tiltDegrees: [-89, 89], focalLengthMm: [4, 2000], size: [1e-6, 1e6], opacity: [0, 1] }
  const [low, high] = limits[field] ?? [-1e4, 1e4]
  return { ...numbers, [field]: Number(Math.min(high, Math.max(low, value)).toFixed(6)) }
}
