import { KEY_KINDS, keyIn, placedKeys, trackKeys, type AnyKeyOwner, type KeyOwner, type KeyRecord, type PlacedKey } from '../../document/keys'
import { anchorOfFrame, takeLengthFrames } from '../../document/panels'
import { takeRef, type TakeBody } from '../../document/units'
import { length, type Point3 } from '../../geometry/point'
import { handlesOf, oppositeHandle, smoothHandles } from '../../moves/bend'
import { looseMove } from '../../moves/excerpt'
import { spacedFrames, withCushionsScaled, type Keyed } from '../../moves/keyed'
import { CUSHIONED_MOVE, type MoveSpec } from '../../moves/move'
import type { Path } from '../../moves/path'
import { beginsOf } from '../../moves/track'
import { Draft, withFields } from '../change/draft'
import type { Edit } from '../change/edit'
import { made, refused, type Made, type Refused } from '../change/refusal'
import { divideMove, freeKey, lockedKey, missingKey, newKey, ownerRefusal, putKeyRecord } from './keys'
import { tidyLoose } from './keySpans'

const STILL: MoveSpec = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }

/**
 * Puts keys into a shot, the first at `atFrame`. What their owner had between the first and the last of them goes; before
 * and after it keeps what it had. Refused where the last would fall past the shot's end, or where a locked key would go.
 */
export function putMove<V>(take: TakeBody, takeId: string, owner: KeyOwner<V>, keys: readonly Keyed<V>[], atFrame: number, newId: () => string): Made {
  const refusal = ownerRefusal(take, owner)
  if (refusal !== null) return refusal
  const last = keys.at(-1)
  if (last === undefined) return refused({ code: 'nothing-to-paste' })
  const lengthFrames = takeLengthFrames(take)
  if (atFrame < 0 || atFrame + last.frame > lengthFrames - 1) return refused({ code: 'move-too-long', asked: last.frame + 1, most: Math.max(0, lengthFrames - atFrame) })
  const draft = new Draft(take)
  const here = placedKeys(take, owner).filter(({ frame }) => frame >= atFrame && frame <= atFrame + last.frame)
  const locked = here.find(({ record }) => record.locked)
  if (locked !== undefined) return lockedKey(owner.kind, locked.record.id)
  for (const { record } of here) draft.drop(owner.kind.collection, record.id)
  // The way on from the last one is what it was from there.
  const onward = here.at(-1)?.record.move
  keys.forEach((each, i) => {
    const id = here.find(({ frame }) => frame === atFrame + each.frame)?.record.id ?? newId()
    const move = i === keys.length - 1 ? (onward ?? each.move) : each.move
    putKeyRecord(draft, owner.kind, withFields(newKey(owner, anchorOfFrame(take, atFrame + each.frame)!, each.value, move, id), { smooth: each.smooth }))
  })
  return made(tidyLoose(draft, take).edit('move-put', takeRef(takeId)))
}

/** An owner's keys as a move to be carried elsewhere; `ids` of those meant, or all. */
export function copyMove<V>(take: TakeBody, owner: KeyOwner<V>, ids: readonly string[] | null): readonly Keyed<V>[] {
  const placed = placedKeys(take, owner).filter(({ record }) => ids === null || ids.includes(record.id))
  const first = placed[0]?.frame ?? 0
  return placed.map(({ record, frame }) => ({ frame: frame - first, value: owner.kind.valueOf(record), move: record.move, ...(record.smooth === undefined ? {} : { smooth: record.smooth }) }))
}

/**
 * Copies what is shown at a frame to a later one, to be altered there. Where the first has no key yet it gets one, so that
 * the picture stays until then.
 */
