import type { CameraPose } from '../camera/pose'
import { basisOf, type CameraBasis } from '../camera/projection'
import { carriageOfCamera, carriageOn, facingBasis, outOf, SET, turnedOut, wayOut, type Carriage, type Follows, type Stand } from '../depth/carriage'
import { planeAbout, planeTurned, pointOnPlane, type LevelPlane } from '../depth/levelPlane'
import { copiesOf, planeOfCopy, ranksOf, turnedInPlane, type Repeat } from '../depth/repeat'
import { carrierOf } from '../document/carriers'
import { exposureAt, exposuresOf } from '../document/exposures'
import { rackLevels } from '../document/panels'
import { isSetLevel, pieceOf } from '../document/sets'
import { REPEATS_MOST, type Level } from '../document/records'
import type { TakeBody } from '../document/units'
import { add, ORIGIN, scale, type Point2, type Point3 } from '../geometry/point'
import { LEVEL_VALUES, type LevelTurn, type LevelValues } from '../moves/levelValues'
import type { LevelMotion, TriedLevels } from './levelMotion'

/**
 * A level as it stands at one frame, whoever looks at it. What the record says of place, size, turn, opacity, tint and tone is
 * where the level begins, not what is seen.
 */
export interface StandingLevel {
  readonly level: Level
  /** What it shows; null where it has no drawing yet. */
  readonly drawingId: string | null
  readonly plane: LevelPlane
  /** What it stands in: of a piece, its set. Told in place. */
  readonly base: Stand
  /** Where its pivot stands. */
  readonly place: Point3
  /** Its art is so many times its own size. */
  readonly size: number
  /** 0…1. */
  readonly opacity: number
  /** Null, or of strength 0: none. */
  readonly tint: NonNullable<Level['tint']> | null
  /** Null: as drawn. */
  readonly tone: NonNullable<Level['tone']> | null
  /** Which of those it is that a repeated level is shown; 0: itself. */
  readonly copy: number
  readonly rackIndex: number
  /** Reference levels lie under (−1) or over (1) all others; else 0. */
  readonly layer: -1 | 0 | 1
  /** Which of its drawing's pictures a reference sequence shows, from 0; null where the whole drawing is shown. */
  readonly pictureIndex: number | null
}

/** How levels stand, by whichever camera sees them. Past the shot's ends what moves goes on; what a level shows there it holds. */
export interface Standing {
  /**
   * All that are visible, in rack order, until the next frame is asked for: they are told anew in place. Those of `tried` stand
   * as it says. `held` is the frame, or the shot's first or last where that lies past them.
   */
  at(frame: number, held: number, camera: CameraPose, tried: TriedLevels | null): readonly StandingLevel[]
  /** One of them, visible or not. Throws for one that is not there. */
  standOf(levelId: string, frame: number, camera: CameraPose, tried: TriedLevels | null): Stand
}

/** A level with what it hangs on. */
interface Body {
  readonly level: Level
  readonly carrier: { readonly body: Body; readonly follows: Follows } | 'camera' | null
  /** Of a piece, the level of its set: it fades with that, and what it does not follow of its carrier it has of that. */
  readonly set: Body | null
  readonly lies: Lies
  readonly motion: LevelMotion
  last: Lie
}

