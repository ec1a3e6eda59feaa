import { keepPicture } from '../../depth/keepPicture'
import { spreadDepths, type SpreadRule } from '../../depth/spread'
import { into, outOf, SET, type Stand } from '../../depth/carriage'
import { carriageIn, carriedBy, carrierOf, carriersFirst, type SeenLevels } from '../../document/carriers'
import { rackLevels } from '../../document/panels'
import { pieceOf } from '../../document/sets'
import { spansOn } from '../../document/spans'
import { asOneKind, cellAt, type Carrier, type Level, type LevelFields } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { add, scale, subtract, type Point3 } from '../../geometry/point'
import { Draft, withFields } from '../change/draft'
import { made, refused, type Made, type Refused } from '../change/refusal'
import { handOver } from './fasten'
import { carryNames } from './levelDrawings'
import { dropSpans } from './spanPieces'
import { copyLevelKeys, transformMotion } from './levelMotion'

/** What of a level may change while it is locked: how it is seen and called, not where it is. */
const FREE_WHILE_LOCKED: readonly (keyof LevelFields)[] = ['name', 'visible', 'locked', 'order', 'opacity', 'figure', 'standIn', 'group', 'tint', 'tone', 'over', 'sequence', 'kind']

/** Changes a level; a field that is undefined goes. A locked one refuses to be moved, turned or scaled. */
export function editLevel(take: TakeBody, takeId: string, levelId: string, fields: LevelFields): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  const moves = (Object.keys(fields) as (keyof LevelFields)[]).some((key) => !FREE_WHILE_LOCKED.includes(key))
  if (level.locked && moves) return refused({ code: 'level-locked', id: levelId })
  return made(new Draft(take).put('levels', asOneKind(withFields<Level>(level, fields as Partial<Level>))).edit('level-edit', takeRef(takeId)))
}

/**
 * Sends a level to a depth of the set, as it stands at the frame that is seen, keeping the picture as the camera sees it there;
 * with `own` to a depth in the axes of what carries it. Its whole way goes along, and what it carries: all by one factor
 * about the lens.
 */
export function setLevelDepth(take: TakeBody, takeId: string, levelId: string, depth: number, seen: SeenLevels, own = false): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const carriage = own ? carriageIn(take, level, seen) : SET
  const found = ratioTo(into(carriage, seen.standOf(levelId).place), into(carriage, seen.camera), depth)
  if (!found.ok) return refused(found.refusal)
  const draft = new Draft(take)
  return scaledAboutLens(draft, take, new Map([[levelId, { ratio: found.scale, depth: own && carriage !== SET ? null : depth }]]), seen) ?? made(draft.edit('level-edit', takeRef(takeId)))
}

function ratioTo(stands: Point3, camera: Point3, depth: number) {
  return keepPicture(camera, { ...stands, scale: 1 }, depth)
}

/** So many times as far from the lens; where a depth of the set is told, to just that. */
interface Scaled {
  readonly ratio: number
  readonly depth: number | null
}

/**
 * Levels go so many times as far from the lens and grow by as much, each with its whole way, so that the frame that is seen
 * stays as it is. What they carry goes along, the same number of times as far: what follows their size has nothing to do for it.
 */
function scaledAboutLens(draft: Draft<TakeBody>, take: TakeBody, chosen: ReadonlyMap<string, Scaled>, seen: SeenLevels): Refused | null {
  const ratios = new Map<string, number>()
  for (const level of carriersFirst(take, rackLevels(take))) {
    const carrier = carrierOf(take, level)
    const carried = carrier?.kind === 'level' ? ratios.get(carrier.levelId)! : 1
    const { ratio, depth } = chosen.get(level.id) ?? { ratio: carried, depth: null }
    ratios.set(level.id, ratio)
    const grows = carrier?.kind === 'level' && carrier.size ? carried : 1
    const factor = ratio / grows
    const set = pieceOf(level.id)?.setLevelId
    groundAlong(draft, level, ratio / (set === undefined ? 1 : (ratios.get(set) ?? 1)), set === undefined ? SET : seen.standOf(set), seen)
    if (factor === 1 && ratio === carried) continue
    const carriage = carriageIn(take, level, seen)
    const lens = into(carriage, seen.camera)
    const stands = seen.valuesOf(level.id).place
    const rest = (carried - ratio) / grows
    const place = (at: Point3): Point3 => {
      const moved = add(scale(at, factor), scale(lens, rest))
      // Where it stands is sent to the depth itself, without what rounding would make of it.
      return carriage === SET && depth !== null && at.depth === stands.depth ? { ...moved, depth } : moved
    }
    const refusal = transformMotion(draft, take, level, { place, handle: (offset) => scale(offset, factor), factor })
    if (refusal !== null) return refusal
  }
  return null
}

