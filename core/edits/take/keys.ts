import { keyIn, placedKeys, trackKeys, type AnyKeyKind, type AnyKeyOwner, type KeyKind, type KeyOwner, type KeyRecord, type PlacedKey } from '../../document/keys'
import { anchorOfFrame, takeLengthFrames, type Anchor } from '../../document/panels'
import { takeRef, type TakeBody } from '../../document/units'
import { looseMove, splitMoveAt } from '../../moves/excerpt'
import { joinedSpec } from '../../moves/keyed'
import { CUSHIONED_MOVE, type MoveSpec } from '../../moves/move'
import { Draft } from '../change/draft'
import { refused, made, type Made, type Refused } from '../change/refusal'
import { tidyLoose } from './keySpans'

export const missingKey = (id: string) => refused({ code: 'missing', what: 'framing', id })
export const lockedKey = (kind: AnyKeyKind, id: string) => refused({ code: kind.words.locked, id })

/** Why nothing of an owner's keys may be changed; null where it may. */
export function ownerRefusal(take: TakeBody, { kind, id }: AnyKeyOwner): Refused | null {
  const owner = kind.ownerIn(take, id)
  if (owner === null) return refused({ code: 'missing', what: kind.words.owner, id })
  return owner.locked ? refused({ code: kind.words.ownerLocked, id }) : null
}

/** A key to be changed, or why it may not be. */
export function freeKey(take: TakeBody, id: string): Refused | { readonly kind: AnyKeyKind; readonly record: KeyRecord; readonly owner: AnyKeyOwner } {
  const found = keyIn(take, id)
  if (found === null) return missingKey(id)
  const owner = { kind: found.kind, id: found.kind.ownerOf(found.record) }
  const refusal = found.record.locked ? lockedKey(found.kind, id) : ownerRefusal(take, owner)
  return refusal === null ? { ...found, owner } : refusal
}

export function putKeyRecord(draft: Draft<TakeBody>, kind: AnyKeyKind, record: KeyRecord): Draft<TakeBody> {
  return draft.put(kind.collection, record as never)
}

export const newKey = <V>({ kind, id }: KeyOwner<V>, anchor: Anchor, value: V, move: MoveSpec, keyId: string): KeyRecord => ({ id: keyId, ...kind.fieldsOf(id, value), panelId: anchor.panelId, offsetFrames: anchor.offsetFrames, move, locked: false })

/**
 * Keys a value at a frame of the shot: the key already there is changed, else a new one takes `newId`. A new one between two
 * others divides their move there: with the value that is shown, no frame looks otherwise. Refused while it is still
 * settling there, where a key would break that off.
 */
export function putKey<V>(take: TakeBody, takeId: string, owner: KeyOwner<V>, frame: number, asked: V, newId: string): Made {
  const value = owner.kind.held(asked)
  if (value === null) return refused({ code: 'pose-not-finite' })
  const refusal = ownerRefusal(take, owner)
  if (refusal !== null) return refusal
  const anchor = anchorOfFrame(take, frame)
  if (anchor === null) return refused({ code: 'missing', what: 'panel', id: '' })
  const placed = placedKeys(take, owner)
  const here = placed.find((entry) => entry.frame === frame)
  if (here !== undefined) return setValue(take, takeId, owner, here.record, value)
  const draft = new Draft(take)
  const move = divideMove(draft, owner.kind, placed, frame)
  if ('ok' in move) return move
  return made(putKeyRecord(draft, owner.kind, newKey(owner, anchor, value, move, newId)).edit(`${owner.kind.words.key}-key`, takeRef(takeId)))
}

/** Divides the move across a frame for a key to be put there; the result is the move that leaves it. */
export function divideMove<V>(draft: Draft<TakeBody>, kind: KeyKind<V>, placed: readonly PlacedKey[], frame: number): MoveSpec | Refused {
  const found = splitMoveAt(trackKeys(kind, placed), kind.values, frame)
  if (found.kind === 'settling') return { ok: false, refusal: { code: 'still-settling', restsAtFrame: found.restsAtFrame } }
  if (found.before === null) return CUSHIONED_MOVE
  const { record } = placed[found.before]!
  if (found.kind === 'at-rest') {
    const move = looseMove(record.move)
    putKeyRecord(draft, kind, { ...record, move })
    return move
  }
  // The lock is on what the key shows; the way on is the same way, told in two pieces.
  putKeyRecord(draft, kind, { ...record, move: found.first })
  return found.second
}