export function copyKeyTo<V>(take: TakeBody, takeId: string, owner: KeyOwner<V>, fromFrame: number, value: V, toFrame: number, newId: () => string): Made {
  const refusal = ownerRefusal(take, owner)
  if (refusal !== null) return refusal
  if (toFrame <= fromFrame) return refused({ code: 'nothing-after', what: 'frame' })
  const { kind } = owner
  const placed = placedKeys(take, owner)
  const there = placed.find(({ frame }) => frame === toFrame)?.record
  if (there?.locked === true) return lockedKey(kind, there.id)
  const [from, to] = [anchorOfFrame(take, fromFrame), anchorOfFrame(take, toFrame)]
  if (from === null || to === null) return refused({ code: 'missing', what: 'panel', id: '' })
  const draft = new Draft(take)
  const here = placed.find(({ frame }) => frame === fromFrame)
  if (here === undefined) {
    const move = divideMove(draft, kind, placed, fromFrame)
    if ('ok' in move) return move
    const between = placed.some(({ frame }) => frame > fromFrame && frame < toFrame)
    putKeyRecord(draft, kind, newKey(owner, from, value, between ? move : looseMove(move), newId()))
  } else if (here === placed.at(-1)) putKeyRecord(draft, kind, { ...here.record, move: looseMove(here.record.move) })
  putKeyRecord(draft, kind, there === undefined ? newKey(owner, to, value, CUSHIONED_MOVE, newId()) : { ...there, ...kind.fieldsOf(owner.id, value) })
  return made(draft.edit(`${kind.words.key}-copy`, takeRef(takeId)))
}

/**
 * Keeps it at rest from the key before a frame until that frame; then it makes the move that it made, in the time that is
 * left. What comes after is as it was.
 */
export function holdUntil<V>(take: TakeBody, takeId: string, owner: KeyOwner<V>, frame: number, newId: string): Made {
  const refusal = ownerRefusal(take, owner)
  if (refusal !== null) return refusal
  const { kind } = owner
  const placed = placedKeys(take, owner)
  const index = placed.findLastIndex((entry) => entry.frame < frame)
  const [from, next] = [placed[index], placed[index + 1]]
  if (from === undefined || next === undefined || next.frame <= frame) return refused({ code: 'nothing-to-hold' })
  if (from.record.locked) return lockedKey(kind, from.record.id)
  const restsAt = beginsOf(trackKeys(kind, placed)).begins[index]!
  if (restsAt > from.frame && frame < restsAt + 1) return refused({ code: 'still-settling', restsAtFrame: Math.ceil(restsAt) + 1 })
  const draft = putKeyRecord(new Draft(take), kind, { ...from.record, move: STILL })
  return made(putKeyRecord(draft, kind, newKey(owner, anchorOfFrame(take, frame)!, kind.valueOf(from.record), from.record.move, newId)).edit('move-hold', takeRef(takeId)))
}

export type KeysInTime = { readonly kind: 'shift'; readonly byFrames: number } | { readonly kind: 'scale'; readonly aboutFrame: number; readonly factor: number }

/**
 * Moves keys in time together, or scales their times about a frame. They stay between their neighbours and inside the
 * shot, each on a frame of its own. Cushions of a move that is scaled scale with it; else they stay as many frames.
 */
export function retimeKeys(take: TakeBody, takeId: string, owner: AnyKeyOwner, ids: readonly string[], how: KeysInTime): Made {
  const refusal = ownerRefusal(take, owner)
  if (refusal !== null) return refusal
  const placed = placedKeys(take, owner)
  const chosen = new Set(ids)
  const missing = ids.find((id) => !placed.some(({ record }) => record.id === id))
  if (missing !== undefined) return missingKey(missing)
  const locked = placed.find(({ record }) => chosen.has(record.id) && record.locked)
  if (locked !== undefined) return lockedKey(owner.kind, locked.record.id)
  const runs = runsOf(placed, chosen, takeLengthFrames(take))
  const frames = new Map<string, number>()
  if (how.kind === 'shift') {
    const by = shiftWithin(runs, Math.round(how.byFrames))
    for (const { entries } of runs) for (const { record, frame } of entries) frames.set(record.id, frame + by)
  } else {
    for (const { entries, low, high } of runs) {
      const wanted = entries.map(({ frame }) => how.aboutFrame + (frame - how.aboutFrame) * how.factor)
      // Turned about, time would run back: it stops at the closest that they can stand.
      const ordered = how.factor < 0 ? wanted.map(() => how.aboutFrame) : wanted
      spacedFrames(ordered, low, high).forEach((frame, i) => frames.set(entries[i]!.record.id, frame))
    }
  }
  const draft = new Draft(take)
  placed.forEach(({ record, frame }, i) => {
    const now = frames.get(record.id)
    if (now === undefined) return
    const next = placed[i + 1]
    const after = next === undefined ? undefined : frames.get(next.record.id)
    const ratio = how.kind === 'scale' && next !== undefined && after !== undefined && next.frame > frame ? (after - now) / (next.frame - frame) : 1
    putKeyRecord(draft, owner.kind, { ...record, ...anchorOfFrame(take, now)!, move: withCushionsScaled(record.move, ratio) })
  })
  return made(tidyLoose(draft, take).edit(`${owner.kind.words.key}s-retime`, takeRef(takeId)))
}

