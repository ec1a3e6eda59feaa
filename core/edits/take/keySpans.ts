import type { Optics } from '../../camera/lens'
import { keyOwners, keyTrack, placedKeys, type KeyOwner, type KeyRecord, type PlacedKey } from '../../document/keys'
import { takeLengthFrames, type Anchor } from '../../document/panels'
import type { TakeBody } from '../../document/units'
import { excerptOf, HOLD_MOVE, looseMove, type ExcerptKey } from '../../moves/excerpt'
import type { Keyable } from '../../moves/keyable'
import { withFields, type Draft } from '../change/draft'

/** What keys show in a stretch of a shot, to be put elsewhere. Frames are those of the shot that it is from. */
export type SpanKeys<V> = readonly ExcerptKey<V, PlacedKey>[]

/** The keys that show from `from` to `to` (null: the shot's end) what their owner's show there; empty where it has none. */
export function keySpan<V>(take: TakeBody, owner: KeyOwner<V>, optics: Optics, from: number, to: number | null): SpanKeys<V> {
  return excerptOf(keyTrack(take, owner, optics), owner.kind.values, from, to ?? takeLengthFrames(take) - 1, to === null)
}

/** The same with a key on its first frame, so that nothing before it reaches into it; of what has none, `rest`. */
export function startingAt<V>(span: SpanKeys<V>, frame: number, rest: V): SpanKeys<V> {
  const [first] = span
  if (first?.frame === frame) return span
  return [{ frame, value: first?.value ?? rest, move: HOLD_MOVE, of: null }, ...span]
}

/** The same, to be left by a jump. */
export function leftByJump<V>(span: SpanKeys<V>): SpanKeys<V> {
  return span.map((each, i) => (i === span.length - 1 ? { ...each, move: HOLD_MOVE } : each))
}

/** Whether all of these show one value, and nothing else. */
export function allAlike<V>(spans: readonly SpanKeys<V>[], values: Pick<Keyable<V>, 'equal'>): boolean {
  const all = spans.flat().map(({ value }) => value)
  return all.every((value) => values.equal(value, all[0]!))
}

/**
 * The same with each key only once: where it was settling across a cut, what lies before it and what lies after both end
 * in the same key, and the second is a new one. `seen` has the ids that stand already.
 */
export function once<V>(span: SpanKeys<V>, seen: Set<string> = new Set()): SpanKeys<V> {
  return span.map((each) => {
    const id = each.of?.record.id
    if (id === undefined) return each
    if (seen.has(id)) return { ...each, of: null }
    seen.add(id)
    return each
  })
}

/** A key of a span as a record of another owner. One that is new has an id from `newId`; `fresh` gives all new ones, and unlocks them. */
export function keyOf<V>({ of, value, move }: SpanKeys<V>[number], { kind, id: ownerId }: KeyOwner<V>, { panelId, offsetFrames }: Anchor, newId: () => string, fresh = false): KeyRecord {
  const plain = { ...kind.fieldsOf(ownerId, value), panelId, offsetFrames, move }
  if (of === null) return { id: newId(), locked: false, ...plain }
  return fresh ? withFields<KeyRecord>({ ...of.record, ...plain, id: newId(), locked: false }, {}) : { ...of.record, ...plain }
}

/** Puts a span in the place of all that an owner has; what it had and is not in the span goes. */
export function putSpan<V>(draft: Draft<TakeBody>, take: TakeBody, owner: KeyOwner<V>, span: SpanKeys<V>, anchorOf: (frame: number) => Anchor, newId: () => string): void {
  const stays = new Set(span.flatMap(({ of }) => of?.record.id ?? []))
  for (const { record } of placedKeys(take, owner)) if (!stays.has(record.id)) draft.drop(owner.kind.collection, record.id)
  for (const each of once(span)) draft.put(owner.kind.collection, keyOf(each, owner, anchorOf(each.frame), newId) as never)
}

/**
 * Makes sure that what was last of an owner's keys, once it has others after it, goes there straight: what it led to is
 * gone, and how it went there must not come alive. To be called when all else is in the draft.
 */
export function tidyLoose(draft: Draft<TakeBody>, take: TakeBody): Draft<TakeBody> {
  const loose = keyOwners(take).flatMap((owner) => {
    const last = placedKeys(take, owner).at(-1)?.record
    return last === undefined || looseMove(last.move) === last.move ? [] : [{ owner, last }]
  })
  if (loose.length === 0) return draft
  const value = draft.value()
  for (const { owner: { kind }, last } of loose) {
    const records: Readonly<Record<string, KeyRecord>> = value[kind.collection]
    const now = records[last.id]
    // A move that the edit itself gave it is meant.
    if (now === undefined || now.move !== last.move) continue
    if (placedKeys(value, { kind, id: kind.ownerOf(now) }).at(-1)?.record.id !== last.id) draft.put(kind.collection, { ...now, move: looseMove(now.move) } as never)
  }
  return draft
}
