import type { Optics } from '../camera/lens'
import { heldPose, POSE_LIMITS, untouchedPose, type CameraPose } from '../camera/pose'
import { AIR_MIXES, AIR_NAMES, AIR_VALUES, type AirName, type AirValues } from '../moves/airValues'
import type { Keyable, Mix } from '../moves/keyable'
import { LEVEL_ASPECTS, LEVEL_MIXES, LEVEL_VALUES, type LevelAspect, type LevelTurn, type LevelValues } from '../moves/levelValues'
import type { MoveSpec } from '../moves/move'
import { poseMix, POSES } from '../moves/poses'
import { createTrack, type Track, type TrackKey } from '../moves/track'
import type { Point3 } from '../geometry/point'
import { placedInTime, placedPanels } from './panels'
import { FOCUS_RANGE, HAZE_MOST, type AirKey, type AirRecord, type Framing, type Level, type LevelKey } from './records'
import type { TakeBody } from './units'

/** A record that keys a value at a frame of a panel, with the move that leaves it. */
export interface KeyRecord {
  readonly id: string
  readonly panelId: string
  /** From the panel's first frame. */
  readonly offsetFrames: number
  readonly move: MoveSpec
  readonly locked: boolean
  /** Its path goes through without a corner. */
  readonly smooth?: boolean | undefined
}

/** A key with its frame of the shot. */
export interface PlacedKey {
  readonly record: KeyRecord
  readonly frame: number
}

/** How a key and what has it are called where something is refused. */
export type KeyWords =
  | { readonly key: 'framing'; readonly locked: 'framing-locked'; readonly owner: 'camera'; readonly ownerLocked: 'camera-locked' }
  | { readonly key: 'key'; readonly locked: 'key-locked'; readonly owner: 'level'; readonly ownerLocked: 'level-locked' }
  | { readonly key: 'key'; readonly locked: 'key-locked'; readonly owner: 'air'; readonly ownerLocked: 'level-locked' }

/**
 * A kind of record that keys a value. All that puts, moves, copies, bends, joins or removes keys, or carries them with their
 * panels, goes through one of these: a new kind is an entry of `KEY_KINDS`, its line in `anchored.ts`, and its schema.
 */
export interface KeyKind<V = unknown> {
  readonly collection: 'framings' | 'levelKeys' | 'airKeys'
  readonly words: KeyWords
  /** Whether a record of its collection is of it. */
  isOf(record: KeyRecord): boolean
  readonly values: Keyable<V>
  mix(optics: Optics): Mix<V>
  /** What has the key: of those with the same, one track is made. */
  ownerOf(record: KeyRecord): string
  valueOf(record: KeyRecord): V
  /** What a record of it holds beside what every key does. */
  fieldsOf(ownerId: string, value: V): object
  /** A value as it can be kept; null where it can't. */
  held(value: V): V | null
  /** What has them, where it is there. */
  ownerIn(take: TakeBody, ownerId: string): { readonly locked: boolean } | null
  ownersIn(take: TakeBody): readonly string[]
  /** What is shown where there is no key; null of what is not there. */
  rest(take: TakeBody, ownerId: string, optics: Optics): V | null
}

export const FRAMINGS: KeyKind<CameraPose> = Object.freeze({
  collection: 'framings',
  words: { key: 'framing', locked: 'framing-locked', owner: 'camera', ownerLocked: 'camera-locked' },
  isOf: () => true,
  values: POSES,
  mix: poseMix,
  ownerOf: (framing: Framing) => framing.cameraId,
  valueOf: (framing: Framing) => framing.pose,
  fieldsOf: (cameraId: string, pose: CameraPose) => ({ cameraId, pose: { ...pose } }),
  held: heldPose,
  ownerIn: (take: TakeBody, cameraId: string) => take.cameras[cameraId] ?? null,
  ownersIn: (take: TakeBody) => Object.keys(take.cameras),
  rest: (_take: TakeBody, _cameraId: string, optics: Optics) => untouchedPose(optics),
} satisfies KeyKind<CameraPose>)

/* eslint-disable @typescript-eslint/no-explicit-any -- a kind whose value nobody here reads */
export type AnyKeyKind = KeyKind<any>
export type AnyKeyOwner = KeyOwner<any>
/* eslint-enable @typescript-eslint/no-explicit-any */

/** What a level says of itself where it has no key of a kind. */
const saidBy: Readonly<{ readonly [A in LevelAspect]: (level: Level) => LevelValues[A] }> = {
  place: ({ x, y, depth }) => ({ x, y, depth }),
  turn: ({ panDegrees, tiltDegrees, rollDegrees }) => ({ panDegrees, tiltDegrees, rollDegrees }),
  size: ({ scale }) => scale,
  opacity: ({ opacity }) => opacity,
}