/**
 * Keys of any tracks of a take, moved in time together: none goes farther than the one that is stopped first. Scaled, each
 * track stops by itself.
 */
export function retimeAcross(take: TakeBody, takeId: string, ids: readonly string[], how: KeysInTime): Made {
  const byOwner = new Map<string, { readonly owner: AnyKeyOwner; readonly ids: string[] }>()
  for (const id of ids) {
    const found = keyIn(take, id)
    if (found === null) return missingKey(id)
    const owner = { kind: found.kind, id: found.kind.ownerOf(found.record) }
    const name = `${Object.values(KEY_KINDS).indexOf(found.kind)} ${owner.id}`
    const known = byOwner.get(name)
    if (known === undefined) byOwner.set(name, { owner, ids: [id] })
    else known.ids.push(id)
  }
  const owners = [...byOwner.values()]
  const lengthFrames = takeLengthFrames(take)
  const by = how.kind === 'shift' ? owners.reduce((most, each) => shiftWithin(runsOf(placedKeys(take, each.owner), new Set(each.ids), lengthFrames), most), Math.round(how.byFrames)) : 0
  const edits: Edit[] = []
  for (const each of owners) {
    const made = retimeKeys(take, takeId, each.owner, each.ids, how.kind === 'shift' ? { kind: 'shift', byFrames: by } : how)
    if (!made.ok) return made
    edits.push(...made.edits)
  }
  return made(...edits)
}

/** How far these may go of what is asked for. */
function shiftWithin(runs: readonly Run[], by: number): number {
  return runs.reduce((most, { entries, low, high }) => Math.min(high - entries.at(-1)!.frame, Math.max(low - entries[0]!.frame, most)), by)
}

interface Run {
  readonly entries: readonly PlacedKey[]
  readonly low: number
  readonly high: number
}

/** Neighbouring keys that go together, with the first and last frame that they may stand on. */
function runsOf(placed: readonly PlacedKey[], chosen: ReadonlySet<string>, lengthFrames: number): readonly Run[] {
  const runs: Run[] = []
  for (let i = 0; i < placed.length; i++) {
    if (!chosen.has(placed[i]!.record.id)) continue
    const start = i
    while (i + 1 < placed.length && chosen.has(placed[i + 1]!.record.id)) i++
    runs.push({ entries: placed.slice(start, i + 1), low: (placed[start - 1]?.frame ?? -1) + 1, high: (placed[i + 1]?.frame ?? lengthFrames) - 1 })
  }
  return runs
}

/**
 * Bends the path of the move that leaves a key, by the handle at one of its ends (an offset from that end's place, fw). At a
 * smooth key the handle on its other side stays in line.
 */
export function bendMove(take: TakeBody, takeId: string, keyId: string, end: 'leave' | 'arrive', handle: Point3): Made {
  const found = moveOf(take, keyId)
  if ('ok' in found) return found
  const { owner, placed, index, from, to, places } = found
  const path: Path = { ...handlesOf(...places, from.move.path), kind: 'bent', [end]: handle }
  const draft = putKeyRecord(new Draft(take), owner.kind, { ...from, move: { ...from.move, path } })
  const joint = end === 'leave' ? from : to
  const other = end === 'leave' ? placed[index - 1]?.record : to
  // The key whose move has the handle on the joint's other side.
  if (joint.smooth === true && other?.move.path.kind === 'bent' && (end === 'leave' || placed[index + 2] !== undefined)) {
    if (other.locked) return lockedKey(owner.kind, other.id)
    const side = end === 'leave' ? 'arrive' : 'leave'
    const turned = { ...other.move.path, [side]: oppositeHandle(handle, length(other.move.path[side])) }
    putKeyRecord(draft, owner.kind, { ...other, move: { ...other.move, path: turned } })
  }
  return made(draft.edit('move-bend', takeRef(takeId)))
}

