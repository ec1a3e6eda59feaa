import { FillRule, intersect, union as unionOf, type Path64, type Paths64 } from 'clipper2-ts'
import { NEAREST_Z, type Lens } from '../camera/projection'
import type { LevelPlane } from '../depth/levelPlane'
import { carrierOf } from '../document/carriers'
import { pieceOf } from '../document/sets'
import { targetOf } from '../document/spans'
import type { Level } from '../document/records'
import type { TakeBody } from '../document/units'
import { keptBy } from '../geometry/halfPlane'
import { cross, dot, subtract, type Point2 } from '../geometry/point'
import { cornersOf, heightOf, rectangleAround, union, widthOf, type Rectangle } from '../geometry/rectangle'
import type { TakeStage } from '../stage/takeStage'
import { SIDES, type Side } from './reach'
import { viewsAt } from './views'

/** A plane that goes on to the horizon is asked for so far from the lens, fw. */
export const FARTHEST_Z = 20
/** Of the frame's width, added at each side. */
export const NEED_MARGIN = Object.freeze({ usual: 0.05, most: 0.5 })
/** Whole numbers that polygons are counted in: a millionth of a fw. */
const UNITS_PER_FW = 1e6
/** Outlines are joined so many at a time. */
const AT_ONCE = 6

/** What of a plane a frame takes in. */
export interface FrameOnPlane {
  /** A convex outline, in the art's own fw. */
  readonly corners: readonly Point2[]
  /** How near to the lens it comes, along the lens axis. */
  readonly nearest: number
  /** Whether it would go on beyond what is asked for. */
  readonly isEndless: boolean
}

/** The frame, wider by `margin` fw at each side, carried back onto a plane; null where it does not meet it before the lens. */
export function frameOnPlane(lens: Lens, plane: LevelPlane, margin: number): FrameOnPlane | null {
  const { axisX, axisY } = plane
  const normal = cross(axisX, axisY)
  const squared = dot(normal, normal)
  const [alongX, alongY] = [cross(axisY, normal), cross(normal, axisX)]
  const { right, up, forward, k } = lens
  const q = subtract(plane.origin, lens.position)
  const off = dot(q, normal)
  if (Math.abs(off) <= 1e-9 * Math.sqrt(squared)) return null
  // Across the frame the inverse of the distance goes evenly, and so does what the ray goes along each axis of the art while it goes one along the lens axis.
  const [nearA, nearB, nearC] = [dot(right, normal) / (k * off), dot(up, normal) / (k * off), dot(forward, normal) / off]
  const [xA, xB, xC] = [dot(right, alongX) / (k * squared), dot(up, alongX) / (k * squared), dot(forward, alongX) / squared]
  const [yA, yB, yC] = [dot(right, alongY) / (k * squared), dot(up, alongY) / (k * squared), dot(forward, alongY) / squared]
  const [fromX, fromY] = [dot(q, alongX) / squared, dot(q, alongY) / squared]
  const [u, v] = [0.5 + margin, lens.halfHeight + margin]
  // What goes evenly is largest and least in a corner.
  const [sway, middle] = [Math.abs(nearA) * u + Math.abs(nearB) * v, nearC]
  let kept: readonly Point2[] = [{ x: -u, y: -v }, { x: u, y: -v }, { x: u, y: v }, { x: -u, y: v }]
  if (middle + sway > 1 / NEAREST_Z) kept = keptBy(kept, [{ a: -nearA, b: -nearB, c: 1 / NEAREST_Z - nearC }])
  const isEndless = middle - sway < 1 / FARTHEST_Z && kept.some(({ x, y }) => nearA * x + nearB * y + nearC < 1 / FARTHEST_Z)
  if (isEndless) kept = keptBy(kept, [{ a: nearA, b: nearB, c: nearC - 1 / FARTHEST_Z }])
  if (kept.length < 3) return null
  let most = 0
  const corners: Point2[] = []
  for (const { x, y } of kept) {
    const inverse = nearA * x + nearB * y + nearC
    most = Math.max(most, inverse)
    corners.push({ x: (xA * x + xB * y + xC) / inverse - fromX, y: (yA * x + yB * y + yC) / inverse - fromY })
  }
  return { corners, nearest: 1 / most, isEndless }
}