export function createStanding(take: TakeBody, motionOf: (levelId: string) => LevelMotion): Standing {
  const bodies = new Map<string, Body>()
  const bodyOf = (level: Level): Body => {
    const known = bodies.get(level.id)
    if (known !== undefined) return known
    const carrier = carrierOf(take, level)
    const motion = motionOf(level.id)
    const lies = lieOf(level)
    const on = carrier?.kind === 'level' ? ({ body: bodyOf(take.levels[carrier.levelId]!), follows: carrier } as const) : carrier === null ? null : 'camera'
    const of = pieceOf(level.id)
    const set = of === null || take.levels[of.setLevelId] === undefined ? null : bodyOf(take.levels[of.setLevelId]!)
    const body: Body = { level, carrier: on, set, lies, motion, last: new Lie() }
    lies(body.last, SET, motion.seenAt(0), AT_REST)
    bodies.set(level.id, body)
    return body
  }
  const rack = rackLevels(take)
  const visible = rack.flatMap((level, rackIndex) => {
    if (!level.visible) return []
    const body = bodyOf(level)
    const exposures = isSetLevel(level) ? [] : exposuresOf(take, level.id)
    return [{ body, exposures, rackIndex, layer: layerOf(level), repeated: level.repeat === undefined ? null : repeatedOf(body, level.repeat) }]
  })
  // Carriers come before what they carry, seen or not.
  const inTurn = [...bodies.values()]
  type Told = { -readonly [F in keyof StandingLevel]: StandingLevel[F] }
  const now = visible.flatMap(({ body: { level, last }, rackIndex, layer, repeated }) => {
    const { plane, place, size, opacity } = last
    const { tint = null, tone = null } = level
    // Among equals those that stand lower come nearer, and all of them lie where the level is listed.
    return (repeated?.ranks ?? [0]).map((rank, copy): Told => ({ level, drawingId: null, plane, base: SET, place, size, opacity, tint, tone, copy, rackIndex: rackIndex + rank / REPEATS_MOST / 2, layer, pictureIndex: null }))
  })
  const carriageOf = ({ carrier, set }: Body, camera: CameraPose, lieOfCarrier: (body: Body) => Lie): Carriage =>
    carrier === null ? SET : carrier === 'camera' ? carriageOfCamera(camera) : carriageOn(lieOfCarrier(carrier.body), carrier.follows, set === null ? SET : lieOfCarrier(set))
  const lie = (told: Lie, body: Body, frame: number, camera: CameraPose, tried: Partial<LevelValues> | undefined, lieOfCarrier: (body: Body) => Lie): Lie => {
    body.lies(told, carriageOf(body, camera, lieOfCarrier), body.motion.seenAt(frame, tried), camera)
    return told
  }
  const lastOf = (body: Body) => body.last
  const neverMoves = ({ carrier, set, level, motion }: Body): boolean =>
    carrier !== 'camera' && (carrier === null || neverMoves(carrier.body)) && (set === null || neverMoves(set)) && level.facing === undefined && motion.isStill
  const moving = inTurn.filter((body) => !neverMoves(body))
  // What hangs on something that never moves lies on it once and for all.
  for (const body of inTurn) if (body.carrier !== null && neverMoves(body)) lie(body.last, body, 0, AT_REST, undefined, lastOf)
  const single = (body: Body, frame: number, camera: CameraPose, tried: TriedLevels | null): Lie =>
    lie(new Lie(), body, frame, camera, tried?.get(body.level.id), (carrier) => single(carrier, frame, camera, tried))
  return {
    at(frame, held, camera, tried) {
      if (tried === null) for (const body of moving) lie(body.last, body, frame, camera, undefined, lastOf)
      const triedLies = new Map<Body, Lie>()
      if (tried !== null) for (const body of inTurn) triedLies.set(body, lie(new Lie(), body, frame, camera, tried.get(body.level.id), (carrier) => triedLies.get(carrier)!))
      let next = 0
      for (const { body, exposures, repeated } of visible) {
        const { level } = body
        const pictureIndex = sequenceIndex(level, frame)
        const liesOf = (each: Body) => (tried === null ? each.last : triedLies.get(each)!)
        const lies = liesOf(body)
        // Before its first picture a sequence shows nothing.
        const drawingId = pictureIndex !== null && pictureIndex < 0 ? null : (exposureAt(exposures, held)?.cell.drawingId ?? null)
        const copies = repeated?.copiesAt(lies, frame, carriageOf(body, camera, tried === null ? lastOf : (carrier) => triedLies.get(carrier)!)) ?? null
        for (let copy = 0; copy < (copies?.length ?? 1); copy++) {
          const { plane, place, size } = copies?.[copy] ?? lies
          const told = now[next++]!
          told.drawingId = drawingId
          told.pictureIndex = pictureIndex
          told.plane = plane
          told.place = place
          told.size = size
          if (body.set !== null) told.base = liesOf(body.set)
          told.opacity = body.set === null ? lies.opacity : lies.opacity * liesOf(body.set).opacity
        }
      }
      return now
    },
    standOf(levelId, frame, camera, tried) {
      const { place, right, up, forward, size } = single(bodies.get(levelId) ?? bodyOf(take.levels[levelId]!), frame, camera, tried)
      return { place, right, up, forward, size }
    },
  }
}

/** Told in place: a frame that is played makes no more than what is new in it. Which way it looks is worked out for who asks. */
class Lie implements Stand {
  plane: LevelPlane = NO_PLANE
  place: Point3 = ORIGIN
  size = NaN
  /** 0…1. */
  opacity = 1
  private turn: LevelTurn | null = null
  private basis: CameraBasis | null = null

  get right() {
    return this.axes.right
  }
  get up() {
    return this.axes.up
  }
  get forward() {
    return this.axes.forward
  }
  private get axes(): CameraBasis {
    return (this.basis ??= this.turn === null ? NO_BASIS : basisOf(this.turn))
  }

  /** With its own turn in the set's axes. */
  tellTurned(place: Point3, size: number, turn: LevelTurn, pivot: Point2 | undefined) {
    const isTurned = this.turn === null || !LEVEL_VALUES.turn.equal(this.turn, turn)
    if (isTurned) {
      this.turn = turn
      this.basis = null
    }
    if (!isTurned && this.isAt(place, size)) return
    this.plane = isTurned || this.size !== size ? planeTurned(place, turn, size, pivot) : planeAbout(place, this.plane.axisX, this.plane.axisY, pivot)
    this.place = place
    this.size = size
  }

