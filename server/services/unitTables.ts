import type { BodyKind } from '@rubato/core/document'

/** Where the units of a kind are kept. Everything on the server that goes by kind reads it here; a new kind is an entry, and its table. */
export interface UnitTable {
  /** The table, with `project_id`, `id`, `revision` and `format`. */
  readonly table: string
  /** The column that has the unit, as JSON. */
  readonly content: string
  /** What it is called in answers. */
  readonly answer: string
  /** Rows are made with the outline, which says that they are there, and are told of as gone. Otherwise the first edit makes them. */
  readonly byOutline: boolean
}

export const UNIT_TABLES: Readonly<Record<BodyKind, UnitTable>> = {
  take: { table: 'takes', content: 'body', answer: 'body', byOutline: true },
  drawing: { table: 'drawings', content: 'content', answer: 'drawing', byOutline: false },
  set: { table: 'sets', content: 'content', answer: 'body', byOutline: false },
  try: { table: 'tries', content: 'content', answer: 'tried', byOutline: false },
  breakdown: { table: 'breakdowns', content: 'content', answer: 'body', byOutline: false },
}

export const unitTables = () => Object.entries(UNIT_TABLES) as (readonly [BodyKind, UnitTable])[]

/** The rows of what the film has. */
export const liveRows = ({ byOutline }: UnitTable, alias = '') => (byOutline ? `${alias}removed_at IS NULL` : 'true')