/** Gives the move that leaves a key another path. */
export function setPath(take: TakeBody, takeId: string, keyId: string, path: Path): Made {
  const found = moveOf(take, keyId)
  if ('ok' in found) return found
  return made(putKeyRecord(new Draft(take), found.owner.kind, { ...found.from, move: { ...found.from.move, path } }).edit('move-bend', takeRef(takeId)))
}

/** Takes the corner out of the path at a key, or puts it back. Smooth, the moves on both sides are bent along one line. */
export function smoothKey(take: TakeBody, takeId: string, keyId: string, smooth: boolean): Made {
  const found = freeKey(take, keyId)
  if ('ok' in found) return found
  const { kind, record, owner } = found
  const placed = placedKeys(take, owner)
  const index = placed.findIndex((entry) => entry.record.id === keyId)
  const [before, after] = [placed[index - 1]?.record, placed[index + 1]?.record]
  const places = [before, record, after].map((each) => (each === undefined ? null : kind.values.placeOf(kind.valueOf(each))))
  const draft = new Draft(take)
  let own = withFields(record, { smooth: smooth ? true : undefined })
  if (smooth && before !== undefined && after !== undefined && places.every((place) => place !== null)) {
    if (before.locked) return lockedKey(kind, before.id)
    const [start, here, goal] = places as [Point3, Point3, Point3]
    const handles = smoothHandles(start, here, goal)
    putKeyRecord(draft, kind, { ...before, move: { ...before.move, path: { ...handlesOf(start, here, before.move.path), kind: 'bent', arrive: handles.arrive } } })
    own = { ...own, move: { ...own.move, path: { ...handlesOf(here, goal, own.move.path), kind: 'bent', leave: handles.leave } } }
  }
  return made(putKeyRecord(draft, kind, own).edit(`${kind.words.key}-smooth`, takeRef(takeId)))
}

interface MoveOf {
  readonly owner: AnyKeyOwner
  readonly placed: readonly PlacedKey[]
  readonly index: number
  readonly from: KeyRecord
  readonly to: KeyRecord
  readonly places: readonly [Point3, Point3]
}

/** The move that leaves a key, to be bent; or why it can't be. */
function moveOf(take: TakeBody, keyId: string): Refused | MoveOf {
  const known = keyIn(take, keyId)
  if (known === null) return missingKey(keyId)
  const { kind, record: from } = known
  const owner = { kind, id: kind.ownerOf(from) }
  const refusal = ownerRefusal(take, owner)
  if (refusal !== null) return refusal
  const placed = placedKeys(take, owner)
  const index = placed.findIndex((entry) => entry.record.id === keyId)
  const to = placed[index + 1]?.record
  const places = [from, to].map((each) => (each === undefined ? null : kind.values.placeOf(kind.valueOf(each))))
  if (to === undefined || places[0] === null || places[0] === undefined || places[1] === null || places[1] === undefined) return { ok: false, refusal: { code: 'nothing-after', what: 'framing' } }
  if (from.locked) return lockedKey(kind, from.id)
  return { owner, placed, index, from, to, places: [places[0], places[1]] }
}

/** Takes out what thinning found, and lets the keys before leave as it found. */
export function applyThinned(take: TakeBody, takeId: string, thinned: { readonly remove: readonly KeyRecord[]; readonly change: readonly KeyRecord[] }): Made {
  const draft = new Draft(take)
  let word: string = 'key'
  for (const [keys, goes] of [[thinned.remove, true], [thinned.change, false]] as const) {
    for (const key of keys) {
      const found = keyIn(take, key.id)
      if (found === null) return missingKey(key.id)
      const refusal = ownerRefusal(take, { kind: found.kind, id: found.kind.ownerOf(found.record) })
      if (refusal !== null) return refusal
      word = found.kind.words.key
      if (goes) draft.drop(found.kind.collection, key.id)
      else putKeyRecord(draft, found.kind, key)
    }
  }
  return made(draft.edit(`${word}s-thin`, takeRef(takeId)))
}

/** The room a key's settle has, frames; Infinity for the last. */
export function settleRoom(take: TakeBody, keyId: string): number {
  const found = keyIn(take, keyId)
  if (found === null) return 0
  const placed = placedKeys(take, { kind: found.kind, id: found.kind.ownerOf(found.record) })
  const index = placed.findIndex((entry) => entry.record.id === keyId)
  const [to, next] = [placed[index + 1], placed[index + 2]]
  return to === undefined ? 0 : next === undefined ? Infinity : next.frame - to.frame - 1
}
