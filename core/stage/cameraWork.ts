import { heldLens, lensRatio, type Optics } from '../camera/lens'
import { alongAxes, placeSeeing, ratioHolding, turnSeeing } from '../camera/placing'
import type { CameraPose } from '../camera/pose'
import { basisOf, NEAREST_Z, type CameraBasis } from '../camera/projection'
import type { AimSpan, CameraSpan, FollowSpan, HandSpan, SpanTarget } from '../document/records'
import { spanWeight, type PlacedSpan } from '../document/spans'
import { add, dot, ORIGIN, scale as scaled, subtract, type Point3 } from '../geometry/point'
import { angleNear } from '../moves/angles'
import { atRest, createChase, type Chased } from '../moves/chase'
import { driftAt } from '../moves/sway'

/** What a span does at one of its frames, for whoever shows it. */
export interface SpanTold {
  readonly placed: PlacedSpan
  /** How much of it is seen, 0…1. */
  readonly weight: number
  /** Where in the picture its point is to be, lead room and all; null for a hand. */
  readonly place: { readonly u: number; readonly v: number } | null
  /** The point that it goes after; null for a hand. */
  readonly point: Point3 | null
  /** What the camera would be at once, without its lag: only what the span changes of it. */
  readonly goal: Partial<CameraPose>
}

/** What one camera's spans make of what its framings say. */
export interface CameraWork {
  readonly spans: readonly PlacedSpan[]
  /** The camera's pose at a frame; null where no span is. */
  at(frame: number): CameraPose | null
  /** The same past an end of the shot: a span that is at work there, and does not end there, goes on. Null where none does. */
  beyond(frame: number): CameraPose | null
  /** What framings would have to say for the camera to be at `asked` where it is at `seen`: nothing of what a span holds fast. */
  framedAs(frame: number, framed: CameraPose, asked: CameraPose): CameraPose
  /** By span, those that are under way at a frame. */
  toldAt(frame: number): readonly SpanTold[]
  /** The spans of a frame, each with where it is, so that another can go on from there. */
  begunAt(frame: number): readonly { readonly placed: PlacedSpan; readonly begun: NonNullable<CameraSpan['begun']> }[]
  /** The frame after which none of them moves the camera. */
  readonly lastFrame: number
}

export interface WorkedOn {
  readonly optics: Optics
  /** Of the shot. */
  readonly lastFrame: number
  /** What the framings say; past the shot's ends too. */
  framed(frame: number): CameraPose
  pointAt(target: SpanTarget, frame: number): Point3
}

/** A span at work, asked frame after frame from its first. */
interface Worker<S extends CameraSpan = CameraSpan> {
  readonly placed: PlacedSpan<S>
  /** What it makes of a pose, `weight` of it; `told` takes down what there is to tell. */
  step(frame: number, pose: CameraPose, weight: number, told: Float64Array, at: number): CameraPose
  begun(frame: number): NonNullable<CameraSpan['begun']>
}

/** What comes first at a frame, whatever began first: where the camera is, how it is turned, how it is held. */
const TURN: Readonly<Record<CameraSpan['kind'], number>> = { follow: 0, aim: 1, hand: 2 }
/** The order in which spans have their say at a frame. */
export const inTurn = (a: PlacedSpan, b: PlacedSpan): number => TURN[a.span.kind] - TURN[b.span.kind] || a.first - b.first
const FIELDS = ['x', 'y', 'depth', 'panDegrees', 'tiltDegrees', 'rollDegrees', 'focalLengthMm'] as const
/** A goal's speed is taken over about so many frames. */
const SPEED_OVER = 6
/** Of each frame of a span: u and v of its place, then its goal as the fields of a pose. */
const TOLD = 2 + FIELDS.length

/**
 * Follow, aim and hand-held of one camera. What each frame shows hangs on those before it, so all of them are worked out in
 * order when one is first asked for; from then on each costs the same, played or jumped to.
 */
