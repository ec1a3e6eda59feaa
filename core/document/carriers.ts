import type { CameraPose } from '../camera/pose'
import { carriageOfCamera, carriageOn, SET, type Carriage, type Stand } from '../depth/carriage'
import type { Point3 } from '../geometry/point'
import type { LevelValues } from '../moves/levelValues'
import type { Carrier, Level } from './records'
import { pieceOf } from './sets'
import type { TakeBody } from './units'

/** The most levels that one hangs on, one on the other. */
export const CARRIERS_DEEP = 16

export type CarrierProblem = 'missing-carrier' | 'carrier-circle' | 'carriers-too-deep'

type Levels = Pick<TakeBody, 'levels'>
const levelIn = (take: Levels, id: string): Level | null => (Object.hasOwn(take.levels, id) ? take.levels[id]! : null)

/** The levels that one hangs on, nearest first, as far as they go, and what is wrong with them. */
export function carriersOf(take: Levels, level: Level): { readonly chain: readonly Level[]; readonly problem: CarrierProblem | null } {
  const chain: Level[] = []
  // A piece hangs on those of its set, and on those that its set hangs on.
  const most = pieceOf(level.id) === null ? CARRIERS_DEEP : 2 * CARRIERS_DEEP + 1
  for (let at = level; at.carrier?.kind === 'level'; at = chain.at(-1)!) {
    const next = levelIn(take, at.carrier.levelId)
    if (next === null) return { chain, problem: 'missing-carrier' }
    if (next.id === level.id || chain.includes(next)) return { chain, problem: 'carrier-circle' }
    if (chain.length === most) return { chain, problem: 'carriers-too-deep' }
    chain.push(next)
  }
  return { chain, problem: null }
}

/** What carries a level, where it can: one that hangs on nothing that holds stands in the set. */
export function carrierOf(take: Levels, level: Level): Carrier | null {
  return level.carrier === undefined || carriersOf(take, level).problem !== null ? null : level.carrier
}

/** The levels that one carries itself. */
export const carriedBy = (take: Levels, levelId: string): readonly Level[] => Object.values(take.levels).filter(({ carrier }) => carrier?.kind === 'level' && carrier.levelId === levelId)

/** Levels so that each comes after what carries it. */
export function carriersFirst(take: Levels, levels: readonly Level[]): readonly Level[] {
  return [...new Set(levels.flatMap((level) => [...[...carriersOf(take, level).chain].reverse(), level]))]
}

/** With the level that carries it called otherwise; null where that is not there. */
export function withCarrierNamed<L extends Level>(level: L, nameOf: (levelId: string) => string | undefined): L | null {
  if (level.carrier?.kind !== 'level') return level
  const levelId = nameOf(level.carrier.levelId)
  return levelId === undefined ? null : levelId === level.carrier.levelId ? level : { ...level, carrier: { ...level.carrier, levelId } }
}

/** How levels stand at the frame that is seen, and the camera that sees them. Edits that keep the picture are given it. */
export interface SeenLevels {
  readonly camera: CameraPose
  /** In the set. */
  standOf(levelId: string): Stand
  /** Its own numbers, in the axes of what carries it: stepped and swaying, as it is seen. */
  valuesOf(levelId: string): LevelValues
  /** What bob and drift add of that to its place. */
  swayOf(levelId: string): Point3
}

/** The axes that a level's numbers are in, or would be with another carrier. */
export function carriageIn(take: Levels, level: Level, { camera, standOf }: SeenLevels, carrier = carrierOf(take, level)): Carriage {
  if (carrier === null) return SET
  return carrier.kind === 'camera' ? carriageOfCamera(camera) : carriageOn(standOf(carrier.levelId), carrier, ((of) => (of === null ? SET : standOf(of.setLevelId)))(pieceOf(level.id)))
}