/** Where a drawing is seen: on one level, through one camera, in frames that follow each other. */
export interface SeenThere {
  readonly takeId: string
  readonly levelId: string
  readonly cameraId: string | null
  /** Of the shot; both are seen. */
  readonly first: number
  readonly last: number
  /** Fw of the picture to one of the art where it is largest, and when that is first. */
  readonly magnification: number
  readonly closestFrame: number
}

/** What the moves show of a drawing. */
export interface ArtNeed {
  /** The outline of all that is seen of its plane, as rings of x, y in turn, in the art's own fw. */
  readonly rings: readonly (readonly number[])[]
  readonly box: Rectangle
  /** Fw of the picture to one of the art where it is seen largest. */
  readonly magnification: number
  readonly seen: readonly SeenThere[]
  /** Whether it goes on to the horizon: it ends `FARTHEST_Z` from the lens here. */
  readonly isEndless: boolean
  /** Past which sides of the frame it must go. Towards the others it needs no more than is seen of its art: of what stands in the picture, towards all. */
  readonly owed: readonly Side[]
}

/** What the frame takes in while its corners go straight and do not turn back: to the tolerance all of it lies under the outline of its two ends. */
interface Run {
  readonly first: readonly Point2[]
  last: readonly Point2[]
  /** Of each corner, once it has left where it began. */
  readonly sleeves: (Sleeve | undefined)[]
}
/** The directions, counted from its first, in which a corner may go on without leaving one that it has had by more than the tolerance: as tangents, a quarter turn at most. */
interface Sleeve {
  readonly x: number
  readonly y: number
  low: number
  high: number
  /** How far it has come. */
  far: number
}
/** Corners that stray no more than this from the straight go straight, fw of the picture: a quarter of a pixel at 1920. */
const TOLERANCE_FW = 0.25 / 1920

/** What is known of a drawing beforehand. */
export interface DrawingHint {
  /** Where its art lies, in its own fw; null where that is not known. A frame that takes in nothing of it does not see it. */
  readonly bounds: Rectangle | null
  /** Past which sides of the frame it must go; null: left and right where it goes from side to side of it at some time, above and below where it then goes past those. */
  readonly owes: readonly Side[] | null
}

/** The same while it is gathered. */
type Told = { -readonly [F in keyof SeenThere]: SeenThere[F] }
interface Gathered {
  readonly runs: Run[]
  readonly box: { -readonly [S in Side]: number }
  isEndless: boolean
  readonly owed: Set<Side>
  readonly seen: Told[]
}

/** What a camera saw of a level up to now, while it goes on. */
interface Trail {
  readonly drawingId: string
  readonly seen: Told
  /** Of each copy, and the frame that it was last seen at. */
  readonly copies: { readonly run: Run; frame: number }[]
}

/** A take with no more levels than are needed to say where those stand that show one of these drawings: a survey of one level then costs what one level does. */
export function takeForDrawings(take: TakeBody, drawingIds: ReadonlySet<string>): TakeBody {
  const kept = new Set<string>()
  const keep = (id: string) => {
    const level: Level | undefined = take.levels[id]
    if (level === undefined || kept.has(id)) return
    kept.add(id)
    const carrier = carrierOf(take, level)
    if (carrier?.kind === 'level') keep(carrier.levelId)
    const of = pieceOf(id)
    if (of !== null) keep(of.setLevelId)
  }
  for (const { levelId, drawingId } of Object.values(take.cells)) if (drawingId !== null && drawingIds.has(drawingId)) keep(levelId)
  if (kept.size === 0) return { ...take, levels: {}, cells: {} }
  // What a camera follows moves it.
  for (const span of Object.values(take.spans)) {
    const target = targetOf(span)
    if (target !== null) keep(target.levelId)
  }
  const of = <R>(records: Readonly<Record<string, R>>, levelId: (record: R) => string) => Object.fromEntries(Object.entries(records).filter(([, record]) => kept.has(levelId(record))))
  return { ...take, levels: of(take.levels, ({ id }) => id), cells: of(take.cells, (cell) => cell.levelId) }
}