export function createCameraWork(spans: readonly PlacedSpan[], on: WorkedOn): CameraWork {
  const ordered = [...spans].sort(inTurn)
  const from = Math.min(...spans.map(({ first }) => first))
  const to = Math.max(...spans.map(({ last }) => last))
  const isIn = ({ first, last }: PlacedSpan, frame: number) => first <= frame && frame <= last
  const begin = () => ordered.map((placed) => workerOf(placed, on))
  const told = new Map<PlacedSpan, Float64Array>()
  const nothing = new Float64Array(TOLD)
  const work = (workers: readonly Worker[], frame: number, keeps: boolean): CameraPose => {
    let pose = on.framed(frame)
    for (const worker of workers) {
      const { placed } = worker
      if (!isIn(placed, frame)) continue
      pose = worker.step(frame, pose, spanWeight(placed, frame), keeps ? told.get(placed)! : nothing, keeps ? (frame - placed.first) * TOLD : 0)
    }
    return pose
  }
  let worked: Float64Array | null = null
  const workAll = (): Float64Array => {
    const all = new Float64Array((to - from + 1) * FIELDS.length)
    for (const placed of ordered) told.set(placed, new Float64Array((placed.last - placed.first + 1) * TOLD))
    const workers = begin()
    for (let frame = from; frame <= to; frame++) {
      const pose = work(workers, frame, true)
      const at = (frame - from) * FIELDS.length
      for (let i = 0; i < FIELDS.length; i++) all[at + i] = pose[FIELDS[i]!]
    }
    return all
  }
  const poseAt = (frame: number): CameraPose => {
    const all = (worked ??= workAll())
    const i = (frame - from) * FIELDS.length
    return { x: all[i]!, y: all[i + 1]!, depth: all[i + 2]!, panDegrees: all[i + 3]!, tiltDegrees: all[i + 4]!, rollDegrees: all[i + 5]!, focalLengthMm: all[i + 6]! }
  }
  const any = (frame: number) => spans.some((placed) => isIn(placed, frame))
  /** The same spans, those that the shot's end cuts off going on past it; long enough for what was asked. */
  let longer: { readonly to: number; readonly work: CameraWork } | null = null
  const goingOn = (frame: number): CameraWork => {
    if (longer !== null && longer.to >= frame) return longer.work
    const end = on.lastFrame + 2 ** Math.max(6, Math.ceil(Math.log2(frame - on.lastFrame)))
    const reaching = spans.map((placed) => (placed.last === on.lastFrame && spanWeight(placed, on.lastFrame) > 0 ? { ...placed, last: end, wholeLast: spanWeight(placed, on.lastFrame) === 1 ? Infinity : placed.wholeLast } : placed))
    return (longer = { to: end, work: createCameraWork(reaching, { ...on, lastFrame: end }) }).work
  }
  /** Before the shot: where it comes from, as its first two frames go, held by the hand that holds it there. */
  const before = (frame: number): CameraPose | null => {
    const there = spans.filter((placed) => placed.first === 0 && spanWeight(placed, 0) > 0)
    if (there.length === 0) return null
    const held = there.flatMap((placed) => (placed.span.kind === 'hand' ? [placed as PlacedSpan<HandSpan>] : []))
    const led = there.filter(({ span }) => span.kind !== 'hand')
    let pose = on.framed(frame)
    if (led.length > 0) {
      const bare = createCameraWork(led, on)
      const [now, next] = [bare.at(0)!, bare.at(1) ?? on.framed(1)]
      const came = { ...pose }
      for (const field of new Set(led.flatMap(({ span }) => changedBy(span)))) came[field] = now[field] + (next[field] - now[field]) * frame
      pose = { ...came, focalLengthMm: heldLens(came.focalLengthMm) }
    }
    for (const placed of held) pose = createHand(placed).step(frame, pose, spanWeight(placed, 0), nothing, 0)
    return pose
  }
  return {
    spans,
    lastFrame: to,
    beyond: (frame) => (frame < 0 ? before(frame) : to < on.lastFrame ? null : goingOn(frame).at(frame)),
    at(frame) {
      const low = Math.floor(frame)
      if (low === frame) return any(frame) ? poseAt(frame) : null
      // Between frames, which only paths and curves ask for, it goes evenly from one to the next.
      if (!any(low) && !any(low + 1)) return null
      const end = (at: number) => (any(at) ? poseAt(at) : on.framed(at))
      return mixed(end(low), end(low + 1), frame - low)
    },
    framedAs(frame, framed, asked) {
      const now = poseAt(frame)
      const out = { ...framed }
      for (const field of FIELDS) {
        let left = 1
        for (const placed of spans) if (placed.span.kind !== 'hand' && isIn(placed, frame) && changedBy(placed.span).includes(field)) left *= 1 - spanWeight(placed, frame)
        // What is hardly seen any more would have to go ever so far.
        if (left > 0.05) out[field] = framed[field] + (asked[field] - now[field]) / left
      }
      return out
    },
    toldAt(frame) {
      worked ??= workAll()
      return ordered.filter((placed) => isIn(placed, frame)).map((placed) => {
        const { span } = placed
        const weight = spanWeight(placed, frame)
        if (span.kind === 'hand') return { placed, weight, place: null, point: null, goal: {} }
        const at = (frame - placed.first) * TOLD
        const [u, v, ...goals] = told.get(placed)!.subarray(at, at + TOLD)
        const changed = changedBy(span)
        const goal = Object.fromEntries(FIELDS.flatMap((field, i) => (changed.includes(field) ? [[field, goals[i]!]] : [])))
        return { placed, weight, place: { u: u!, v: v! }, point: on.pointAt(span.target, frame), goal }
      })
    },
    begunAt(frame) {
      const workers = begin()
      for (let each = from; each <= Math.min(frame, to); each++) work(workers, each, false)
      return workers.filter(({ placed }) => isIn(placed, frame)).map((worker) => ({ placed: worker.placed, begun: worker.begun(frame) }))
    },
  }
}