/** The ground that a level's shadow falls on goes as many times as far from the lens as the level does, so that the shadow is seen as it was. */
function groundAlong(draft: Draft<TakeBody>, level: Level, ratio: number, base: Stand, { camera }: SeenLevels): void {
  if (level.shadow === undefined || ratio === 1) return
  const ground = outOf(base, { x: 0, y: level.shadow.ground, depth: 0 })
  draft.put('levels', { ...draft.now('levels', level.id)!, shadow: { ...level.shadow, ground: into(base, add(camera, scale(subtract(ground, camera), ratio))).y } })
}

/** Where a level is sent: to a depth of the set, or so many times as far from the lens as it is. */
export type SentTo = { readonly depth: number } | { readonly times: number }

/** Levels as they stand at the frame that is seen, near first; among equals as the rack has them. */
export function nearFirst(take: TakeBody, { standOf }: Pick<SeenLevels, 'standOf'>, levelIds?: readonly string[]): readonly Level[] {
  const depths = new Map<Level, number>()
  const depthOf = (level: Level) => depths.get(level) ?? (depths.set(level, standOf(level.id).place.depth), depths.get(level)!)
  const rack = rackLevels(take)
  return (levelIds === undefined ? [...rack] : rack.filter(({ id }) => levelIds.includes(id))).sort((a, b) => depthOf(a) - depthOf(b))
}

/**
 * Sends many levels to depths in one step, each keeping the picture. Those that come to lie at one depth with others are
 * listed there as they lay before, or as `order` has them, so that none comes to the front by it.
 */
export function sendLevels(take: TakeBody, takeId: string, to: ReadonlyMap<string, SentTo>, seen: SeenLevels, order: readonly string[] = nearFirst(take, seen).map(({ id }) => id)): Made {
  if (to.size === 0) return refused({ code: 'nothing-selected' })
  const chosen = new Map<string, Scaled>()
  const after = new Map<string, number>()
  for (const [id, asked] of to) {
    const level = take.levels[id]
    if (level === undefined) return refused({ code: 'missing', what: 'level', id })
    if (level.locked) return refused({ code: 'level-locked', id })
    const stands = seen.standOf(id).place
    const depth = 'depth' in asked ? asked.depth : seen.camera.depth + asked.times * (stands.depth - seen.camera.depth)
    const found = ratioTo(stands, seen.camera, depth)
    if (!found.ok) return refused(found.refusal)
    chosen.set(id, 'depth' in asked ? { ratio: found.scale, depth } : { ratio: asked.times, depth: null })
    after.set(id, depth)
  }
  const draft = new Draft(take)
  const refusal = scaledAboutLens(draft, take, chosen, seen)
  if (refusal !== null) return refusal
  listAsBefore(draft, take, after, seen, order)
  return made(draft.edit('levels-spread', takeRef(takeId)))
}

/** Levels that are to lie at one depth share the places in the rack that they have, in an order that is told. */
function listAsBefore(draft: Draft<TakeBody>, take: TakeBody, after: ReadonlyMap<string, number>, { standOf }: SeenLevels, order: readonly string[]) {
  const places = new Map(order.map((id, i) => [id, i]))
  const placeOf = ({ id }: Level) => places.get(id) ?? order.length
  const equals = new Map<number, Level[]>()
  for (const depth of after.values()) equals.set(depth, [])
  for (const level of rackLevels(take)) equals.get(after.get(level.id) ?? standOf(level.id).place.depth)?.push(level)
  for (const listed of equals.values()) {
    const wanted = [...listed].sort((a, b) => placeOf(a) - placeOf(b))
    for (const [i, { id }] of wanted.entries()) {
      if (listed[i]!.id !== id) draft.put('levels', { ...draft.now('levels', id)!, order: listed[i]!.order })
    }
  }
}

