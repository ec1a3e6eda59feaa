import type { Level } from '@rubato/core/document'
import type { RackFacts } from '~/stores/rack'

/** The rack's scale: distance from the lens (fw) to px, logarithmic, near at the top. */
export interface Ladder {
  y(distanceFw: number): number
  distance(y: number): number
  readonly nearFw: number
  readonly farFw: number
}

/** A row that hangs on another begins so much farther right. */
export const INDENT_PX = 10
export const NEAREST_FW = 0.05
export const DEEPEST_FW = 400

/** A ladder that shows all the distances with room at both ends. */
export function ladderOf(distances: readonly number[], topPx: number, bottomPx: number): Ladder {
  const ahead = distances.filter((distance) => distance >= NEAREST_FW)
  const nearFw = Math.max(NEAREST_FW, Math.min(0.75, ...ahead) * 0.85)
  const farFw = Math.max(8, Math.max(0, ...ahead) * 1.12)
  const span = Math.log(farFw / nearFw)
  const height = Math.max(1, bottomPx - topPx)
  return {
    nearFw,
    farFw,
    y: (distance) => topPx + (Math.log(distance / nearFw) / span) * height,
    distance: (y) => nearFw * Math.exp(((y - topPx) / height) * span),
  }
}

const MARKS = [0.05, 0.1, 0.2, 0.3, 0.5, 0.75, 1, 1.5, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64, 100, 200, 400]

/** Round distances inside the ladder, none closer than 20 px to the one before. */
export function ladderTicks(ladder: Ladder): number[] {
  const ticks: number[] = []
  let last = -Infinity
  for (const mark of MARKS) {
    if (mark < ladder.nearFw || mark > ladder.farFw || ladder.y(mark) - last < 20) continue
    ticks.push(mark)
    last = ladder.y(mark)
  }
  return ticks
}

/** A level's row beside the ladder. */
export interface ShownRow {
  readonly level: Level
  /** Where it stands at this frame, fw. */
  readonly depth: number
  /** What it hangs on, in a few words; empty where it stands in the set. */
  readonly hangs: string
  /** How deep it hangs on others that are shown above it. */
  readonly indent: number
  /** The row of what carries it, px; null where it stands by itself. */
  readonly carrierTop: number | null
  /** How it moves, in a few words; empty where it stands still. */
  readonly motion: string
  /** Of the row and of its rung, px. */
  readonly top: number
  readonly rung: number
  /** Behind the lens. */
  readonly behind: boolean
  /** A group that it can be folded with; empty where it is in none. */
  readonly group: string
  /** Those that it can’t be told apart from in depth, itself among them; null where there are none. */
  readonly near: readonly string[] | null
  readonly holding: { readonly drawingId: string | null; readonly own: boolean; readonly words: string }
}

const sameFields = (a: object, b: object) => Object.entries(a).every(([key, value]) => value === (b as Record<string, unknown>)[key])

/** The rows now: of those that say what they said before, the objects of before, so that nothing of them is laid out anew. */
export function keptRows(before: readonly ShownRow[] | undefined, now: readonly ShownRow[]): readonly ShownRow[] {
  const known = new Map(before?.map((row) => [row.level.id, row]))
  const rows = now.map((row) => {
    const old = known.get(row.level.id)
    return old !== undefined && sameFields(old, { ...row, holding: old.holding }) && sameFields(old.holding, row.holding) ? old : row
  })
  return before?.length === rows.length && rows.every((row, i) => row === before[i]) ? before : rows
}

export const signedDepth = (depth: number, decimals: number) => `${depth >= 0 ? '+' : '−'}${Math.abs(depth).toFixed(decimals)} fw`
export const depthText = ({ depth }: Pick<ShownRow, 'depth'>) => (Math.abs(depth) < 0.0005 ? 'picture plane' : signedDepth(depth, 2))

/** A group that is shown as one row. */
export interface FoldedRow {
  readonly group: string
  /** Near first. */
  readonly levels: readonly Level[]
  readonly depths: readonly number[]
  readonly top: number
  readonly rungs: readonly number[]
}

interface Lying {
  readonly level: Level
  readonly depth: number
}
/** What is listed: a level, with what it hangs on, or a folded group. */
export type Listed<T extends Lying> = { readonly kind: 'level'; readonly of: T; readonly indent: number; readonly on: T | null } | { readonly kind: 'fold'; readonly group: string; readonly of: readonly T[] }

/** What is listed in the rack: near first, what hangs on another right under that; a folded group where its nearest lies. */
export function rackOrder<T extends Lying>(nearFirst: readonly T[], isFolded: (group: string | undefined) => boolean): readonly Listed<T>[] {
  const folds = new Map<string, T[]>()
  const single: T[] = []
  for (const each of nearFirst) {
    const { group } = each.level
    if (!isFolded(group)) single.push(each)
    else if (folds.has(group!)) folds.get(group!)!.push(each)
    else folds.set(group!, [each])
  }
  const byId = new Map(single.map((each) => [each.level.id, each]))
  const carried = new Map<string | null, T[]>()
  for (const each of single) {
    const { carrier } = each.level
    const on = carrier?.kind === 'level' && byId.has(carrier.levelId) ? carrier.levelId : null
    carried.set(on, [...(carried.get(on) ?? []), each])
  }
  const under = (id: string | null, indent: number): Listed<T>[] => (carried.get(id) ?? []).flatMap((of) => [{ kind: 'level' as const, of, indent, on: id === null ? null : byId.get(id)! }, ...under(of.level.id, indent + 1)])
  const listed = under(null, 0)
  for (const [group, of] of folds) {
    const at = listed.findIndex((each) => each.kind === 'level' && each.indent === 0 && each.of.depth > of[0]!.depth)
    listed.splice(at < 0 ? listed.length : at, 0, { kind: 'fold', group, of })
  }
  return listed
}

const fw = (value: number) => `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(Math.abs(value) < 0.995 ? 2 : 1).replace(/^0/, '')}`

/** How wide the field is at a level and how far its art goes past the frame across and up, at the side where that is least; as a row has room for, and in words. */
export function factsText({ fieldFw, over }: RackFacts): { readonly short: string; readonly long: string } {
  const field = fieldFw >= 99.5 ? fieldFw.toFixed(0) : fieldFw >= 9.95 ? fieldFw.toFixed(1) : fieldFw.toFixed(2)
  const wide = `The frame is ${field} fw wide there`
  if (over === null) return { short: field, long: `${wide}; nothing is drawn on it here` }
  const { left, right, bottom, top } = over
  return { short: `${field} ${fw(Math.min(left, right))} ${fw(Math.min(bottom, top))}`, long: `${wide}. Its art goes past the frame, in fw (−: it ends inside): left ${fw(left)}, right ${fw(right)}, above ${fw(top)}, below ${fw(bottom)}` }
}
