import type { Level } from '@rubato/core/document'

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
  readonly holding: { readonly drawingId: string | null; readonly own: boolean; readonly words: string }
}

/** A depth that is being dragged. */
export interface LiveDepth {
  readonly id: string
  readonly depth: number
}

export const signedDepth = (depth: number, decimals: number) => `${depth >= 0 ? '+' : '−'}${Math.abs(depth).toFixed(decimals)} fw`
export const depthText = ({ depth }: Pick<ShownRow, 'depth'>) => (Math.abs(depth) < 0.0005 ? 'picture plane' : signedDepth(depth, 2))

/** What is listed in the rack: near first, and what hangs on another right under that. */
export function rackOrder<T extends { readonly level: Level; readonly depth: number }>(nearFirst: readonly T[]): readonly { readonly of: T; readonly indent: number; readonly on: T | null }[] {
  const byId = new Map(nearFirst.map((each) => [each.level.id, each]))
  const carried = new Map<string | null, T[]>()
  for (const each of nearFirst) {
    const { carrier } = each.level
    const on = carrier?.kind === 'level' && byId.has(carrier.levelId) ? carrier.levelId : null
    carried.set(on, [...(carried.get(on) ?? []), each])
  }
  const under = (id: string | null, indent: number): { of: T; indent: number; on: T | null }[] => (carried.get(id) ?? []).flatMap((of) => [{ of, indent, on: id === null ? null : byId.get(id)! }, ...under(of.level.id, indent + 1)])
  return under(null, 0)
}
