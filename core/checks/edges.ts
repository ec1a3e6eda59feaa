import { carrierOf } from '../document/carriers'
import type { Level } from '../document/records'
import type { StageFrame, TakeStage } from '../stage/takeStage'
import { bareOf, createEverCovered, ROWS, rowsAcross, shareOf, type Bare } from './coverage'
import { seenRings, type ArtOutline, type SeenRings } from './outline'
import { reachOf, SIDES, type Reach, type Side } from './reach'

/** A level that is less than so opaque lets what is behind it through, and covers nothing. */
const COVERS_FROM = 0.95
/** Of a frame: less is a hair between two lines. */
const LEAST_SHARE = 1e-5

/** What one camera sees at one frame of where art ends. */
export interface ViewEdges {
  readonly cameraId: string | null
  readonly bare: Bare
  /** Of each level that covers, how far it goes past the frame. */
  readonly reaches: ReadonlyMap<string, LevelReach>
}
type LevelReach = Reach & { /** Rows of the frame that it alone covers from side to side. */ readonly rows: number; /** Fw of the art to one of the picture, where its pivot stands. */ readonly artPerFw: number }

/** Something to be looked at: a level whose art ends inside the frame at some frames and goes past it at others, or bare paper where there was art. */
export interface Finding {
  /** The same for the same fault as long as it is there. */
  readonly id: string
  readonly kind: 'runs-out' | 'gap'
  /** Whose art runs out; null for a gap. */
  readonly levelId: string | null
  readonly side: Side | 'inside'
  /** First and last frames, in order. */
  readonly ranges: readonly (readonly [first: number, last: number])[]
  readonly worstFrame: number
  readonly cameraId: string | null
  /** At the worst frame: fw of the picture that are missing, or the share of the frame that is bare. */
  readonly amount: number
  /** Fw of the art that are missing; null for a gap. */
  readonly artFw: number | null
  /** Another as soon as anything of it is another. */
  readonly about: string
  /** What is bare at the worst frame; null for art that runs out. */
  readonly bare: Bare | null
}

export interface EdgeOptions {
  /** Of the output: what is less than a pixel is no fault. */
  readonly widthPx: number
  /** The outline of a drawing; null where it covers nothing, or is not known. */
  readonly outlineOf: (drawingId: string, pictureIndex: number | null) => ArtOutline | null
}

/** Levels that are there to cover: no references, no stand-ins, nothing that can be seen through. */
const covers = ({ level, opacity, drawingId }: StageFrame['levels'][number]) => drawingId !== null && opacity >= COVERS_FROM && level.kind !== 'reference' && level.standIn !== true

/** What a camera sees of edges at one frame. */
export function viewEdges(stage: StageFrame, { outlineOf }: Pick<EdgeOptions, 'outlineOf'>): ViewEdges {
  const { lens } = stage
  const outlines: SeenRings[] = []
  const byLevel = new Map<string, { readonly rings: SeenRings[]; readonly artPerFw: number }>()
  for (const placed of stage.levels) {
    if (!covers(placed)) continue
    const outline = outlineOf(placed.drawingId!, placed.pictureIndex)
    if (outline === null) continue
    const rings = seenRings(lens, placed.plane, outline)
    if (rings.length === 0) continue
    outlines.push(rings)
    const known = byLevel.get(placed.level.id)
    if (known === undefined) byLevel.set(placed.level.id, { rings: [rings], artPerFw: placed.z / (lens.k * placed.size) })
    else known.rings.push(rings)
  }
  return {
    cameraId: stage.cameraId,
    bare: bareOf(outlines, lens.halfHeight),
    // A level that is shown many times reaches as far as all of them.
    reaches: new Map(
      [...byLevel].map(([id, { rings, artPerFw }]) => {
        const reach = reachOf(rings.flat(), lens.halfHeight)
        const isPast = (reach.left ?? -1) > 0 && (reach.right ?? -1) > 0
        return [id, { ...reach, rows: isPast ? Math.max(...rings.map((each) => rowsAcross(each, lens.halfHeight))) : 0, artPerFw }]
      }),
    ),
  }
}