const within = (value: number, least: number, most: number) => Math.min(most, Math.max(least, value))
const inReach = (value: number) => within(value, -POSE_LIMITS.placeFw, POSE_LIMITS.placeFw)
const inTurn = (value: number) => within(value, -POSE_LIMITS.degrees, POSE_LIMITS.degrees)
/** The range that can be kept. */
const heldValue: Readonly<{ readonly [A in LevelAspect]: (value: LevelValues[A]) => LevelValues[A] }> = {
  place: ({ x, y, depth }: Point3) => ({ x: inReach(x), y: inReach(y), depth: inReach(depth) }),
  turn: ({ panDegrees, tiltDegrees, rollDegrees }: LevelTurn) => ({ panDegrees: inTurn(panDegrees), tiltDegrees: inTurn(tiltDegrees), rollDegrees: inTurn(rollDegrees) }),
  size: (value) => within(value, 1e-6, 1e6),
  opacity: (value) => within(value, 0, 1),
}

function levelKind<A extends LevelAspect>(aspect: A): KeyKind<LevelValues[A]> {
  const values = LEVEL_VALUES[aspect] as Keyable<LevelValues[A]>
  const mix = LEVEL_MIXES[aspect] as Mix<LevelValues[A]>
  return Object.freeze({
    collection: 'levelKeys',
    words: { key: 'key', locked: 'key-locked', owner: 'level', ownerLocked: 'level-locked' },
    isOf: (record: KeyRecord) => (record as LevelKey).of === aspect,
    values,
    mix: () => mix,
    ownerOf: (record: KeyRecord) => (record as LevelKey).levelId,
    valueOf: (record: KeyRecord) => (record as LevelKey).value as LevelValues[A],
    fieldsOf: (levelId: string, value: LevelValues[A]) => ({ levelId, of: aspect, value }),
    held: (value: LevelValues[A]) => (values.fields.every((field) => Number.isFinite(field.of(value))) ? heldValue[aspect](value) : null),
    ownerIn: (take: TakeBody, levelId: string) => (Object.hasOwn(take.levels, levelId) ? take.levels[levelId]! : null),
    ownersIn: (take: TakeBody) => Object.keys(take.levels),
    rest: (take: TakeBody, levelId: string) => (Object.hasOwn(take.levels, levelId) ? saidBy[aspect](take.levels[levelId]!) : null),
  } satisfies KeyKind<LevelValues[A]>)
}

/** Each on a track of its own, so that a fade does not disturb a walk. */
export const LEVEL_KEYS: Readonly<{ readonly [A in LevelAspect]: KeyKind<LevelValues[A]> }> = Object.freeze({ place: levelKind('place'), turn: levelKind('turn'), size: levelKind('size'), opacity: levelKind('opacity') })

const heldAir: Readonly<{ readonly [A in AirName]: (value: AirValues[A]) => AirValues[A] }> = {
  haze: ({ density, start, colour }) => ({ density: within(density, 0, HAZE_MOST.density), start: within(start, 0, HAZE_MOST.startFw), colour }),
  focus: ({ sharp, strength }) => ({ sharp: within(sharp, FOCUS_RANGE.leastSharpFw, FOCUS_RANGE.mostSharpFw), strength: within(strength, 0, FOCUS_RANGE.strength) }),
}

/** What a record of a shot's air says, without its name. */
export function airSaid<A extends AirName>(record: Extract<AirRecord, { readonly id: A }>): AirValues[A] {
  const { id: _, ...value } = record
  return value as unknown as AirValues[A]
}

function airKind<A extends AirName>(name: A): KeyKind<AirValues[A]> {
  const values = AIR_VALUES[name] as Keyable<AirValues[A]>
  const mix = AIR_MIXES[name] as Mix<AirValues[A]>
  const recordIn = (take: TakeBody, id: string) => (id === name && Object.hasOwn(take.air, name) ? (take.air[name] as Extract<AirRecord, { readonly id: A }>) : null)
  return Object.freeze({
    collection: 'airKeys',
    words: { key: 'key', locked: 'key-locked', owner: 'air', ownerLocked: 'level-locked' },
    isOf: (record: KeyRecord) => (record as AirKey).airId === name,
    values,
    mix: () => mix,
    ownerOf: () => name,
    valueOf: (record: KeyRecord) => (record as AirKey).value as unknown as AirValues[A],
    fieldsOf: (_ownerId: string, value: AirValues[A]) => ({ airId: name, value }),
    held: (value: AirValues[A]) => (values.fields.every((field) => Number.isFinite(field.of(value))) ? heldAir[name](value) : null),
    ownerIn: (take: TakeBody, id: string) => (recordIn(take, id) === null ? null : { locked: false }),
    ownersIn: (take: TakeBody) => (Object.hasOwn(take.air, name) ? [name] : []),
    rest: (take: TakeBody, id: string) => {
      const record = recordIn(take, id)
      return record === null ? null : airSaid<A>(record)
    },
  } satisfies KeyKind<AirValues[A]>)
}

/** What of a shot's air can be keyed. Each has itself for its owner. */
export const AIR_KEYS: Readonly<{ readonly [A in AirName]: KeyKind<AirValues[A]> }> = Object.freeze({ haze: airKind('haze'), focus: airKind('focus') })

