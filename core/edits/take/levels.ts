import { POSE_LIMITS } from '../../camera/pose'
import { keepPicture } from '../../depth/keepPicture'
import { spreadDepths, type SpreadRule } from '../../depth/spread'
import { rackLevels } from '../../document/panels'
import { asOneKind, cellIdOf, type Level, type LevelFields } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import type { Point3 } from '../../geometry/point'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'


/** What of a level may change while it is locked: how it is seen and called, not where it is. */
const FREE_WHILE_LOCKED: readonly (keyof LevelFields)[] = ['name', 'visible', 'locked', 'order', 'opacity', 'figure', 'group', 'tint', 'over', 'sequence', 'kind']

/** Changes a level. A locked one refuses to be moved, turned or scaled. */
export function editLevel(take: TakeBody, takeId: string, levelId: string, fields: LevelFields): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  const moves = (Object.keys(fields) as (keyof LevelFields)[]).some((key) => !FREE_WHILE_LOCKED.includes(key))
  if (level.locked && moves) return refused({ code: 'level-locked', id: levelId })
  return made(new Draft(take).put('levels', asOneKind({ ...level, ...fields } as Level)).edit('level-edit', takeRef(takeId)))
}

/** Sends a level to a depth; with a `camera`, keeping the picture as that camera sees it now. */
export function setLevelDepth(take: TakeBody, takeId: string, levelId: string, depth: number, camera: Point3 | null): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (camera === null) {
    if (!Number.isFinite(depth)) return refused({ code: 'depth-not-finite', depth, lensDepth: 0 })
    return placed(take, takeId, levelId, { depth })
  }
  const kept = keepPicture(camera, level, depth)
  if (!kept.ok) return refused(kept.refusal)
  return placed(take, takeId, levelId, { x: kept.x, y: kept.y, depth: kept.depth, scale: kept.scale })
}

/** Puts a level where it can be: refused, with how far that is, beyond. */
function placed(take: TakeBody, takeId: string, levelId: string, fields: { readonly depth: number; readonly x?: number; readonly y?: number; readonly scale?: number }): Made {
  const { placeFw } = POSE_LIMITS
  const far = [fields.x, fields.y, fields.depth].find((value) => value !== undefined && Math.abs(value) > placeFw)
  if (far !== undefined || (fields.scale !== undefined && !(fields.scale >= 1e-6 && fields.scale <= 1e6))) return refused({ code: 'out-of-reach', received: far ?? fields.scale!, most: placeFw })
  return editLevel(take, takeId, levelId, fields)
}

/** Gives many levels depths in one step, near to far as they stand now, each keeping the picture. */
export function spreadLevels(
  take: TakeBody,
  takeId: string,
  levelIds: readonly string[],
  nearDepth: number,
  farDepth: number,
  rule: SpreadRule,
  camera: Point3,
): Made {
  const levels = rackLevels(take)
    .filter((level) => levelIds.includes(level.id))
    .sort((a, b) => a.depth - b.depth)
  if (levels.length === 0) return refused({ code: 'nothing-selected' })
  const locked = levels.find((level) => level.locked)
  if (locked !== undefined) return refused({ code: 'level-locked', id: locked.id })
  const depths = spreadDepths(levels.length, nearDepth, farDepth, camera.depth, rule)
  if (depths === null) return refused({ code: 'spread-ends' })
  const draft = new Draft(take)
  for (const [i, level] of levels.entries()) {
    const kept = keepPicture(camera, level, depths[i]!)
    if (!kept.ok) return refused(kept.refusal)
    draft.put('levels', { ...level, x: kept.x, y: kept.y, depth: kept.depth, scale: kept.scale })
  }
  return made(draft.edit('levels-spread', takeRef(takeId)))
}

/** Puts a level into the rack, before the level `beforeId` (nearer among equals), or last. */
export function addLevel(take: TakeBody, takeId: string, level: Omit<Level, 'order'>, beforeId: string | null): Made {
  const rack = rackLevels(take)
  const at = beforeId === null ? rack.length : rack.findIndex((other) => other.id === beforeId)
  if (at < 0) return refused({ code: 'missing', what: 'level', id: beforeId! })
  const draft = new Draft(take)
  const [order] = draft.room('levels', rack, at, 1)
  return made(draft.put('levels', { ...level, order: order! }).edit('level-add', takeRef(takeId)))
}

/** A second level with the same drawings (shared until one is drawn on), just behind the first in the rack. */
export function duplicateLevel(take: TakeBody, takeId: string, levelId: string, newId: string, name: string): Made {
  const rack = rackLevels(take)
  const at = rack.findIndex((level) => level.id === levelId)
  if (at < 0) return refused({ code: 'missing', what: 'level', id: levelId })
  const draft = new Draft(take)
  const [order] = draft.room('levels', rack, at + 1, 1)
  draft.put('levels', { ...rack[at]!, id: newId, name, order: order!, locked: false })
  for (const cell of Object.values(take.cells)) {
    if (cell.levelId === levelId) draft.put('cells', { ...cell, id: cellIdOf(newId, cell.panelId), levelId: newId })
  }
  return made(draft.edit('level-duplicate', takeRef(takeId)))
}

export function removeLevel(take: TakeBody, takeId: string, levelId: string): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const draft = new Draft(take).drop('levels', levelId)
  for (const cell of Object.values(take.cells)) if (cell.levelId === levelId) draft.drop('cells', cell.id)
  return made(draft.edit('level-remove', takeRef(takeId)))
}

/** Moves a level one place nearer (−1) or farther (+1) among the levels at its depth; no edit at either end. */
export function reorderLevel(take: TakeBody, takeId: string, levelId: string, step: -1 | 1): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  const rest = rackLevels(take).filter((other) => other !== level)
  const equals = rackLevels(take).filter((other) => other.depth === level.depth)
  const other = equals[equals.indexOf(level) + step]
  if (other === undefined) return made()
  const draft = new Draft(take)
  const [order] = draft.room('levels', rest, rest.indexOf(other) + (step > 0 ? 1 : 0), 1)
  return made(draft.put('levels', { ...level, order: order! }).edit('level-reorder', takeRef(takeId)))
}