  /** With axes that come of something else too. */
  tellAlong(place: Point3, size: number, basis: CameraBasis, pivot: Point2 | undefined) {
    const told = this.basis
    const isTurned = told === null || !samePoint(told.right, basis.right) || !samePoint(told.up, basis.up)
    if (isTurned) this.basis = basis
    if (!isTurned && this.isAt(place, size)) return
    this.plane = isTurned || this.size !== size ? planeAbout(place, scale(basis.right, size), scale(basis.up, size), pivot) : planeAbout(place, this.plane.axisX, this.plane.axisY, pivot)
    this.place = place
    this.size = size
  }

  private isAt(place: Point3, size: number): boolean {
    return this.size === size && samePoint(this.place, place)
  }
}
type Lies = (told: Lie, carriage: Carriage, values: LevelValues, camera: CameraPose) => void

const AT_REST: CameraPose = Object.freeze({ x: 0, y: 0, depth: 0, panDegrees: 0, tiltDegrees: 0, rollDegrees: 0, focalLengthMm: 50 })
const NO_PLANE: LevelPlane = Object.freeze({ origin: ORIGIN, axisX: ORIGIN, axisY: ORIGIN })
const NO_BASIS: CameraBasis = Object.freeze({ right: ORIGIN, up: ORIGIN, forward: ORIGIN })
const samePoint = (a: Point3, b: Point3) => a === b || (a.x === b.x && a.y === b.y && a.depth === b.depth)

/** How a level lies with its values. What stays as it was told last is not worked out again. */
function lieOf({ pivot, facing }: Level): Lies {
  let turned: LevelTurn | null = null
  let own: CameraBasis = SET
  return (told, carriage, values, camera) => {
    const { turn } = values
    const place = outOf(carriage, values.place)
    const size = values.size * carriage.size
    told.opacity = values.opacity
    if (facing !== undefined) return told.tellAlong(place, size, facingBasis(facing, camera, place, turn), pivot)
    if (carriage.right === SET.right) return told.tellTurned(place, size, turn, pivot)
    if (turned === null || !LEVEL_VALUES.turn.equal(turned, turn)) {
      turned = turn
      own = basisOf(turn)
    }
    told.tellAlong(place, size, turnedOut(carriage, own), pivot)
  }
}

interface Repeated {
  /** Of each, among equals in depth: 0 is nearest. */
  readonly ranks: readonly number[]
  copiesAt(lies: Lie, frame: number, carriage: Carriage): readonly CopyLie[]
}
type CopyLie = Pick<Lie, 'plane' | 'place' | 'size'>

/** How the copies of a level lie, told anew only where it does or where they sway one after the other. */
function repeatedOf({ level, motion }: Body, repeat: Repeat): Repeated {
  const copies = copiesOf(repeat)
  const about = level.pivot ?? ORIGIN
  const sways = level.swing !== undefined || level.bob !== undefined || level.drift !== undefined
  let told: { readonly plane: LevelPlane; readonly lies: readonly CopyLie[] } | null = null
  return {
    ranks: ranksOf(copies, repeat.lay.kind),
    copiesAt(lies, frame, carriage) {
      if (told !== null && told.plane === lies.plane && !sways) return told.lies
      const forward = scale(lies.forward, lies.size)
      // Each sways by itself: they stand as the level does without what is added to it.
      const own = motion.addedAt(frame, 0)
      const still = sways ? swayed(turnedInPlane(lies.plane, about, -own.rollDegrees), carriage, { x: -own.x, y: -own.y }) : lies.plane
      const made = copies.map((copy, i): CopyLie => {
        const placed = planeOfCopy(still, forward, copy)
        const added = !sways ? null : repeat.stagger === 0 ? own : motion.addedAt(frame, i * repeat.stagger)
        const plane = added === null ? placed : swayed(turnedInPlane(placed, about, added.rollDegrees), carriage, added)
        return { plane, place: pointOnPlane(plane, about), size: lies.size * copy.size }
      })
      told = { plane: lies.plane, lies: made }
      return made
    },
  }
}

const swayed = (plane: LevelPlane, carriage: Carriage, { x, y }: Point2): LevelPlane => (x === 0 && y === 0 ? plane : { ...plane, origin: add(plane.origin, wayOut(carriage, { x, y, depth: 0 })) })

function layerOf(level: Level): -1 | 0 | 1 {
  if (level.kind !== 'reference') return 0
  return level.over === true ? 1 : -1
}

/** The picture of a reference sequence that is due at a frame: below 0 before its start, past the last after its end. */
function sequenceIndex(level: Level, frame: number): number | null {
  const sequence = level.kind === 'reference' ? (level.sequence ?? null) : null
  return sequence === null ? null : Math.floor((frame - sequence.startFrame) / sequence.framesEach)
}
