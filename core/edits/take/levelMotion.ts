import { POSE_LIMITS } from '../../camera/pose'
import { wayInto } from '../../depth/carriage'
import { carriageIn, carriedBy, type SeenLevels } from '../../document/carriers'
import { keysOfLevel, levelKeys, levelOwner, levelOwners, placedKeys, valuesSaid, type AnyKeyKind, type KeyRecord } from '../../document/keys'
import { spansOn, targetHangs, targetOf } from '../../document/spans'
import { SWAY_MOST, type CameraSpan, type Level, type LevelFields } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { add, scale, type Point2, type Point3 } from '../../geometry/point'
import { LEVEL_ASPECTS, type LevelAspect, type LevelTurn, type LevelValues } from '../../moves/levelValues'
import type { Path } from '../../moves/path'
import { CUSHIONED_MOVE } from '../../moves/move'
import { Draft, withFields } from '../change/draft'
import type { Edit } from '../change/edit'
import { made, refused, type Made, type Refused } from '../change/refusal'
import { sameJson } from '../change/sameJson'
import { lockedKey, putKey, putKeyRecord, setValue } from './keys'
import { putMove } from './keyMoves'
import { followedRefusal } from './spans'

/** What is meant of a level, where not all of it is. */
export type SomeLevelValues = Partial<LevelValues>

/** A level's own fields that say what its values do. */
const fieldsOfValues = ({ place, turn, size, opacity }: SomeLevelValues): LevelFields => ({ ...place, ...turn, ...(size === undefined ? {} : { scale: size }), ...(opacity === undefined ? {} : { opacity }) })

const given = (values: SomeLevelValues): readonly LevelAspect[] => LEVEL_ASPECTS.filter((aspect) => values[aspect] !== undefined)

function freeLevel(take: TakeBody, levelId: string, evenLocked = false): Refused | Level {
  const level = Object.hasOwn(take.levels, levelId) ? take.levels[levelId]! : null
  if (level === null) return refused({ code: 'missing', what: 'level', id: levelId })
  return level.locked && !evenLocked ? refused({ code: 'level-locked', id: levelId }) : level
}

/** One edit of what several made of one take, each touching other records. */
function together(parts: readonly Made[]): Made {
  const edits: Edit[] = []
  for (const part of parts) {
    if (!part.ok) return part
    edits.push(...part.edits)
  }
  return made(...edits)
}

/**
 * Gives a level other values without keying. What of it has no key changes for the whole shot; what has one key is changed
 * there; of what has several, the key on this very frame is changed, and between keys it is refused: that takes Key.
 */
export function shapeLevel(take: TakeBody, takeId: string, levelId: string, frame: number, values: SomeLevelValues): Made {
  // A lock is on where a level is, not on how it is seen.
  const seenOnly = given(values).every((aspect) => aspect === 'opacity')
  const level = freeLevel(take, levelId, seenOnly)
  if ('ok' in level) return level
  const whole: { -readonly [A in LevelAspect]?: LevelValues[A] } = {}
  const parts: Made[] = []
  for (const aspect of given(values)) {
    const owner = levelOwner(levelId, aspect)
    const value = owner.kind.held(values[aspect])
    if (value === null) return refused({ code: 'pose-not-finite' })
    const placed = placedKeys(take, owner)
    if (placed.length === 0) Object.assign(whole, { [aspect]: value })
    else {
      const here = placed.length === 1 ? placed[0] : placed.find((entry) => entry.frame === frame)
      parts.push(here === undefined ? refused({ code: 'between-keys' }) : setValue(take, takeId, owner, here.record, value))
    }
  }
  if (Object.keys(whole).length > 0) parts.push(made(new Draft(take).put('levels', { ...level, ...fieldsOfValues(whole) } as Level).edit('level-edit', takeRef(takeId))))
  return together(parts)
}

/** Keys what a level is at a frame, each value on its own track. */
export function keyLevel(take: TakeBody, takeId: string, levelId: string, frame: number, values: SomeLevelValues, newId: () => string): Made {
  const level = freeLevel(take, levelId)
  if ('ok' in level) return level
  return together(given(values).map((aspect) => putKey(take, takeId, levelOwner(levelId, aspect), frame, values[aspect], newId())))
}