/** Which sides a level owes where it says so itself; undefined: it is to be guessed. */
export const owedBy = ({ owes }: Level): readonly Side[] | undefined => (owes === undefined ? undefined : owes === 'all' ? SIDES : owes === 'none' ? [] : owes)

/**
 * What a level is taken to owe where it says nothing, if it stands still and is no figure: left and right where it goes from side to side
 * of the frame at some time, top and bottom too where it fills all of it. So a sea does, and what stands on it does not. What is carried
 * stands as still as what carries it.
 */
function guessed(stage: TakeStage, level: Level, spans: { readonly across: boolean; readonly up: boolean }): readonly Side[] {
  if (level.figure === true) return []
  for (let each: Level | undefined = level; each !== undefined; ) {
    if (!stage.motionOf(each.id).isStill) return []
    const carrier = carrierOf(stage.take, each)
    each = carrier?.kind === 'level' ? stage.take.levels[carrier.levelId] : undefined
  }
  return [...(spans.across ? (['left', 'right'] as const) : []), ...(spans.up ? (['bottom', 'top'] as const) : [])]
}

/** What is wrong in a shot: art that runs out, then bare paper, the worst of each first. `frames` has the views of every frame that is shown of it, in order. */
export function findEdges(stage: TakeStage, frames: readonly (readonly ViewEdges[])[], { widthPx }: Pick<EdgeOptions, 'widthPx'>): readonly Finding[] {
  return [...gapsIn(stage, frames), ...runsOut(stage, frames, 1 / widthPx)].sort((a, b) => Number(a.kind === 'gap') - Number(b.kind === 'gap') || b.amount - a.amount || (a.id < b.id ? -1 : 1))
}

/** How wrong it is at a frame, if it is. */
interface Wrong {
  readonly frame: number
  readonly amount: number
  readonly cameraId: string | null
}

function runsOut(stage: TakeStage, frames: readonly (readonly ViewEdges[])[], leastFw: number): Finding[] {
  interface Told {
    readonly spans: { across: boolean; up: boolean }
    readonly most: Record<Side, number>
    readonly wrong: Record<Side, (Wrong & { readonly artPerFw: number })[]>
  }
  const told = new Map<string, Told>()
  frames.forEach((views, i) => {
    const frame = stage.shown.first + i
    for (const { cameraId, reaches } of views) {
      for (const [id, reach] of reaches) {
        let own = told.get(id)
        if (own === undefined) told.set(id, (own = { spans: { across: false, up: false }, most: { left: -Infinity, right: -Infinity, bottom: -Infinity, top: -Infinity }, wrong: { left: [], right: [], bottom: [], top: [] } }))
        if (reach.rows > 0) own.spans.across = true
        if (reach.rows === ROWS) own.spans.up = true
        for (const side of SIDES) {
          const far = reach[side]
          if (far === null) continue
          own.most[side] = Math.max(own.most[side], far)
          if (far >= -leastFw) continue
          const wrong = own.wrong[side]
          const last = wrong.at(-1)
          const now = { frame, amount: -far, cameraId, artPerFw: reach.artPerFw }
          // Of two cameras at one frame, the one that sees more of it.
          if (last?.frame !== frame) wrong.push(now)
          else if (now.amount > last.amount) wrong[wrong.length - 1] = now
        }
      }
    }
  })
  return [...told].flatMap(([levelId, { spans, most, wrong }]) => {
    const level = stage.take.levels[levelId]
    if (level === undefined) return []
    const owed = owedBy(level) ?? guessed(stage, level, spans)
    return owed.flatMap((side): Finding[] => {
      // Past the side at one frame, inside it at another.
      if (wrong[side].length === 0 || !(most[side] > 0)) return []
      const worst = worstOf(wrong[side])
      return [{ id: `${levelId.replace('~', '.')}.${side}`, kind: 'runs-out', levelId, side, ...worst, artFw: worst.amount * wrong[side].find(({ frame }) => frame === worst.worstFrame)!.artPerFw, bare: null }]
    })
  })
}

