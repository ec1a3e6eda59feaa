export interface StripRow {
  readonly top: number
  readonly height: number
}

/** The rows from top to bottom, px. */
export const STRIP_ROWS = Object.freeze({
  ruler: { top: 0, height: 36 },
  shots: { top: 36, height: 24 },
  panels: { top: 60, height: 62 },
  camera: { top: 122, height: 46 },
  work: { top: 168, height: 30 },
  level: { top: 198, height: 30 },
}) satisfies Record<string, StripRow>

/** Of the picture's rows; lanes of sound follow below. */
export const STRIP_HEIGHT_PX = 228

/** Between lanes that are there and the strip's end: where a new one is made. */
export const LANES_END_PX = 26

/** The height of all rows with so many px of lanes. */
export const heightWithLanes = (lanesPx: number) => STRIP_HEIGHT_PX + lanesPx + LANES_END_PX

/** Within the ruler: its figures, its marks, and the band of finished frames. */
export const RULER = Object.freeze({ figuresPx: 18, marksPx: 14, bandPx: 3 })

export function rowAt(y: number): keyof typeof STRIP_ROWS | null {
  for (const [name, row] of Object.entries(STRIP_ROWS)) {
    if (y >= row.top && y < row.top + row.height) return name as keyof typeof STRIP_ROWS
  }
  return null
}