/** A way of one value of a level, from a frame to another. */
export interface LevelTravel<A extends LevelAspect = LevelAspect> {
  readonly aspect: A
  readonly from: LevelValues[A]
  readonly to: LevelValues[A]
  readonly path?: Path
}

/**
 * A level goes from what it is at one frame to what it is at another: a key at each, in the place of those that stood from
 * the one to the other. On one frame, or for nothing, it is refused.
 */
export function travelLevel(take: TakeBody, takeId: string, levelId: string, fromFrame: number, toFrame: number, travels: readonly LevelTravel[], newId: () => string): Made {
  const level = freeLevel(take, levelId)
  if ('ok' in level) return level
  if (toFrame <= fromFrame || travels.length === 0) return refused({ code: 'nothing-after', what: 'frame' })
  return together(
    travels.map(({ aspect, from, to, path }) => {
      const move = path === undefined ? CUSHIONED_MOVE : { ...CUSHIONED_MOVE, path }
      const keys = [{ frame: 0, value: from, move }, { frame: toFrame - fromFrame, value: to, move: CUSHIONED_MOVE }]
      return putMove(take, takeId, levelOwner(levelId, aspect), keys, fromFrame, newId)
    }),
  )
}

/** Takes all keys of some of a level's tracks away; it stands still for the whole shot as `values` say. */
export function settleLevel(take: TakeBody, takeId: string, levelId: string, values: SomeLevelValues): Made {
  const level = freeLevel(take, levelId)
  if ('ok' in level) return level
  const draft = new Draft(take)
  for (const aspect of given(values)) {
    for (const { record } of placedKeys(take, levelKeys(levelId, aspect))) {
      if (record.locked) return lockedKey(levelKeys(levelId, aspect).kind, record.id)
      draft.drop('levelKeys', record.id)
    }
  }
  return made(draft.put('levels', { ...level, ...fieldsOfValues(values) } as Level).edit('level-settle', takeRef(takeId)))
}

/** What becomes of a level's numbers, and of all its keys. */
export interface MotionChange {
  /** Where a place goes, and where a path's handle does. */
  readonly place: (at: Point3) => Point3
  readonly handle: (offset: Point3) => Point3
  /** How many times its size. */
  readonly factor: number
  readonly turn?: (turn: LevelTurn) => LevelTurn
}

/** Another way that a level stands for the whole shot, and with it all of its keys. Its swing stays; its bob and drift grow along. */
export function transformMotion(draft: Draft<TakeBody>, take: TakeBody, level: Level, { place, handle, factor, turn }: MotionChange): Refused | null {
  const { placeFw, degrees } = POSE_LIMITS
  const far = (at: Point3) => [at.x, at.y, at.depth].find((value) => !(Math.abs(value) <= placeFw))
  const farTurned = (at: LevelTurn) => [at.panDegrees, at.tiltDegrees, at.rollDegrees].find((value) => !(Math.abs(value) <= degrees))
  const outOfReach = (received: number) => refused({ code: 'out-of-reach', received, most: placeFw })
  const grown = (size: number) => size * factor
  const said = valuesSaid(level)
  const stands = place(said.place)
  const turned = turn === undefined ? said.turn : turn(said.turn)
  const swayed = [level.bob, level.drift].map((sway) => (sway === undefined ? 0 : sway.amount * factor)).find((amount) => !(Math.abs(amount) <= SWAY_MOST))
  for (const received of [far(stands), isSize(grown(level.scale)) ? undefined : grown(level.scale), swayed, farTurned(turned)]) if (received !== undefined) return outOfReach(received)
  const wider = <S extends { readonly amount: number }>(sway: S | undefined) => (sway === undefined ? undefined : { ...sway, amount: sway.amount * factor })
  draft.put('levels', withFields<Level>({ ...draft.now('levels', level.id)!, ...stands, ...turned, scale: grown(level.scale) }, { bob: wider(level.bob), drift: wider(level.drift) }))
  const { kind: places } = levelKeys(level.id, 'place')
  const { kind: sizes } = levelKeys(level.id, 'size')
  const keys = keysOfLevel(take, level.id)
  const put = (kind: AnyKeyKind, record: KeyRecord, now: KeyRecord, beyond: number | undefined): Refused | null => {
    if (record.locked && !sameJson(now, record)) return lockedKey(kind, record.id)
    if (beyond !== undefined) return outOfReach(beyond)
    putKeyRecord(draft, kind, now)
    return null
  }
  for (const { record } of keys.place) {
    const now = placeKeyMoved(record, place, handle)
    const { path } = now.move
    const refusal = put(places, record, now, far(places.valueOf(now)) ?? (path.kind === 'straight' ? undefined : (far(path.leave) ?? far(path.arrive))))
    if (refusal !== null) return refusal
  }
  for (const { record } of keys.size) {
    const size = grown(sizes.valueOf(record))
    const refusal = put(sizes, record, { ...record, ...sizes.fieldsOf(level.id, size) }, isSize(size) ? undefined : size)
    if (refusal !== null) return refusal
  }
  const { kind: turns } = levelKeys(level.id, 'turn')
  for (const { record } of turn === undefined ? [] : keys.turn) {
    const now = turn!(turns.valueOf(record))
    const refusal = put(turns, record, { ...record, ...turns.fieldsOf(level.id, now) }, farTurned(now))
    if (refusal !== null) return refusal
  }
  return null
}

