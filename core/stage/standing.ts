import { basisOf } from '../camera/projection'
import { planeAbout, type LevelPlane } from '../depth/levelPlane'
import { exposureAt, exposuresOf } from '../document/exposures'
import { rackLevels } from '../document/panels'
import type { Level } from '../document/records'
import type { TakeBody } from '../document/units'
import { scale, type Point3 } from '../geometry/point'
import { LEVEL_VALUES, type LevelTurn, type LevelValues } from '../moves/levelValues'
import type { LevelMotion, TriedLevels } from './levelMotion'

/**
 * A level as it stands at one frame, whoever looks at it. What the record says of place, size, turn, opacity and tint is
 * where the level begins, not what is seen.
 */
export interface StandingLevel {
  readonly level: Level
  /** What it shows; null where it has no drawing yet. */
  readonly drawingId: string | null
  readonly plane: LevelPlane
  /** Where its pivot stands. */
  readonly place: Point3
  /** Its art is so many times its own size. */
  readonly size: number
  /** 0…1. */
  readonly opacity: number
  /** Null, or of strength 0: none. */
  readonly tint: NonNullable<Level['tint']> | null
  readonly rackIndex: number
  /** Reference levels lie under (−1) or over (1) all others; else 0. */
  readonly layer: -1 | 0 | 1
  /** Which of its drawing's pictures a reference sequence shows, from 0; null where the whole drawing is shown. */
  readonly pictureIndex: number | null
}

/**
 * The levels of a take that hang on no camera. `at` gives those that are visible at a frame of the shot; `asked` may lie past
 * the shot's ends, where a sequence and what sways go on. A level that has not changed since the last frame is the same
 * object. Levels of `tried` stand as it says instead.
 */
export function createStanding(take: TakeBody, motionOf: (levelId: string) => LevelMotion): (frame: number, asked: number, tried?: TriedLevels | null) => readonly StandingLevel[] {
  const visible = rackLevels(take).flatMap((level, rackIndex) => {
    if (!level.visible) return []
    const motion = motionOf(level.id)
    return [{ level, rackIndex, exposures: exposuresOf(take, level.id), motion, lies: lieOf(level) }]
  })
  const now: StandingLevel[] = visible.map(({ level, rackIndex, motion, lies }) => ({ ...lies(motion.seenAt(0), null), level, drawingId: null, tint: level.tint ?? null, rackIndex, layer: layerOf(level), pictureIndex: null }))
  return (frame, asked, tried = null) => {
    const standing = tried === null ? now : [...now]
    for (let i = 0; i < visible.length; i++) {
      const { level, exposures, motion, lies } = visible[i]!
      // In a transition a sequence goes on past the shot's ends.
      const pictureIndex = sequenceIndex(level, asked)
      // Before its first picture a sequence shows nothing.
      const drawingId = pictureIndex !== null && pictureIndex < 0 ? null : (exposureAt(exposures, frame)?.cell.drawingId ?? null)
      const last = now[i]!
      const values = tried?.get(level.id)
      const lie = motion.isStill && values === undefined ? last : lies(motion.seenAt(frame, asked, values), last)
      if (last.drawingId === drawingId && last.pictureIndex === pictureIndex && lie === last) continue
      const { plane, place, size, opacity } = lie
      const { tint, rackIndex, layer } = last
      standing[i] = { level, drawingId, plane, place, size, opacity, tint, rackIndex, layer, pictureIndex }
    }
    return standing
  }
}

type Lie = Pick<StandingLevel, 'plane' | 'place' | 'size' | 'opacity'>

/** Where a level lies with its values. What stays as it was is not worked out again; nothing new, and it is the last itself. */
function lieOf({ pivot }: Level): (values: LevelValues, last: Lie | null) => Lie {
  let turned: LevelTurn | null = null
  let basis = { right: { x: 1, y: 0, depth: 0 }, up: { x: 0, y: 1, depth: 0 } }
  return ({ place, turn, size, opacity }, last) => {
    const isTurned = turned === null || !LEVEL_VALUES.turn.equal(turned, turn)
    if (isTurned) {
      turned = turn
      basis = basisOf(turn)
    }
    const isSame = last !== null && !isTurned && last.size === size
    if (isSame && last.opacity === opacity && LEVEL_VALUES.place.equal(last.place, place)) return last
    const [axisX, axisY] = isSame ? [last.plane.axisX, last.plane.axisY] : [scale(basis.right, size), scale(basis.up, size)]
    return { plane: planeAbout(place, axisX, axisY, pivot), place, size, opacity }
  }
}

function layerOf(level: Level): -1 | 0 | 1 {
  if (level.kind !== 'reference') return 0
  return level.over === true ? 1 : -1
}

/** The picture of a reference sequence that is due at a frame: below 0 before its start, past the last after its end. */
function sequenceIndex(level: Level, frame: number): number | null {
  const sequence = level.kind === 'reference' ? (level.sequence ?? null) : null
  return sequence === null ? null : Math.floor((frame - sequence.startFrame) / sequence.framesEach)
}
