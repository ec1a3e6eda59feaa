import { drawingBounds } from '@rubato/core/ink'
import { lensOf, NEAREST_Z, project, unproject, type CameraPose, type Lens, type Optics, type Projected } from '@rubato/core/camera'
import type { Drawing } from '@rubato/core/document'
import { cornersOf } from '@rubato/core/geometry'
import { seenAt, type PlacedLevel } from '@rubato/core/stage'

/** The outline of what a framing sees at the picture plane, as another lens sees it; null where it is behind. */
export function frameCornersInView(framing: CameraPose, lens: Lens, optics: Optics): readonly Projected[] | null {
  const other = lensOf(framing, optics)
  const z = Math.max(0.1, -framing.depth)
  const corners = [
    [-0.5, -other.halfHeight],
    [0.5, -other.halfHeight],
    [0.5, other.halfHeight],
    [-0.5, other.halfHeight],
  ].map(([u, v]) => project(lens, unproject(other, u!, v!, z)))
  return corners.every((corner) => corner.z >= NEAREST_Z) ? corners : null
}

/** The corners of what is drawn on a level, as the lens sees them; null for an empty drawing. */
export function levelOutline(placed: PlacedLevel, drawing: Drawing, lens: Lens): readonly Projected[] | null {
  const bounds = drawingBounds(drawing)
  return bounds === null ? null : cornersOf(bounds).map((corner) => seenAt(lens, placed, corner))
}