const isSize = (size: number) => size >= 1e-6 && size <= 1e6

function placeKeyMoved(record: KeyRecord, place: (at: Point3) => Point3, handle: (offset: Point3) => Point3): KeyRecord {
  const { kind } = levelKeys('', 'place')
  const { path } = record.move
  const move = path.kind === 'straight' ? record.move : { ...record.move, path: { kind: 'bent' as const, leave: handle(path.leave), arrive: handle(path.arrive) } }
  return { ...record, ...kind.fieldsOf(kind.ownerOf(record), place(kind.valueOf(record))), move }
}

/** All that a level's numbers say of its place is so much elsewhere. */
const shiftMotion = (draft: Draft<TakeBody>, take: TakeBody, level: Level, by: Point3): Refused | null => transformMotion(draft, take, level, { place: (at) => add(at, by), handle: (offset) => offset, factor: 1 })

/**
 * Puts a level's pivot elsewhere in its art. At the frame that is seen the picture stays as it is, also of what it carries; at
 * others it turns and grows about the new one.
 */
export function setPivot(take: TakeBody, takeId: string, levelId: string, pivot: Point2, seen: SeenLevels): Made {
  const level = freeLevel(take, levelId)
  if ('ok' in level) return level
  if (![pivot.x, pivot.y].every(Number.isFinite)) return refused({ code: 'pose-not-finite' })
  const { x, y } = pivotOf(level)
  const draft = new Draft(take)
  const { right, up, size } = seen.standOf(levelId)
  const by = scale(add(scale(right, pivot.x - x), scale(up, pivot.y - y)), size)
  const refusal = shiftMotion(draft, take, level, wayInto(carriageIn(take, level, seen), by))
  if (refusal !== null) return refusal
  for (const carried of carriedBy(take, levelId)) {
    const stays = shiftMotion(draft, take, carried, scale(wayInto(carriageIn(take, carried, seen), by), -1))
    if (stays !== null) return stays
  }
  const moved = draft.now('levels', levelId)!
  // Cameras that went after the pivot go on after the same point of the art, where that hangs on none.
  for (const span of spansOn(take, levelId)) {
    const target = targetOf(span)!
    const stays = { ...target, at: { x, y } }
    if (target.at === undefined && !targetHangs({ levels: { ...take.levels, [levelId]: { ...moved, pivot } } }, stays)) draft.put('spans', { ...span, target: stays } as CameraSpan)
  }
  const hangs = followedRefusal({ ...draft.value(), levels: { ...draft.value().levels, [levelId]: { ...moved, pivot } } })
  if (hangs !== null) return hangs
  return made(draft.put('levels', withFields<Level>(moved, { pivot: pivot.x === 0 && pivot.y === 0 ? undefined : { x: pivot.x, y: pivot.y } })).edit('level-pivot', takeRef(takeId)))
}

const pivotOf = (level: Level): Point2 => level.pivot ?? { x: 0, y: 0 }

/** The keys of a level, as those of another. */
export function copyLevelKeys(draft: Draft<TakeBody>, take: TakeBody, levelId: string, toLevelId: string, newId: () => string): void {
  for (const owner of levelOwners(levelId)) for (const { record } of placedKeys(take, owner)) putKeyRecord(draft, owner.kind, { ...record, ...owner.kind.fieldsOf(toLevelId, owner.kind.valueOf(record)), id: newId(), locked: false })
}
