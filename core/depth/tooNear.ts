import { overlap, type Outline } from './onScreen'

/** Levels that are nearer than this to each other along the lens axis can't be told apart in depth, fw. */
export const LEAST_APART_FW = 0.001
/** What rounding takes from that. */
const TOLERANCE = 1e-9

/** A level as the camera sees it. */
export interface SeenLevel {
  readonly id: string
  readonly z: number
  readonly outline: Outline
}

/**
 * Levels that lie over one another in the picture and nearer than the least to each other in depth, in the groups that hang
 * together so; each far to near, as they are drawn. `drawn` is in draw order.
 */
export function tooNear(drawn: readonly SeenLevel[]): readonly (readonly string[])[] {
  const groupOf = new Map<string, string[]>()
  for (const [i, far] of drawn.entries()) {
    for (let j = i + 1; j < drawn.length && far.z - drawn[j]!.z < LEAST_APART_FW - TOLERANCE; j++) {
      const near = drawn[j]!
      if (!overlap(far.outline, near.outline)) continue
      const [a, b] = [groupOf.get(far.id) ?? [far.id], groupOf.get(near.id) ?? [near.id]]
      if (a === b) continue
      const both = [...a, ...b]
      for (const id of both) groupOf.set(id, both)
    }
  }
  const place = new Map(drawn.map(({ id }, i) => [id, i]))
  return [...new Set(groupOf.values())].map((ids) => [...ids].sort((a, b) => place.get(a)! - place.get(b)!))
}

/**
 * How far from the lens levels of a group go so that they are the least apart: the nearest stays, what lies over it and is too
 * near goes just far enough, and so does what that comes too near to. Only those that go are told.
 */
export function parted(drawn: readonly SeenLevel[], group: readonly string[]): ReadonlyMap<string, number> {
  const gone = new Map<string, number>()
  const done: SeenLevel[] = []
  for (const level of [...drawn].reverse()) {
    for (const near of done) {
      if (!group.includes(level.id) && !gone.has(near.id)) continue
      const least = (gone.get(near.id) ?? near.z) + LEAST_APART_FW
      if ((gone.get(level.id) ?? level.z) < least - TOLERANCE && overlap(near.outline, level.outline)) gone.set(level.id, least)
    }
    done.push(level)
  }
  return gone
}
