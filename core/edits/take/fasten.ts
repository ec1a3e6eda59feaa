import { into, turnedInto, turnNear, wayInto, wayOut, type Carriage } from '../../depth/carriage'
import { carriageIn, carriersOf, type SeenLevels } from '../../document/carriers'
import { newLevel } from '../../document/newLevel'
import { rackLevels } from '../../document/panels'
import type { Carrier, Level } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { add, ORIGIN, scale, subtract, type Point3 } from '../../geometry/point'
import type { LevelTurn } from '../../moves/levelValues'
import { Draft, withFields } from '../change/draft'
import { made, refused, type Made, type Refused } from '../change/refusal'
import { sameJson } from '../change/sameJson'
import { transformMotion } from './levelMotion'
import { followedRefusal } from './spans'

/**
 * Fastens levels to another, to the camera, or (null) lets them go into the set. At the frame that is seen each stays where it
 * is; all its keys go along. Refused where a level would hang on itself, or on more than `CARRIERS_DEEP` others.
 */
export function fastenLevels(take: TakeBody, takeId: string, levelIds: readonly string[], carrier: Carrier | null, seen: SeenLevels): Made {
  if (levelIds.length === 0) return refused({ code: 'nothing-selected' })
  const draft = new Draft(take)
  const refusal = fastened(draft, take, levelIds, carrier, seen)
  return refusal ?? made(draft.edit(carrier === null ? 'levels-let-go' : 'levels-fasten', takeRef(takeId)))
}

function fastened(draft: Draft<TakeBody>, take: TakeBody, levelIds: readonly string[], carrier: Carrier | null, seen: SeenLevels): Refused | null {
  if (carrier?.kind === 'level' && draft.now('levels', carrier.levelId) === null) return refused({ code: 'missing', what: 'level', id: carrier.levelId })
  for (const id of levelIds) {
    const level = Object.hasOwn(take.levels, id) ? take.levels[id]! : null
    if (level === null) return refused({ code: 'missing', what: 'level', id })
    if (sameJson(level.carrier ?? null, carrier)) continue
    if (level.locked) return refused({ code: 'level-locked', id })
    const refusal = handOver(draft, take, level, carrier, seen)
    if (refusal !== null) return refusal
  }
  const after = draft.value()
  for (const level of Object.values(after.levels)) {
    const { chain, problem } = carriersOf(after, level)
    if (problem === 'carrier-circle') return refused({ code: 'carrier-circle', id: level.id, names: [level, ...chain].map(({ name }) => name) })
    if (problem === 'carriers-too-deep') return refused({ code: 'carriers-too-deep', id: level.id })
  }
  return followedRefusal(after)
}

/** Puts a level on another carrier. Its place, turn and size at the frame that is seen stay; its keys are told anew from there. */
export function handOver(draft: Draft<TakeBody>, take: TakeBody, level: Level, carrier: Carrier | null, seen: SeenLevels): Refused | null {
  draft.put('levels', withFields<Level>(draft.now('levels', level.id) ?? level, { carrier: carrier ?? undefined }))
  const [from, to] = [carriageIn(take, level, seen), carriageIn(take, level, seen, carrier)]
  const factor = from.size / to.size
  const handle = (way: Point3) => wayInto(to, wayOut(from, way))
  const values = seen.valuesOf(level.id)
  // Bob and drift go along the axes that it is in, as they did along those before: only their size is another.
  const swayed = seen.swayOf(level.id)
  const keyed = subtract(values.place, swayed)
  const stands = into(to, seen.standOf(level.id).place)
  const by = subtract(subtract(stands, scale(swayed, factor)), handle(keyed))
  return transformMotion(draft, take, level, { place: (at) => add(handle(at), by), handle, factor, ...turning(level, values.turn, from, to, seen) })
}

/**
 * Turns are told anew by the same angles for all keys, those that are right at the frame that is seen. One that turns to the
 * camera owes its turn to that.
 */
function turning({ id, facing }: Level, turn: LevelTurn, from: Carriage, to: Carriage, { standOf }: SeenLevels): { readonly turn?: (turn: LevelTurn) => LevelTurn } {
  if (facing !== undefined || sameJson([from.right, from.up], [to.right, to.up])) return {}
  const now = turnNear(turnedInto(to, standOf(id)), turn)
  return { turn: ({ panDegrees, tiltDegrees, rollDegrees }) => ({ panDegrees: panDegrees + now.panDegrees - turn.panDegrees, tiltDegrees: tiltDegrees + now.tiltDegrees - turn.tiltDegrees, rollDegrees: rollDegrees + now.rollDegrees - turn.rollDegrees }) }
}

/** The levels of some that hang on none of the others. */
const uppermost = (take: TakeBody, ids: readonly string[]): readonly Level[] => {
  const levels = [...new Set(ids)].flatMap((id) => (Object.hasOwn(take.levels, id) ? [take.levels[id]!] : []))
  return levels.filter((level) => !carriersOf(take, level).chain.some((carrier) => ids.includes(carrier.id)))
}

/**
 * Makes an empty carrier in the middle of levels and fastens them to it, as one. It hangs on what they all hung on, else on
 * nothing; those that hang on others of them go with those.
 */
export function carryTogether(take: TakeBody, takeId: string, levelIds: readonly string[], newId: string, name: string, seen: SeenLevels): Made {
  const levels = uppermost(take, levelIds)
  if (levels.length === 0) return refused({ code: 'nothing-selected' })
  const [first] = levels
  const common = levels.every((level) => sameJson(level.carrier, first!.carrier)) ? first!.carrier : undefined
  const middle = scale(levels.reduce<Point3>((sum, level) => add(sum, seen.standOf(level.id).place), ORIGIN), 1 / levels.length)
  const carriage = carriageIn(take, first!, seen, common ?? null)
  const rack = rackLevels(take)
  const draft = new Draft(take)
  const at = Math.min(...levels.map((level) => rack.indexOf(level)))
  const [order] = draft.room('levels', rack, at, 1)
  const carrier = { ...newLevel({ id: newId, name, kind: 'carrier' }), ...into(carriage, middle), order: order!, ...(common === undefined ? {} : { carrier: common }) }
  draft.put('levels', carrier)
  const stand = { ...carriage, place: middle }
  const asked: SeenLevels = { ...seen, standOf: (id) => (id === newId ? stand : seen.standOf(id)) }
  const refusal = fastened(draft, take, levels.map(({ id }) => id), { kind: 'level', levelId: newId, turn: true, size: true }, asked)
  return refusal ?? made(draft.edit('levels-carry', takeRef(takeId)))
}

/** Whether levels stay as they are turned (null), or turn to the camera; where they are seen stays. */
export function faceLevels(take: TakeBody, takeId: string, levelIds: readonly string[], facing: Level['facing'] | null): Made {
  if (levelIds.length === 0) return refused({ code: 'nothing-selected' })
  const draft = new Draft(take)
  for (const id of levelIds) {
    const level = Object.hasOwn(take.levels, id) ? take.levels[id]! : null
    if (level === null) return refused({ code: 'missing', what: 'level', id })
    if ((level.facing ?? null) === (facing ?? null)) continue
    if (level.locked) return refused({ code: 'level-locked', id })
    draft.put('levels', withFields<Level>(level, { facing: facing ?? undefined }))
  }
  return followedRefusal(draft.value()) ?? made(draft.edit('levels-face', takeRef(takeId)))
}

