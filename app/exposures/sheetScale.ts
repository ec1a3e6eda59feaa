/** The sheet's geometry: frames down, columns across. CSS px. */
export const HEAD_PX = 34
export const ROW_PX = 20
export const COLUMN_PX = 92
export const FRAMES_PX = 56
export const CAMERAS_PX = 60
export const SOUND_PX = 84
const SAID_PX = 150

export interface SheetScale {
  readonly widthPx: number
  readonly heightPx: number
  /** What is scrolled out at the top and at the left of the levels. */
  readonly scrollTop: number
  readonly scrollLeft: number
  readonly frames: number
  readonly columns: number
}

export const LEFT_PX = FRAMES_PX + CAMERAS_PX
const RIGHT_PX = SOUND_PX + SAID_PX
export const contentHeight = (frames: number) => HEAD_PX + frames * ROW_PX
export const contentWidth = (columns: number) => LEFT_PX + columns * COLUMN_PX + RIGHT_PX

/** Where the levels' columns end in the view; what stands right of them follows, or is pushed to the view's edge. */
export function levelsRight({ widthPx, columns, scrollLeft }: SheetScale): number {
  return Math.max(LEFT_PX + COLUMN_PX, Math.min(widthPx - RIGHT_PX, LEFT_PX + columns * COLUMN_PX - scrollLeft))
}

export const yOfFrame = ({ scrollTop }: SheetScale, frame: number) => HEAD_PX + frame * ROW_PX - scrollTop
export const frameOfY = ({ scrollTop, frames }: SheetScale, y: number) => Math.max(0, Math.min(frames - 1, Math.floor((y - HEAD_PX + scrollTop) / ROW_PX)))
export const xOfColumn = ({ scrollLeft }: SheetScale, column: number) => LEFT_PX + column * COLUMN_PX - scrollLeft

/** The first and the last row that is seen, at least in part. */
export function rowsSeen(scale: SheetScale): { readonly first: number; readonly last: number } {
  return { first: frameOfY(scale, HEAD_PX), last: frameOfY(scale, scale.heightPx - 1) }
}
export function columnsSeen(scale: SheetScale): { readonly first: number; readonly last: number } {
  return { first: Math.max(0, Math.floor(scale.scrollLeft / COLUMN_PX)), last: Math.min(scale.columns - 1, Math.floor((levelsRight(scale) - LEFT_PX - 1 + scale.scrollLeft) / COLUMN_PX)) }
}

export type SheetHit = { readonly kind: 'head'; readonly column: number } | { readonly kind: 'frame'; readonly frame: number } | { readonly kind: 'cell'; readonly column: number; readonly frame: number } | { readonly kind: 'end' }

/** What is under a point. `endAt`: where the run in hand is taken by its end. */
export function hitSheet(scale: SheetScale, x: number, y: number, endAt: { readonly x: number; readonly y: number } | null): SheetHit | null {
  if (endAt !== null && Math.hypot(x - endAt.x, y - endAt.y) <= 8) return { kind: 'end' }
  const column = Math.floor((x - LEFT_PX + scale.scrollLeft) / COLUMN_PX)
  const onLevel = x >= LEFT_PX && x < levelsRight(scale) && column < scale.columns
  if (y < HEAD_PX) return onLevel ? { kind: 'head', column } : null
  if (y - HEAD_PX + scale.scrollTop >= scale.frames * ROW_PX) return null
  const frame = frameOfY(scale, y)
  return onLevel ? { kind: 'cell', column, frame } : { kind: 'frame', frame }
}

/** How far to scroll so that a frame of a column is seen whole. */
export function scrolledTo(scale: SheetScale, column: number, frame: number): { readonly top: number; readonly left: number } {
  const top = Math.min(frame * ROW_PX, Math.max(scale.scrollTop, HEAD_PX + (frame + 1) * ROW_PX - scale.heightPx))
  const room = levelsRight(scale) - LEFT_PX
  return { top, left: Math.min(column * COLUMN_PX, Math.max(scale.scrollLeft, (column + 1) * COLUMN_PX - room)) }
}
