import { pieceOf } from '../document/sets'
import type { LevelOwner, TakeBody } from '../document/units'
import type { Rectangle } from '../geometry/rectangle'
import { squareImage } from '../stage/squareImage'
import type { PlacedLevel, StageFrame } from '../stage/takeStage'
import type { PxRectangle, WayBack } from './wayBack'

/** A level's art as a layer of a picture of the frame. */
export interface LaidLayer {
  readonly way: WayBack
  readonly pxPerFw: number
  /** All of the art, on whole px of the frame's picture, within it or not. */
  readonly at: PxRectangle
}
/** Of a layer's side; more is no picture that one paints on. */
export const MOST_LAYER_SIDE_PX = 12_000
const UNTURNED = 1e-6

/** Whose level of an unfolded take it is, and what that calls it; null where its set is not there. */
export function ownerOfLevel(take: TakeBody, takeId: string, levelId: string): { readonly owner: LevelOwner; readonly levelId: string } | null {
  const piece = pieceOf(levelId)
  if (piece === null) return { owner: { kind: 'take', id: takeId }, levelId }
  const set = take.levels[piece.setLevelId]
  return set?.kind === 'set' ? { owner: { kind: 'set', id: set.setId }, levelId: piece.pieceId } : null
}

/**
 * Where a level's art lies in a picture of the frame, `widthPx` wide, upright and at its own proportions; null where it is turned or mirrored
 * there, so that a layer of it could only be a picture of what is seen, and where it would be too large.
 */
export function laidInFrame({ lens }: Pick<StageFrame, 'lens'>, placed: PlacedLevel, of: Pick<WayBack, 'owner' | 'levelId' | 'drawingId' | 'opacity'>, bounds: Rectangle, widthPx: number, heightPx: number): LaidLayer | null {
  if (!placed.square) return null
  const { u0, v0, xu, xv, yu, yv } = squareImage(lens, placed)
  if (xu <= 0 || Math.abs(xv) > UNTURNED * xu || Math.abs(yu) > UNTURNED * xu || Math.abs(yv - xu) > UNTURNED * xu) return null
  const [left, top, width] = [(-0.5 - u0) / xu, (lens.halfHeight - v0) / xu, 1 / xu]
  const pxPerFw = widthPx * xu
  const x = Math.floor((bounds.left - left) * pxPerFw + 1e-6)
  const y = Math.floor((top - bounds.top) * pxPerFw + 1e-6)
  const at = { x, y, width: Math.max(1, Math.ceil((bounds.right - left) * pxPerFw - 1e-6) - x), height: Math.max(1, Math.ceil((top - bounds.bottom) * pxPerFw - 1e-6) - y) }
  if (Math.max(at.width, at.height) > MOST_LAYER_SIDE_PX) return null
  return { way: { ...of, left, top, width, widthPx, heightPx }, pxPerFw, at }
}
