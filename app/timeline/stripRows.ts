export interface StripRow {
  readonly top: number
  readonly height: number
}

/** The rows from top to bottom, px. */
export const STRIP_ROWS = Object.freeze({
  ruler: { top: 0, height: 20 },
  shots: { top: 20, height: 24 },
  panels: { top: 44, height: 62 },
  camera: { top: 106, height: 46 },
  level: { top: 152, height: 20 },
}) satisfies Record<string, StripRow>

export const STRIP_HEIGHT_PX = 172

export function rowAt(y: number): keyof typeof STRIP_ROWS | null {
  for (const [name, row] of Object.entries(STRIP_ROWS)) {
    if (y >= row.top && y < row.top + row.height) return name as keyof typeof STRIP_ROWS
  }
  return null
}
