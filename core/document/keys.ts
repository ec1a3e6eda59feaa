import type { Optics } from '../camera/lens'
import { heldPose, untouchedPose, type CameraPose } from '../camera/pose'
import type { Keyable, Mix } from '../moves/keyable'
import type { MoveSpec } from '../moves/move'
import { poseMix, POSES } from '../moves/poses'
import { createTrack, type Track, type TrackKey } from '../moves/track'
import { placedInTime } from './panels'
import type { Framing } from './records'
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

/**
 * A kind of record that keys a value. All that puts, moves, copies, bends, joins or removes keys, or carries them with their
 * panels, goes through one of these: a new kind is an entry of `KEY_KINDS`, its line in `anchored.ts`, and its schema.
 */
export interface KeyKind<V = unknown> {
  readonly collection: 'framings'
  /** How it and what has it are called where something is refused. */
  readonly words: { readonly key: 'framing'; readonly locked: 'framing-locked'; readonly owner: 'camera'; readonly ownerLocked: 'camera-locked' }
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
  /** What is shown where there is no key. */
  rest(take: TakeBody, ownerId: string, optics: Optics): V
}

export const FRAMINGS: KeyKind<CameraPose> = Object.freeze({
  collection: 'framings',
  words: { key: 'framing', locked: 'framing-locked', owner: 'camera', ownerLocked: 'camera-locked' },
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

export const KEY_KINDS: Readonly<Record<KeyKind['collection'], AnyKeyKind>> = { framings: FRAMINGS }

/** Whose keys are meant. */
export interface KeyOwner<V = unknown> {
  readonly kind: KeyKind<V>
  readonly id: string
}

export const cameraKeys = (cameraId: string): KeyOwner<CameraPose> => ({ kind: FRAMINGS, id: cameraId })

/** Everything of a take that has keys or might have. */
export const keyOwners = (take: TakeBody): readonly AnyKeyOwner[] => Object.values(KEY_KINDS).flatMap((kind) => kind.ownersIn(take).map((id) => ({ kind, id })))

/** One owner's keys in time order; at one frame, in id order, and the last of them wins. */
export function placedKeys(take: TakeBody, { kind, id }: AnyKeyOwner): readonly PlacedKey[] {
  return placedInTime(take, Object.values<KeyRecord>(take[kind.collection]).filter((record) => kind.ownerOf(record) === id))
}

/** A key by its id, with the kind that it is of. */
export function keyIn(take: TakeBody, id: string): { readonly kind: AnyKeyKind; readonly record: KeyRecord } | null {
  for (const kind of Object.values(KEY_KINDS)) {
    const records: Readonly<Record<string, KeyRecord>> = take[kind.collection]
    if (Object.hasOwn(records, id)) return { kind, record: records[id]! }
  }
  return null
}

export const trackKeys = <V>(kind: KeyKind<V>, placed: readonly PlacedKey[]): readonly TrackKey<V, PlacedKey>[] => placed.map((of) => ({ frame: of.frame, value: kind.valueOf(of.record), move: of.record.move, of }))

export const keyTrack = <V>(take: TakeBody, owner: KeyOwner<V>, optics: Optics): Track<V, PlacedKey> => createTrack(trackKeys(owner.kind, placedKeys(take, owner)), owner.kind.mix(optics))