/** The fields of a pose that a span has a say in. */
export function changedBy(span: CameraSpan): readonly (keyof CameraPose)[] {
  if (span.kind === 'hand') return span.turnDegrees > 0 ? FIELDS.slice(0, 6) : ['x', 'y', 'depth', 'rollDegrees']
  const lens = span.holdsSize === true ? (['focalLengthMm'] as const) : []
  if (span.kind === 'aim') return ['panDegrees', 'tiltDegrees', ...lens]
  const { axes } = span
  return [...(['x', 'y', 'depth'] as const).filter((axis) => axes[axis]), ...lens]
}

function mixed(a: CameraPose, b: CameraPose, share: number): CameraPose {
  const out = { ...a }
  for (const field of FIELDS) out[field] = a[field] + (b[field] - a[field]) * share
  return out
}

const workerOf = (placed: PlacedSpan, on: WorkedOn): Worker => {
  const { span } = placed
  if (span.kind === 'follow') return createFollow(placed as PlacedSpan<FollowSpan>, on)
  return span.kind === 'aim' ? createAim(placed as PlacedSpan<AimSpan>, on) : createHand(placed as PlacedSpan<HandSpan>)
}

const over = (from: number, to: number, weight: number) => (weight === 1 ? to : from + (to - from) * weight)
const placeOf = ({ x, y, depth }: CameraPose): Point3 => ({ x, y, depth })

/** Where the camera has to be for its point, and with which lens ratio. */
interface Goal {
  readonly place: Point3
  readonly k: number
}