/** By name: framings, what of a level can be keyed, and what of the air. */
export const KEY_KINDS: Readonly<Record<string, AnyKeyKind>> = { framings: FRAMINGS, ...LEVEL_KEYS, ...AIR_KEYS }

/** Whose keys are meant. */
export interface KeyOwner<V = unknown> {
  readonly kind: KeyKind<V>
  readonly id: string
}

export const cameraKeys = (cameraId: string): KeyOwner<CameraPose> => ({ kind: FRAMINGS, id: cameraId })
export const levelKeys = <A extends LevelAspect>(levelId: string, aspect: A): KeyOwner<LevelValues[A]> => ({ kind: LEVEL_KEYS[aspect], id: levelId })
export const airKeys = <A extends AirName>(name: A): KeyOwner<AirValues[A]> => ({ kind: AIR_KEYS[name], id: name })
/** The same where it is not known here which is meant. */
export const airOwner = (name: AirName): AnyKeyOwner => airKeys(name)
export const AIR_OWNERS: readonly AnyKeyOwner[] = Object.freeze(AIR_NAMES.map(airOwner))
/** The same where it is not known here which of a level's values is meant. */
export const levelOwner = (levelId: string, aspect: LevelAspect): AnyKeyOwner => levelKeys(levelId, aspect)
/** All tracks that a level has or might have. */
export const levelOwners = (levelId: string): readonly AnyKeyOwner[] => LEVEL_ASPECTS.map((aspect) => levelOwner(levelId, aspect))
/** All keys of a level, by what they key. */
export function keysOfLevel(take: TakeBody, levelId: string): Readonly<Record<LevelAspect, readonly PlacedKey[]>> {
  const of = (aspect: LevelAspect) => placedKeys(take, levelOwner(levelId, aspect))
  return { place: of('place'), turn: of('turn'), size: of('size'), opacity: of('opacity') }
}
/** What a level says of itself, whatever its keys do. */
export const valuesSaid = (level: Level): LevelValues => ({ place: saidBy.place(level), turn: saidBy.turn(level), size: saidBy.size(level), opacity: saidBy.opacity(level) })

/** Everything of a take that has keys or might have. */
export const keyOwners = (take: TakeBody): readonly AnyKeyOwner[] => Object.values(KEY_KINDS).flatMap((kind) => kind.ownersIn(take).map((id) => ({ kind, id })))

/** One owner's keys in time order; at one frame, in id order, and the last of them wins. */
export function placedKeys(take: TakeBody, { kind, id }: AnyKeyOwner): readonly PlacedKey[] {
  const records: Readonly<Record<string, KeyRecord>> = take[kind.collection]
  const panels = placedPanels(take)
  let known = placedCache.get(records)
  if (known === undefined || known.panels !== panels) placedCache.set(records, (known = { panels, byKind: new Map() }))
  let byOwner = known.byKind.get(kind)
  if (byOwner === undefined) known.byKind.set(kind, (byOwner = placedByOwner(take, kind, records)))
  return byOwner.get(id) ?? NO_KEYS
}

const NO_KEYS: readonly PlacedKey[] = Object.freeze([])
type ByOwner = ReadonlyMap<string, readonly PlacedKey[]>
/** Worked out once for each frozen collection and the panels that it stands in. */
const placedCache = new WeakMap<object, { readonly panels: unknown; readonly byKind: Map<AnyKeyKind, ByOwner> }>()

function placedByOwner(take: TakeBody, kind: AnyKeyKind, records: Readonly<Record<string, KeyRecord>>): ByOwner {
  const byOwner = new Map<string, KeyRecord[]>()
  for (const record of Object.values(records)) {
    if (!kind.isOf(record)) continue
    const owner = kind.ownerOf(record)
    const own = byOwner.get(owner)
    if (own === undefined) byOwner.set(owner, [record])
    else own.push(record)
  }
  return new Map([...byOwner].map(([owner, own]) => [owner, placedInTime(take, own)]))
}

/** A key by its id, with the kind that it is of. */
export function keyIn(take: TakeBody, id: string): { readonly kind: AnyKeyKind; readonly record: KeyRecord } | null {
  for (const kind of Object.values(KEY_KINDS)) {
    const records: Readonly<Record<string, KeyRecord>> = take[kind.collection]
    if (Object.hasOwn(records, id) && kind.isOf(records[id]!)) return { kind, record: records[id]! }
  }
  return null
}

export const trackKeys = <V>(kind: KeyKind<V>, placed: readonly PlacedKey[]): readonly TrackKey<V, PlacedKey>[] => placed.map((of) => ({ frame: of.frame, value: kind.valueOf(of.record), move: of.record.move, of }))

export const keyTrack = <V>(take: TakeBody, owner: KeyOwner<V>, optics: Optics): Track<V, PlacedKey> => createTrack(trackKeys(owner.kind, placedKeys(take, owner)), owner.kind.mix(optics))