/** What the frames of one take show of drawings, by drawing: not joined yet. */
export type TakeNeeds = ReadonlyMap<string, Omit<ArtNeed, 'rings' | 'magnification'> & { readonly shapes: readonly (readonly Point2[])[]; readonly bounds: Rectangle | null }>

/** Frames between two of which one who does it step by step may rest. */
const FRAMES_A_STEP = 24

/** What a take's frames show of these drawings, all at once. */
export const needsOfTake = (stage: TakeStage, takeId: string, drawings: ReadonlyMap<string, DrawingHint>, margin: number): TakeNeeds => finished(needSteps(stage, takeId, drawings, margin))

/** Goes through all the steps of something. */
export function finished<R>(steps: Generator<void, R>): R {
  for (;;) {
    const { done, value } = steps.next()
    if (done === true) return value
  }
}

/** What a take's frames show of these drawings; between two frames of one camera what lies between is taken in too, so that the outline is as smooth as the move. */
export function* needSteps(stage: TakeStage, takeId: string, drawings: ReadonlyMap<string, DrawingHint>, margin: number): Generator<void, TakeNeeds> {
  const gathered = new Map<string, Gathered>()
  const trails = new Map<string | null, Map<Level, Trail>>()
  for (let frame = stage.shown.first; frame <= stage.shown.last; frame++) {
    if (Math.abs(frame) % FRAMES_A_STEP === FRAMES_A_STEP - 1) yield
    for (const { lens, levels, cameraId } of viewsAt(stage, frame)) {
      let ofCamera = trails.get(cameraId)
      if (ofCamera === undefined) trails.set(cameraId, (ofCamera = new Map()))
      for (const { drawingId, opacity, plane, size, copy, level } of levels) {
        const hint = drawingId === null ? undefined : drawings.get(drawingId)
        if (drawingId === null || hint === undefined || opacity <= 0) continue
        const found = frameOnPlane(lens, plane, margin)
        if (found === null || (hint.bounds !== null && !meets(found.corners, hint.bounds))) continue
        const { corners, nearest } = found
        let own = gathered.get(drawingId)
        if (own === undefined) gathered.set(drawingId, (own = { runs: [], box: { left: Infinity, right: -Infinity, bottom: Infinity, top: -Infinity }, isEndless: false, owed: new Set(hint.owes ?? (hint.bounds === null ? SIDES : [])), seen: [] }))
        let trail = ofCamera.get(level)
        // A repeated level is seen once, however many it is.
        if (trail === undefined || trail.drawingId !== drawingId || trail.seen.last < frame - 1) {
          ofCamera.set(level, (trail = { drawingId, seen: { takeId, levelId: level.id, cameraId, first: frame, last: frame, magnification: 0, closestFrame: frame }, copies: [] }))
          own.seen.push(trail.seen)
        }
        const { seen, copies } = trail
        const before = copies[copy]
        const tolerance = (TOLERANCE_FW * nearest) / (lens.k * size)
        const run = before !== undefined && before.frame === frame - 1 && !isJump(before.run.last, corners) ? before.run : null
        if (run !== null && (isSame(run.last, corners) || goesOn(run, corners, tolerance))) before!.frame = frame
        else {
          // It begins where the one before ends, unless there was a cut or as many corners are no longer in view.
          const from = run !== null && run.last.length === corners.length ? run.last : corners
          const begun: Run = { first: from, last: from, sleeves: [] }
          if (from !== corners) goesOn(begun, corners, tolerance)
          own.runs.push(begun)
          copies[copy] = { run: begun, frame }
        }
        takeIn(own.box, corners)
        if (hint.owes === null && own.owed.size < SIDES.length) owe(own.owed, hint.bounds!, rectangleAround(corners)!, margin)
        own.isEndless ||= found.isEndless
        seen.last = frame
        const magnification = (lens.k * size) / nearest
        if (magnification > seen.magnification * (1 + 1e-12)) [seen.magnification, seen.closestFrame] = [magnification, frame]
      }
    }
  }
  return new Map([...gathered].map(([id, { runs, box, isEndless, owed, seen }]) => [id, { shapes: runs.map(({ first, last }) => hullOf([...first, ...last])), box, isEndless, owed: [...owed], seen, bounds: drawings.get(id)!.bounds }]))
}