function createFollow(placed: PlacedSpan<FollowSpan>, { optics: { filmBackMm }, pointAt }: WorkedOn): Worker<FollowSpan> {
  const { span, wholeFirst } = placed
  const { axes, still, lead: room, target } = span
  const chase = createChase(span.lagFrames)
  const heldRatio = (k: number) => lensRatio(heldLens(k * filmBackMm), filmBackMm)
  let place: Readonly<Record<'x' | 'y' | 'depth', Chased>> | null = null
  let lead = { u: atRest(0), v: atRest(0) }
  /** The goal's speed of the last frames: what goes on 2s goes no slower for that. */
  let goes: Point3 | null = null
  let lens = atRest(0)
  let [distance, ratio] = [0, 0]
  if (span.begun?.at !== undefined) {
    const { place: { at, speed }, lead: { u, v, uSpeed, vSpeed } } = span.begun.at
    place = { x: { at: at.x, speed: speed.x }, y: { at: at.y, speed: speed.y }, depth: { at: at.depth, speed: speed.depth } }
    lead = { u: { at: u, speed: uSpeed }, v: { at: v, speed: vSpeed } }
    ;({ lens, distance, goes, sizeAtStart: ratio } = span.begun.at)
  }
  const goalOf = (point: Point3, wanted: { readonly u: number; readonly v: number }, basis: CameraBasis, from: Point3, lensNow: number): Goal => {
    let k = lensNow
    let at = placeSeeing(point, wanted, basis, k, axes, from, distance)
    // Turned cameras are nearer or farther as they go along, which asks for another lens.
    for (let i = 0; span.holdsSize === true && i < 20; i++) {
      const next = heldRatio(ratio * Math.max(NEAREST_Z, dot(subtract(point, at), basis.forward)))
      if (Math.abs(next - k) < 1e-13) break
      k = next
      at = placeSeeing(point, wanted, basis, k, axes, from, distance)
    }
    return { place: at, k }
  }
  /** How far back from where it goes its place is to lie: by the speed at which its point would cross the picture. */
  const leadGoal = (frame: number, point: Point3, basis: CameraBasis, from: Point3, k: number) => {
    if (room.mostFw === 0) return { u: 0, v: 0 }
    // There is nothing before the shot: it is taken to have come as it goes on.
    const other = pointAt(target, frame > 0 ? frame - 1 : 1)
    const now = goalOf(point, span, basis, from, k)
    const step = scaled(subtract(now.place, goalOf(other, span, basis, from, k).place), frame > 0 ? 1 : -1)
    goes = goes === null ? step : add(goes, scaled(subtract(step, goes), 1 / SPEED_OVER))
    const z = dot(subtract(point, now.place), basis.forward)
    const scale = now.k / Math.max(NEAREST_Z, z)
    const [u, v] = [dot(goes, basis.right) * scale, dot(goes, basis.up) * scale]
    const speed = Math.hypot(u, v)
    if (speed < 1e-12) return { u: 0, v: 0 }
    const back = (-room.mostFw * Math.min(1, speed / room.atFwPerFrame)) / speed
    return { u: u * back, v: v * back }
  }
  return {
    placed,
    step(frame, pose, weight, told, at) {
      const basis = basisOf(pose)
      const point = pointAt(target, frame)
      const fresh = place === null
      if (place === null) {
        distance = dot(subtract(point, pose), basis.forward)
        // What is behind the lens can't be gone after: the camera waits until it comes before it.
        if (distance < NEAREST_Z) {
          told.set([span.u, span.v, pose.x, pose.y, pose.depth], at)
          told[at + 8] = pose.focalLengthMm
          return pose
        }
        lens = atRest(lensRatio(pose.focalLengthMm, filmBackMm))
        ratio = lens.at / distance
        place = { x: atRest(pose.x), y: atRest(pose.y), depth: atRest(pose.depth) }
      }
      const k = span.holdsSize === true ? lens.at : lensRatio(pose.focalLengthMm, filmBackMm)
      const own = { x: axes.x ? place.x.at : pose.x, y: axes.y ? place.y.at : pose.y, depth: axes.depth ? place.depth.at : pose.depth }
      const isFirst = frame === placed.first
      // A rest of a longer one is at its first frame already.
      if (!isFirst || fresh) {
        const wantedLead = leadGoal(frame, point, basis, own, k)
        lead = fresh ? { u: atRest(wantedLead.u), v: atRest(wantedLead.v) } : { u: chase(lead.u, wantedLead.u), v: chase(lead.v, wantedLead.v) }
      }
      const chosen = { u: span.u + lead.u.at, v: span.v + lead.v.at }
      const way = subtract(point, own)
      const z = dot(way, basis.forward)
      const sees = z >= NEAREST_Z
      const wanted = sees
        ? { u: within((k * dot(way, basis.right)) / z, chosen.u, still.widthFw / 2), v: within((k * dot(way, basis.up)) / z, chosen.v, still.heightFw / 2) }
        : chosen
      const goal = goalOf(point, wanted, basis, own, k)
      if ((!isFirst || fresh) && sees) {
        const go = fresh ? (_: Chased, to: number) => atRest(to) : chase
        place = { x: go(place.x, goal.place.x), y: go(place.y, goal.place.y), depth: go(place.depth, goal.place.depth) }
        lens = go(lens, goal.k)
      }
      told[at] = chosen.u
      told[at + 1] = chosen.v
      const atOnce = goalOf(point, chosen, basis, own, k)
      told[at + 2] = atOnce.place.x
      told[at + 3] = atOnce.place.y
      told[at + 4] = atOnce.place.depth
      told[at + 8] = heldLens(atOnce.k * filmBackMm)
      return {
        ...pose,
        x: axes.x ? over(pose.x, place.x.at, weight) : pose.x,
        y: axes.y ? over(pose.y, place.y.at, weight) : pose.y,
        depth: axes.depth ? over(pose.depth, place.depth.at, weight) : pose.depth,
        focalLengthMm: span.holdsSize === true ? over(pose.focalLengthMm, heldLens(lens.at * filmBackMm), weight) : pose.focalLengthMm,
      }
    },
    begun: (frame) => ({
      frames: frame - wholeFirst,
      ...(place === null ? {} : { at: { place: { at: eachAxis(place, 'at'), speed: eachAxis(place, 'speed') }, lead: { u: lead.u.at, v: lead.v.at, uSpeed: lead.u.speed, vSpeed: lead.v.speed }, lens: { ...lens }, goes: { ...(goes ?? ORIGIN) }, distance, sizeAtStart: ratio } }),
    }),
  }
}

