import type { Drawing } from '@rubato/core/document'
import { cornersOf } from '@rubato/core/geometry'
import { drawingBounds } from '@rubato/core/ink'
import { seenAt, type TakeStage } from '@rubato/core/stage'

type DrawingOf = (id: string) => Drawing | null

/** Whether what a level shows at a frame lies wholly beside the picture of the live camera. */
function isOut(stage: TakeStage, levelId: string, frame: number, drawingOf: DrawingOf): boolean {
  const { lens, levels } = stage.at(frame)
  const placed = levels.find(({ level }) => level.id === levelId)
  const drawing = placed === undefined || placed.drawingId === null ? null : drawingOf(placed.drawingId)
  const bounds = drawing === null ? null : drawingBounds(drawing)
  if (placed === undefined || bounds === null) return false
  const corners = cornersOf(bounds).map((corner) => seenAt(lens, placed, corner))
  const beside = (out: (at: (typeof corners)[number]) => boolean) => corners.every((at) => at.z > 0 && out(at))
  return beside(({ u }) => u > 0.5) || beside(({ u }) => u < -0.5) || beside(({ v }) => v > lens.halfHeight) || beside(({ v }) => v < -lens.halfHeight)
}

/** A level that is seen when it sets off and not any more when it arrives goes out. */
export const leavesFrame = (stage: TakeStage, levelId: string, fromFrame: number, toFrame: number, drawingOf: DrawingOf): boolean => !isOut(stage, levelId, fromFrame, drawingOf) && isOut(stage, levelId, toFrame, drawingOf)