function gapsIn({ shown }: Pick<TakeStage, 'shown'>, frames: readonly (readonly ViewEdges[])[]): Finding[] {
  const ever = createEverCovered()
  for (const views of frames) for (const { bare } of views) ever.take(bare)
  const owedBySide = (bare: Bare) => bySide(ever.owed(bare))
  // A camera that rests sees the same for many frames.
  const shares = new Map<Bare, readonly (readonly [Side | 'inside', number])[]>()
  const sharesOf = (bare: Bare) => {
    let own = shares.get(bare)
    if (own === undefined) shares.set(bare, (own = [...owedBySide(bare)].map(([side, part]) => [side, shareOf(part)])))
    return own
  }
  const wrong = new Map<Side | 'inside', (Wrong & { readonly seen: Bare })[]>()
  frames.forEach((views, i) => {
    const frame = shown.first + i
    for (const { cameraId, bare } of views) {
      for (const [side, amount] of sharesOf(bare)) {
        if (amount < LEAST_SHARE) continue
        const own = wrong.get(side) ?? []
        wrong.set(side, own)
        const now = { frame, amount, cameraId, seen: bare }
        if (own.at(-1)?.frame !== frame) own.push(now)
        else if (amount > own.at(-1)!.amount) own[own.length - 1] = now
      }
    }
  })
  return [...wrong].map(([side, own]) => {
    const worst = worstOf(own)
    return { id: `gap.${side}`, kind: 'gap', levelId: null, side, ...worst, artFw: null, bare: owedBySide(own.find(({ frame }) => frame === worst.worstFrame)!.seen).get(side)! }
  })
}

/** Bare spans by the side of the frame that they touch; rows that are bare throughout belong to the edge that they reach, row by row. */
function bySide(bare: Bare): ReadonlyMap<Side | 'inside', Bare> {
  if (bare.length === 0) return NO_SIDES
  const isWhole = new Uint8Array(ROWS)
  for (let i = 0; i < bare.length; i += 3) if (bare[i + 1]! <= -0.5 && bare[i + 2]! >= 0.5) isWhole[bare[i]!] = 1
  let [below, above] = [0, ROWS - 1]
  while (below < ROWS && isWhole[below] === 1) below++
  while (above >= 0 && isWhole[above] === 1) above--
  const parts = new Map<Side | 'inside', number[]>()
  for (let i = 0; i < bare.length; i += 3) {
    const [row, from, to] = [bare[i]!, bare[i + 1]!, bare[i + 2]!]
    const side = isWhole[row] === 1 ? (row < below ? 'bottom' : row > above ? 'top' : 'inside') : from <= -0.5 ? 'left' : to >= 0.5 ? 'right' : row === 0 ? 'bottom' : row === ROWS - 1 ? 'top' : 'inside'
    const own = parts.get(side) ?? []
    own.push(row, from, to)
    parts.set(side, own)
  }
  return new Map([...parts].map(([side, numbers]) => [side, Float64Array.from(numbers)]))
}
const NO_SIDES: ReadonlyMap<Side | 'inside', Bare> = new Map()

/** What is said of frames that are wrong, given in order. */
function worstOf(wrong: readonly Wrong[]): Pick<Finding, 'ranges' | 'worstFrame' | 'cameraId' | 'amount' | 'about'> {
  const ranges: [number, number][] = []
  let worst = wrong[0]!
  let hash = 0x811c9dc5
  for (const each of wrong) {
    const last = ranges.at(-1)
    if (last !== undefined && last[1] === each.frame - 1) last[1] = each.frame
    else ranges.push([each.frame, each.frame])
    if (each.amount > worst.amount) worst = each
    for (const value of [each.frame, Math.round(each.amount * 1e5)]) hash = Math.imul(hash ^ value, 0x01000193) >>> 0
  }
  return { ranges, worstFrame: worst.frame, cameraId: worst.cameraId, amount: worst.amount, about: hash.toString(36) }
}