/** What all of these takes together show of drawings that are made on one paper; null where none shows any. */
export function neededOf(drawingIds: readonly string[], takes: readonly TakeNeeds[]): ArtNeed | null {
  const parts = takes.flatMap((needs) => drawingIds.flatMap((id) => needs.get(id) ?? []))
  if (parts.length === 0) return null
  const seen = parts.flatMap((part) => part.seen)
  const owed = SIDES.filter((side) => parts.some((part) => part.owed.includes(side)))
  const all = joined(parts.flatMap(({ shapes }) => shapes))
  const box = parts.reduce<Rectangle | null>((sum, part) => union(sum, part.box), null)!
  const art = owed.length === SIDES.length ? null : beyond(parts.reduce<Rectangle | null>((sum, part) => union(sum, part.bounds), null), box, owed)
  const rings = art === null ? all : within(all, art)
  return {
    rings,
    box: (art === null ? null : rectangleAround(rings.flatMap(pointsOf))) ?? box,
    owed,
    magnification: Math.max(...seen.map(({ magnification }) => magnification)),
    seen,
    isEndless: parts.some(({ isEndless }) => isEndless),
  }
}

/** The size in px at which nothing of a part of the art is ever shown above 1:1. */
export function sizePx(box: Rectangle, magnification: number, widthPx: number): { readonly width: number; readonly height: number } {
  return { width: widthOf(box) * magnification * widthPx, height: heightOf(box) * magnification * widthPx }
}

function isSame(a: readonly Point2[], b: readonly Point2[]): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i]!.x !== b[i]!.x || a[i]!.y !== b[i]!.y) return false
  return true
}

/** Whether corners go on as straight as those of a run have gone; it has them then. One that they leave is done with. */
function goesOn(run: Run, corners: readonly Point2[], tolerance: number): boolean {
  const { first, sleeves } = run
  if (first.length !== corners.length) return false
  for (let i = 0; i < corners.length; i++) {
    const x = corners[i]!.x - first[i]!.x
    const y = corners[i]!.y - first[i]!.y
    const squared = x * x + y * y
    const sleeve = sleeves[i]
    if (squared <= tolerance * tolerance) {
      if (sleeve !== undefined) return false
      continue
    }
    const far = Math.sqrt(squared)
    const wide = tolerance / Math.sqrt(squared - tolerance * tolerance)
    if (sleeve === undefined) {
      sleeves[i] = { x, y, low: -wide, high: wide, far }
      continue
    }
    const ahead = sleeve.x * x + sleeve.y * y
    if (ahead <= 0) return false
    const turned = (sleeve.x * y - sleeve.y * x) / ahead
    if (turned < sleeve.low || turned > sleeve.high || far < sleeve.far - tolerance) return false
    sleeve.low = Math.max(sleeve.low, -sumOfTurns(wide, -turned))
    sleeve.high = Math.min(sleeve.high, sumOfTurns(wide, turned))
    sleeve.far = Math.max(far, sleeve.far)
  }
  run.last = corners
  return true
}

/** Of two turns given as tangents, the tangent of both; past a quarter turn all that is less may be. */
function sumOfTurns(a: number, b: number): number {
  const less = 1 - a * b
  return less <= 0 ? Infinity : (a + b) / less
}

/** Farther than half of what the frame takes in, from corner to corner, is a cut, even of one camera: nothing is seen in between. */
function isJump(a: readonly Point2[], b: readonly Point2[]): boolean {
  if (a.length !== b.length) return false
  const [wide, wideNow] = [apart(a[0]!, a[2]!), apart(b[0]!, b[2]!)]
  if (wideNow > wide * 4 || wideNow < wide / 4) return true
  for (let i = 0; i < a.length; i++) if (apart(a[i]!, b[i]!) <= wide / 4) return false
  return true
}
/** Squared. */
const apart = (a: Point2, b: Point2) => (a.x - b.x) ** 2 + (a.y - b.y) ** 2