/** Gives a key another value, wherever the playhead stands. */
export function setValue<V>(take: TakeBody, takeId: string, owner: KeyOwner<V>, record: KeyRecord, asked: V): Made {
  const value = owner.kind.held(asked)
  if (value === null) return refused({ code: 'pose-not-finite' })
  if (record.locked) return lockedKey(owner.kind, record.id)
  return made(putKeyRecord(new Draft(take), owner.kind, { ...record, ...owner.kind.fieldsOf(owner.id, value) }).edit(`${owner.kind.words.key}-key`, takeRef(takeId)))
}

/** Gives a key another value by its id, wherever the playhead stands. */
export function setKeyValue(take: TakeBody, takeId: string, keyId: string, value: unknown): Made {
  const found = freeKey(take, keyId)
  return 'ok' in found ? found : setValue(take, takeId, found.owner, found.record, value)
}

/** Changes the move that leaves a key, or its lock. */
export function editKey(take: TakeBody, takeId: string, keyId: string, fields: { readonly move?: MoveSpec; readonly locked?: boolean }): Made {
  const found = keyIn(take, keyId)
  if (found === null) return missingKey(keyId)
  const { kind, record } = found
  if (record.locked && fields.locked === undefined) return lockedKey(kind, keyId)
  if (fields.move !== undefined) {
    const refusal = ownerRefusal(take, { kind, id: kind.ownerOf(record) })
    if (refusal !== null) return refusal
  }
  return made(putKeyRecord(new Draft(take), kind, { ...record, ...fields }).edit(`${kind.words.key}-edit`, takeRef(takeId)))
}

/** Moves a key in time. It stops a frame short of its neighbours and stays inside the shot. */
export function moveKey(take: TakeBody, takeId: string, keyId: string, frame: number): Made {
  const found = freeKey(take, keyId)
  if ('ok' in found) return found
  const { kind, record, owner } = found
  const placed = placedKeys(take, owner)
  const index = placed.findIndex((entry) => entry.record.id === keyId)
  const from = (placed[index - 1]?.frame ?? -1) + 1
  const to = Math.max(from, (placed[index + 1]?.frame ?? takeLengthFrames(take)) - 1)
  const anchor = anchorOfFrame(take, Math.min(to, Math.max(from, Math.round(frame))))
  if (anchor === null) return refused({ code: 'missing', what: 'panel', id: record.panelId })
  return made(tidyLoose(putKeyRecord(new Draft(take), kind, { ...record, ...anchor }), take).edit(`${kind.words.key}-move`, takeRef(takeId)))
}

/** Takes keys out. The moves on both sides of one become one: it leaves as the first did and arrives as the second. */
export function removeKeys(take: TakeBody, takeId: string, keyIds: readonly string[]): Made {
  const draft = new Draft(take)
  const going = new Set(keyIds)
  const owners = new Map<string, AnyKeyOwner>()
  let word = 'key'
  for (const id of keyIds) {
    const found = freeKey(take, id)
    if ('ok' in found) return found
    draft.drop(found.kind.collection, id)
    owners.set(`${found.kind.collection} ${found.owner.id}`, found.owner)
    word = found.kind.words.key
  }
  for (const owner of owners.values()) {
    const placed = placedKeys(take, owner)
    for (const [i, { record }] of placed.entries()) {
      if (going.has(record.id) || record.locked || !going.has(placed[i + 1]?.record.id ?? '')) continue
      const run = placed.slice(i + 1)
      const end = run.findIndex((entry) => !going.has(entry.record.id))
      // What is last leads nowhere: its move stays for whatever comes.
      if (end < 0) continue
      putKeyRecord(draft, owner.kind, { ...record, move: run.slice(0, end).reduce<MoveSpec>((move, entry) => joinedSpec(move, entry.record.move), record.move) })
    }
  }
  return made(tidyLoose(draft, take).edit(`${word}-remove`, takeRef(takeId)))
}