const eachAxis = ({ x, y, depth }: Readonly<Record<'x' | 'y' | 'depth', Chased>>, of: keyof Chased): Point3 => ({ x: x[of], y: y[of], depth: depth[of] })
const within = (value: number, middle: number, half: number) => Math.min(middle + half, Math.max(middle - half, value))

function createAim(placed: PlacedSpan<AimSpan>, { optics: { filmBackMm }, pointAt }: WorkedOn): Worker<AimSpan> {
  const { span, wholeFirst } = placed
  const chase = createChase(span.lagFrames)
  let state: { readonly pan: Chased; readonly tilt: Chased; readonly lens: Chased } | null = span.begun ?? null
  let ratio = span.begun?.sizeAtStart ?? 0
  return {
    placed,
    step(frame, pose, weight, told, at) {
      const way = subtract(pointAt(span.target, frame), placeOf(pose))
      const far = Math.sqrt(dot(way, way))
      const own = lensRatio(pose.focalLengthMm, filmBackMm)
      const fresh = state === null
      if (fresh) ratio = own / Math.max(NEAREST_Z, dot(way, basisOf(pose).forward))
      const wantedLens = span.holdsSize === true ? lensRatio(heldLens(ratioHolding(ratio, far, span) * filmBackMm), filmBackMm) : own
      const isFirst = frame === placed.first
      const lens = fresh ? atRest(wantedLens) : isFirst ? state!.lens : chase(state!.lens, wantedLens)
      const k = span.holdsSize === true ? lens.at : own
      const wanted = turnSeeing(way, span, k, pose.rollDegrees)
      const near = state === null ? { pan: pose.panDegrees, tilt: pose.tiltDegrees } : { pan: state.pan.at, tilt: state.tilt.at }
      const goal = { pan: angleNear(near.pan, wanted.panDegrees), tilt: angleNear(near.tilt, wanted.tiltDegrees) }
      if (fresh) state = { pan: atRest(goal.pan), tilt: atRest(goal.tilt), lens }
      else if (!isFirst) state = { pan: chase(state!.pan, goal.pan), tilt: chase(state!.tilt, goal.tilt), lens }
      const { pan, tilt } = state!
      told[at] = span.u
      told[at + 1] = span.v
      told[at + 5] = goal.pan
      told[at + 6] = goal.tilt
      told[at + 8] = wantedLens * filmBackMm
      return {
        ...pose,
        panDegrees: over(pose.panDegrees, pan.at, weight),
        tiltDegrees: over(pose.tiltDegrees, tilt.at, weight),
        focalLengthMm: span.holdsSize === true ? over(pose.focalLengthMm, heldLens(k * filmBackMm), weight) : pose.focalLengthMm,
      }
    },
    begun: (frame) => ({ frames: frame - wholeFirst, pan: { ...state!.pan }, tilt: { ...state!.tilt }, lens: { ...state!.lens }, sizeAtStart: ratio }),
  }
}

/** What a hand adds along the camera's own right and up, to its roll, and where it turns to pan and tilt. */
function createHand(placed: PlacedSpan<HandSpan>): Worker<HandSpan> {
  const { span: { placeFw, rollDegrees, turnDegrees, periodFrames, seed }, wholeFirst } = placed
  const by = (amount: number, frame: number, channel: number) => (amount === 0 ? 0 : driftAt({ amount, periodFrames, phase: 0, seed }, frame, channel))
  return {
    placed,
    step(frame, pose, weight) {
      const since = frame - wholeFirst
      const [across, upward] = [weight * by(placeFw, since, 0), weight * by(placeFw, since, 1)]
      const roll = pose.rollDegrees + weight * by(rollDegrees, since, 2)
      const [pan, tilt] = [pose.panDegrees + weight * by(turnDegrees, since, 3), pose.tiltDegrees + weight * by(turnDegrees, since, 4)]
      return { ...pose, ...alongAxes(pose, basisOf(pose), across, upward), panDegrees: pan, tiltDegrees: tilt, rollDegrees: roll }
    },
    begun: (frame) => ({ frames: frame - wholeFirst }),
  }
}