function takeIn(box: Gathered['box'], corners: readonly Point2[]): void {
  for (const { x, y } of corners) {
    if (x < box.left) box.left = x
    if (x > box.right) box.right = x
    if (y < box.bottom) box.bottom = y
    if (y > box.top) box.top = y
  }
}

/** Whether a convex outline and a rectangle have anything in common. */
function meets(corners: readonly Point2[], { left, right, bottom, top }: Rectangle): boolean {
  for (const { x, y } of corners) if (x > left && x < right && y > bottom && y < top) return true
  return keptBy(corners, [{ a: 1, b: 0, c: -left }, { a: -1, b: 0, c: right }, { a: 0, b: 1, c: -bottom }, { a: 0, b: -1, c: top }]).length > 0
}
/** Adds the sides of a frame, given with its margin, that art goes past where it goes from side to side of it. */
function owe(owed: Set<Side>, art: Rectangle, frame: Rectangle, margin: number): void {
  const wide = (widthOf(frame) * margin) / (1 + 2 * margin)
  if (art.left > frame.left + wide + 1e-9 || art.right < frame.right - wide - 1e-9) return
  owed.add('left').add('right')
  if (art.bottom <= frame.bottom + wide + 1e-9) owed.add('bottom')
  if (art.top >= frame.top - wide - 1e-9) owed.add('top')
}
/** Art, as far as it is seen towards the sides that it owes. */
function beyond(art: Rectangle | null, box: Rectangle, owed: readonly Side[]): Rectangle | null {
  return art === null ? null : { left: owed.includes('left') ? box.left : art.left, right: owed.includes('right') ? box.right : art.right, bottom: owed.includes('bottom') ? box.bottom : art.bottom, top: owed.includes('top') ? box.top : art.top }
}
const pointsOf = (ring: readonly number[]): readonly Point2[] => Array.from({ length: ring.length / 2 }, (_, i) => ({ x: ring[i * 2]!, y: ring[i * 2 + 1]! }))

/** The convex outline around points, counter-clockwise (Andrew's monotone chain). */
function hullOf(points: readonly Point2[]): readonly Point2[] {
  const sorted = points.toSorted((a, b) => a.x - b.x || a.y - b.y)
  const half = (ordered: readonly Point2[]) => {
    const chain: Point2[] = []
    for (const p of ordered) {
      while (chain.length > 1 && turnOf(chain.at(-2)!, chain.at(-1)!, p) <= 0) chain.pop()
      chain.push(p)
    }
    return chain.slice(0, -1)
  }
  return [...half(sorted), ...half(sorted.toReversed())]
}
const turnOf = (o: Point2, a: Point2, b: Point2) => (a.x - o.x) * (b.y - o.y) - (a.y - o.y) * (b.x - o.x)

/** Outlines joined, a few at a time: neighbours overlap nearly wholly, so what is left of each few is small. */
function joined(shapes: readonly (readonly Point2[])[]): readonly (readonly number[])[] {
  let paths: Paths64[] = shapes.map((shape) => [counted(shape)])
  do {
    const fewer: Paths64[] = []
    for (let at = 0; at < paths.length; at += AT_ONCE) fewer.push(unionOf(paths.slice(at, at + AT_ONCE).flat(), FillRule.NonZero))
    paths = fewer
  } while (paths.length > 1)
  return (paths[0] ?? []).map(ringOf)
}
const counted = (points: readonly Point2[]): Path64 => points.map(({ x, y }) => ({ x: Math.round(x * UNITS_PER_FW), y: Math.round(y * UNITS_PER_FW) }))
const ringOf = (path: Path64): readonly number[] => path.flatMap(({ x, y }) => [Number(x) / UNITS_PER_FW, Number(y) / UNITS_PER_FW])
const within = (rings: readonly (readonly number[])[], art: Rectangle): readonly (readonly number[])[] => intersect(rings.map((ring) => counted(pointsOf(ring))), [counted(cornersOf(art))], FillRule.NonZero).map(ringOf)
