import { meetPlane, project } from '../camera/projection'
import { pointOnPlane } from '../depth/levelPlane'
import type { Point2 } from '../geometry/point'
import type { PlacedLevel, StageFrame } from './takeStage'

/** A level where it lies under a point of the picture. */
export interface LevelThere {
  readonly placed: PlacedLevel
  /** The point, in the art's own fw. */
  readonly art: Point2
}

/** Nearer than this the rack says what lies before, fw. */
const ALIKE = 1e-7

/** The planes of all levels under (u, v) of the picture, nearest first: of two that cut each other, the one that is seen there. */
export function levelsAlong({ lens, levels }: Pick<StageFrame, 'lens' | 'levels'>, u: number, v: number): readonly LevelThere[] {
  const met = levels.flatMap((placed) => {
    const art = meetPlane(lens, u, v, placed.plane)
    return art === null ? [] : [{ placed, art, z: project(lens, pointOnPlane(placed.plane, art)).z }]
  })
  return met.sort((a, b) => b.placed.layer - a.placed.layer || (Math.abs(a.z - b.z) < ALIKE ? a.placed.rackIndex - b.placed.rackIndex : a.z - b.z))
}
