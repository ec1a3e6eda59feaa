import { keepPicture } from '../../depth/keepPicture'
import { spreadDepths, type SpreadRule } from '../../depth/spread'
import { rackLevels } from '../../document/panels'
import { asOneKind, cellIdOf, type Level, type LevelFields } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { scale, type Point3 } from '../../geometry/point'
import { Draft, withFields } from '../change/draft'
import { made, refused, type Made, type Refused } from '../change/refusal'
import { copyLevelKeys, transformMotion } from './levelMotion'

/** What of a level may change while it is locked: how it is seen and called, not where it is. */
const FREE_WHILE_LOCKED: readonly (keyof LevelFields)[] = ['name', 'visible', 'locked', 'order', 'opacity', 'figure', 'group', 'tint', 'over', 'sequence', 'kind']

/** Changes a level; a field that is undefined goes. A locked one refuses to be moved, turned or scaled. */
export function editLevel(take: TakeBody, takeId: string, levelId: string, fields: LevelFields): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  const moves = (Object.keys(fields) as (keyof LevelFields)[]).some((key) => !FREE_WHILE_LOCKED.includes(key))
  if (level.locked && moves) return refused({ code: 'level-locked', id: levelId })
  return made(new Draft(take).put('levels', asOneKind(withFields<Level>(level, fields as Partial<Level>))).edit('level-edit', takeRef(takeId)))
}

/** Where levels stand at the frame that is seen, and the camera that sees them. */
export interface SeenLevels {
  readonly placeOf: (levelId: string) => Point3
  readonly camera: Point3
}

/**
 * Sends a level to a depth, as it stands at the frame that is seen, keeping the picture as the camera sees it there. Its whole
 * way goes along: all its keys, by the same factor about the lens.
 */
export function setLevelDepth(take: TakeBody, takeId: string, levelId: string, depth: number, seen: SeenLevels): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const draft = new Draft(take)
  const refusal = sentTo(draft, take, level, depth, seen)
  return refusal ?? made(draft.edit('level-edit', takeRef(takeId)))
}

function sentTo(draft: Draft<TakeBody>, take: TakeBody, level: Level, depth: number, { placeOf, camera }: SeenLevels): Refused | null {
  const stands = placeOf(level.id)
  if (!Number.isFinite(depth)) return refused({ code: 'depth-not-finite', depth, lensDepth: camera.depth })
  const kept = keepPicture(camera, { ...stands, scale: 1 }, depth)
  if (!kept.ok) return refused(kept.refusal)
  const ratio = kept.scale
  // Where it stands is sent to the depth itself, without what rounding would make of it.
  const about = (at: Point3): Point3 => ({ x: camera.x + ratio * (at.x - camera.x), y: camera.y + ratio * (at.y - camera.y), depth: at.depth === stands.depth ? depth : camera.depth + ratio * (at.depth - camera.depth) })
  return transformMotion(draft, take, level, about, (offset) => scale(offset, ratio), ratio)
}

/** Gives many levels depths in one step, near to far as they stand now, each keeping the picture. */
export function spreadLevels(
  take: TakeBody,
  takeId: string,
  levelIds: readonly string[],
  nearDepth: number,
  farDepth: number,
  rule: SpreadRule,
  seen: SeenLevels,
): Made {
  const levels = rackLevels(take)
    .filter((level) => levelIds.includes(level.id))
    .sort((a, b) => seen.placeOf(a.id).depth - seen.placeOf(b.id).depth)
  if (levels.length === 0) return refused({ code: 'nothing-selected' })
  const locked = levels.find((level) => level.locked)
  if (locked !== undefined) return refused({ code: 'level-locked', id: locked.id })
  const depths = spreadDepths(levels.length, nearDepth, farDepth, seen.camera.depth, rule)
  if (depths === null) return refused({ code: 'spread-ends' })
  const draft = new Draft(take)
  for (const [i, level] of levels.entries()) {
    const refusal = sentTo(draft, take, level, depths[i]!, seen)
    if (refusal !== null) return refusal
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
export function duplicateLevel(take: TakeBody, takeId: string, levelId: string, newId: string, name: string, newKeyId: () => string): Made {
  const rack = rackLevels(take)
  const at = rack.findIndex((level) => level.id === levelId)
  if (at < 0) return refused({ code: 'missing', what: 'level', id: levelId })
  const draft = new Draft(take)
  const [order] = draft.room('levels', rack, at + 1, 1)
  draft.put('levels', { ...rack[at]!, id: newId, name, order: order!, locked: false })
  for (const cell of Object.values(take.cells)) {
    if (cell.levelId === levelId) draft.put('cells', { ...cell, id: cellIdOf(newId, cell.panelId), levelId: newId })
  }
  copyLevelKeys(draft, take, levelId, newId, newKeyId)
  return made(draft.edit('level-duplicate', takeRef(takeId)))
}

export function removeLevel(take: TakeBody, takeId: string, levelId: string): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const draft = new Draft(take).drop('levels', levelId)
  for (const cell of Object.values(take.cells)) if (cell.levelId === levelId) draft.drop('cells', cell.id)
  for (const key of Object.values(take.levelKeys)) if (key.levelId === levelId) draft.drop('levelKeys', key.id)
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
