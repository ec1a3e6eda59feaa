import { levelPlane, type LevelPlane } from '../depth/levelPlane'
import { exposureAt, exposuresOf } from '../document/exposures'
import { rackLevels } from '../document/panels'
import type { Level } from '../document/records'
import type { TakeBody } from '../document/units'

/**
 * A level as it stands at one frame, whoever looks at it. What the record says of place, size, turn, opacity and tint is
 * where the level begins, not what is seen.
 */
export interface StandingLevel {
  readonly level: Level
  /** What it shows; null where it has no drawing yet. */
  readonly drawingId: string | null
  readonly plane: LevelPlane
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
 * the shot's ends, where a sequence goes on. A level that has not changed since the last frame is the same object.
 */
export function createStanding(take: TakeBody): (frame: number, asked: number) => readonly StandingLevel[] {
  const visible = rackLevels(take).flatMap((level, rackIndex) => (level.visible ? [{ level, rackIndex, exposures: exposuresOf(take, level.id) }] : []))
  const now: StandingLevel[] = visible.map(({ level, rackIndex }) => ({
    level,
    drawingId: null,
    plane: levelPlane(level),
    size: level.scale,
    opacity: level.opacity,
    tint: level.tint ?? null,
    rackIndex,
    layer: layerOf(level),
    pictureIndex: null,
  }))
  return (frame, asked) => {
    for (let i = 0; i < visible.length; i++) {
      const { level, exposures } = visible[i]!
      // In a transition a sequence goes on past the shot's ends.
      const pictureIndex = sequenceIndex(level, asked)
      // Before its first picture a sequence shows nothing.
      const drawingId = pictureIndex !== null && pictureIndex < 0 ? null : (exposureAt(exposures, frame)?.cell.drawingId ?? null)
      const last = now[i]!
      if (last.drawingId === drawingId && last.pictureIndex === pictureIndex) continue
      const { plane, size, opacity, tint, rackIndex, layer } = last
      now[i] = { level, drawingId, plane, size, opacity, tint, rackIndex, layer, pictureIndex }
    }
    return now
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
