import { basisOf } from '../camera/projection'
import { hingedAt, hingeOf } from '../depth/walls'
import { turnNear } from '../depth/carriage'
import { carriedBy, carrierOf, type SeenLevels } from '../document/carriers'
import { showsNothing, type Level } from '../document/records'
import type { TakeBody } from '../document/units'
import type { LevelValues } from '../moves/levelValues'

/** Levels that are hinged to each other, laid flat into one plane. */
export interface FoldedOpen {
  /** The one that the others open around. */
  readonly rootId: string
  /** All of them. */
  readonly ids: ReadonlySet<string>
  /** How those that are opened are tried. */
  readonly tried: ReadonlyMap<string, Partial<LevelValues>>
}

/** A level's hinge on what carries it, at the frame that is seen; null where it has none. */
export function hingeOn(take: TakeBody, level: Level, seen: Pick<SeenLevels, 'valuesOf'>) {
  const carrier = carrierOf(take, level)
  if (carrier?.kind !== 'level' || !carrier.turn || level.facing !== undefined || showsNothing(take.levels[carrier.levelId]!)) return null
  const basis = basisOf(seen.valuesOf(level.id).turn)
  const hinge = hingeOf(basis)
  return hinge === null ? null : { basis, hinge, carrierId: carrier.levelId }
}

/** What a level is hinged to and what is hinged to it, folded open; null where nothing is. Nothing is written: it is a way to look. */
export function foldedOpen(take: TakeBody, levelId: string, seen: Pick<SeenLevels, 'valuesOf'>): FoldedOpen | null {
  let root = take.levels[levelId]
  if (root === undefined) return null
  for (let on = hingeOn(take, root, seen); on !== null; on = hingeOn(take, root, seen)) root = take.levels[on.carrierId]!
  const ids = new Set([root.id])
  const tried = new Map<string, Partial<LevelValues>>()
  const open = (carrierId: string) => {
    for (const level of carriedBy(take, carrierId)) {
      const on = hingeOn(take, level, seen)
      if (on === null || ids.has(level.id)) continue
      ids.add(level.id)
      tried.set(level.id, { turn: turnNear(hingedAt(on.basis, on.hinge, 0), seen.valuesOf(level.id).turn) })
      open(level.id)
    }
  }
  open(root.id)
  return tried.size === 0 ? null : { rootId: root.id, ids, tried }
}