/** Gives many levels depths in one step, from a near one to a far one, in the order told; each keeps the picture. */
export function spreadLevels(take: TakeBody, takeId: string, levelIds: readonly string[], nearDepth: number, farDepth: number, rule: SpreadRule, seen: SeenLevels): Made {
  const depths = spreadDepths(levelIds.length, nearDepth, farDepth, seen.camera.depth, rule)
  if (depths === null) return refused({ code: 'spread-ends' })
  const rest = nearFirst(take, seen).flatMap(({ id }) => (levelIds.includes(id) ? [] : [id]))
  return sendLevels(take, takeId, new Map(levelIds.map((id, i) => [id, { depth: depths[i]! }])), seen, nearDepth === farDepth ? undefined : [...levelIds, ...rest])
}

type Unlisted<L extends Level> = L extends Level ? Omit<L, 'order'> : never

/** Puts a level into the rack, before the level `beforeId` (nearer among equals), or last. */
export function addLevel(take: TakeBody, takeId: string, level: Unlisted<Level>, beforeId: string | null): Made {
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
    if (cell.levelId === levelId) draft.put('cells', cellAt(newId, cell.panelId, cell.offsetFrames ?? 0, cell.drawingId))
  }
  carryNames(draft, take, take, new Map([[levelId, newId]]), (id) => id)
  copyLevelKeys(draft, take, levelId, newId, newKeyId)
  return made(draft.edit('level-duplicate', takeRef(takeId)))
}

/** Takes a level out, and the spans of cameras that went after it. What it carries is handed on to what carries it, and stays where it is at the frame that is seen. */
export function removeLevel(take: TakeBody, takeId: string, levelId: string, seen: SeenLevels): Made {
  const level = take.levels[levelId]
  if (level === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  if (level.locked) return refused({ code: 'level-locked', id: levelId })
  const draft = new Draft(take).drop('levels', levelId)
  for (const cell of Object.values(take.cells)) if (cell.levelId === levelId) draft.drop('cells', cell.id)
  for (const key of Object.values(take.levelKeys)) if (key.levelId === levelId) draft.drop('levelKeys', key.id)
  dropSpans(draft, spansOn(take, levelId).map(({ id }) => id))
  for (const named of Object.values(take.levelDrawings)) if (named.levelId === levelId) draft.drop('levelDrawings', named.id)
  for (const carried of carriedBy(take, levelId)) {
    const follows = carried.carrier as Extract<Carrier, { readonly kind: 'level' }>
    const next = carrierOf(take, level)
    const carrier = next?.kind === 'level' ? { ...next, turn: next.turn && follows.turn, size: next.size && follows.size } : next
    const refusal = handOver(draft, take, carried, carrier, seen)
    if (refusal !== null) return refusal
  }
  return made(draft.edit('level-remove', takeRef(takeId)))
}

/** Moves a level one place nearer (−1) or farther (+1) among the levels at its depth at the frame that is seen; no edit at either end. */
export function reorderLevel(take: TakeBody, takeId: string, levelId: string, step: -1 | 1, seen: Pick<SeenLevels, 'standOf'>): Made {
  if (take.levels[levelId] === undefined) return refused({ code: 'missing', what: 'level', id: levelId })
  const equals = equalsOf(take, levelId, seen)
  const other = equals[equals.findIndex(({ id }) => id === levelId) + step]
  return other === undefined ? made() : listBeside(take, takeId, levelId, other.id, step > 0 ? 'farther' : 'nearer', seen)
}

/** The levels that stand at a level's depth at the frame that is seen, itself among them, in rack order. */
export const equalsOf = (take: TakeBody, levelId: string, { standOf }: Pick<SeenLevels, 'standOf'>): readonly Level[] => {
  const { depth } = standOf(levelId).place
  return rackLevels(take).filter((other) => standOf(other.id).place.depth === depth)
}

/** Lists a level next to another that stands at its depth at the frame that is seen: on its nearer side or its farther one. */
export function listBeside(take: TakeBody, takeId: string, levelId: string, besideId: string, side: 'nearer' | 'farther', seen: Pick<SeenLevels, 'standOf'>): Made {
  const [level, beside] = [take.levels[levelId], take.levels[besideId]]
  if (level === undefined || beside === undefined) return refused({ code: 'missing', what: 'level', id: level === undefined ? levelId : besideId })
  if (level === beside || !equalsOf(take, levelId, seen).includes(beside)) return made()
  const rack = rackLevels(take)
  const rest = rack.filter((other) => other !== level)
  const at = rest.indexOf(beside) + (side === 'farther' ? 1 : 0)
  if (rack[at] === level) return made()
  const draft = new Draft(take)
  const [order] = draft.room('levels', rest, at, 1)
  return made(draft.put('levels', { ...level, order: order! }).edit('level-reorder', takeRef(takeId)))
}
