export interface StripRow {
  readonly top: number
  readonly height: number
}

const HEIGHTS = Object.freeze({ ruler: 36, shots: 24, panels: 62, cuts: 38, camera: 46, work: 30, level: 30 })
export type StripRowName = keyof typeof HEIGHTS
export type StripRows = Readonly<Record<StripRowName, StripRow>>

function rowsFrom(heights: Readonly<Record<StripRowName, number>>): StripRows {
  let top = 0
  return Object.freeze(Object.fromEntries(Object.entries(heights).map(([name, height]) => {
    const row = Object.freeze({ top, height })
    top += height
    return [name, row]
  }))) as StripRows
}
const WITHOUT_CUTS = rowsFrom({ ...HEIGHTS, cuts: 0 })
const WITH_CUTS = rowsFrom(HEIGHTS)

/** The rows from top to bottom, px. Where no shot in view has a second camera, there is no row of camera cuts. */
export const stripRows = (withCuts: boolean): StripRows => (withCuts ? WITH_CUTS : WITHOUT_CUTS)

/** Rows that stand where they stand whatever else there is. */
export const STRIP_ROWS: Pick<StripRows, 'ruler' | 'shots' | 'panels'> = WITHOUT_CUTS

/** Of the picture's rows; lanes of sound follow below. */
export const rowsEnd = (rows: StripRows) => rows.level.top + rows.level.height

/** Between lanes that are there and the strip's end: where a new one is made. */
export const LANES_END_PX = 26

/** The height of all rows with so many px of lanes. */
export const heightWithLanes = (rows: StripRows, lanesPx: number) => rowsEnd(rows) + lanesPx + LANES_END_PX

/** Within the ruler: its figures, its marks, and the band of finished frames. */
export const RULER = Object.freeze({ figuresPx: 18, marksPx: 14, bandPx: 3 })

export function rowAt(rows: StripRows, y: number): StripRowName | null {
  for (const [name, row] of Object.entries(rows)) {
    if (y >= row.top && y < row.top + row.height) return name as StripRowName
  }
  return null
}
