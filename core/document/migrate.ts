import { z } from 'zod'
import { orderOfNumber } from './order'
import { asOneKind } from './records'
import { breakdownSchema, drawingSchema, FORMAT_VERSION, freeze, outlineSchema, setBodySchema, takeBodySchema, tryBodySchema, type Breakdown, type Drawing, type SetBody, type TakeBody, type TryBody } from './units'

/** One step of the format: from version `from` to `from + 1`, on plain JSON. */
interface FormatMigration {
  readonly from: number
  readonly take: (body: unknown) => unknown
  readonly drawing: (drawing: unknown) => unknown
}

const same = (value: unknown) => value

/** In order. */
const MIGRATIONS: readonly FormatMigration[] = [
  // Since version 2 a cell may say that its level shows nothing; what version 1 says is said the same way.
  { from: 1, take: same, drawing: same },
  // Since version 3 a drawing's marks are a list in order, and levels may be figures.
  { from: 2, take: figuresFound, drawing: marksListed },
  // Since version 4 lengths may have targets; what version 3 says is said the same way.
  { from: 3, take: same, drawing: same },
  // Since version 5 the outline has sound and transitions; bodies are as they were.
  { from: 4, take: same, drawing: same },
  // Since version 6 a take keeps framings on number keys and a plan's underlay, and moves may settle.
  { from: 5, take: same, drawing: same },
  // Since version 7 order is a key, between two of which there is always another.
  { from: 6, take: (body) => withOrderKeys(body), drawing: (drawing) => withOrderKeys(drawing) },
  // Since version 8 only references say where they lie and which picture is first.
  { from: 7, take: oneKindEach, drawing: same },
  // Since version 9 levels move; what version 8 says is said the same way.
  { from: 8, take: same, drawing: same },
  // Since version 10 levels are carried and turn to the camera, and cells begin inside a panel; what version 9 says is said the same way.
  { from: 9, take: same, drawing: same },
  // Since version 11 cameras have spans; what version 10 says is said the same way.
  { from: 10, take: same, drawing: same },
  // Since version 12 takes may have names, and tries of working a camera by hand; what version 11 says is said the same way.
  { from: 11, take: same, drawing: same },
  // Since version 13 levels repeat; what version 12 says is said the same way.
  { from: 12, take: same, drawing: same },
  // Since version 14 levels may stand in for something; what version 13 says is said the same way.
  { from: 13, take: same, drawing: same },
  // Since version 15 sets stand in shots; what version 14 says is said the same way.
  { from: 14, take: same, drawing: same },
  // Since version 16 shots have haze and soft focus, and levels shadows; what version 15 says is said the same way.
  { from: 15, take: same, drawing: same },
  // Since version 17 levels may have paper laid out; what version 16 says is said the same way.
  { from: 16, take: same, drawing: same },
  // Since version 18 sets may have references, and films a breakdown; what version 17 says is said the same way.
  { from: 17, take: same, drawing: same },
  // Since version 19 shots may be in the tray; bodies are as they were.
  { from: 18, take: same, drawing: same },
  // Since version 20 fills may be words and arrows, and for print alone; what version 19 says is said the same way.
  { from: 19, take: same, drawing: same },
  // Since version 21 shots may say that a cut showed another once more in them; bodies are as they were.
  { from: 20, take: same, drawing: same },
]

type Plain = Record<string, unknown>
const isPlain = (value: unknown): value is Plain => typeof value === 'object' && value !== null && !Array.isArray(value)

/** A level that was drawn anew in some panel acts. */
function figuresFound(body: unknown): unknown {
  if (!isPlain(body) || !isPlain(body.levels) || !isPlain(body.cells)) return body
  const drawn = new Map<unknown, number>()
  for (const cell of Object.values(body.cells)) if (isPlain(cell)) drawn.set(cell.levelId, (drawn.get(cell.levelId) ?? 0) + 1)
  const levels = Object.fromEntries(
    Object.entries(body.levels).map(([id, level]) => [id, isPlain(level) && level.kind === 'drawn' && (drawn.get(id) ?? 0) > 1 ? { ...level, figure: true } : level]),
  )
  return { ...body, levels }
}

function marksListed(drawing: unknown): unknown {
  if (!isPlain(drawing) || !isPlain(drawing.marks)) return drawing
  const marks = Object.values(drawing.marks) as { readonly id: string; readonly order: number }[]
  return { ...drawing, marks: marks.sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1)) }
}

function oneKindEach(body: unknown): unknown {
  if (!isPlain(body) || !isPlain(body.levels)) return body
  return { ...body, levels: Object.fromEntries(Object.entries(body.levels).map(([id, level]) => [id, isPlain(level) ? asOneKind(level) : level])) }
}

/** Any JSON that was kept before version 7, with every `order` that is a number as its key. What has keys stays as it is. */
function withOrderKeys(value: unknown): unknown {
  if (Array.isArray(value)) return typeof value[0] === 'object' ? value.map(withOrderKeys) : value
  if (!isPlain(value)) return value
  return Object.fromEntries(Object.entries(value).map(([name, each]) => [name, name === 'order' && typeof each === 'number' ? orderOfNumber(each) : withOrderKeys(each)]))
}

/** A change that a browser kept while it was of an earlier version. */
export function keptSince(value: unknown): unknown {
  const bring = (each: unknown): unknown => {
    if (Array.isArray(each)) return typeof each[0] === 'object' ? each.map(bring) : each
    if (!isPlain(each)) return each
    const level = each.kind === 'drawn' || each.kind === 'placed' ? asOneKind(each) : each
    return Object.fromEntries(Object.entries(level).map(([name, inner]) => [name, bring(inner)]))
  }
  return bring(withOrderKeys(value))
}

/** An outline of any version, as it lies in versions of a film and in archives. It says of itself how its order is kept. */
export const storedOutlineSchema = z.preprocess(withOrderKeys, outlineSchema)

export type Opened<T> =
  | { readonly ok: true; readonly value: T }
  | {
      readonly ok: false
      readonly code: 'format-too-new' | 'format-unknown' | 'malformed'
      readonly version: number
      readonly issues: readonly { readonly path: string; readonly message: string }[]
    }

/** Reads a kept take body of any version up to the present one. */
export function openTakeBody(stored: unknown, version: number): Opened<TakeBody> {
  return open(stored, version, takeBodySchema as unknown as z.ZodType<TakeBody>, 'take')
}

/** Reads a kept drawing of any version up to the present one. */
export function openDrawing(stored: unknown, version: number): Opened<Drawing> {
  return open(stored, version, drawingSchema as unknown as z.ZodType<Drawing>, 'drawing')
}

/** Reads the kept samples of a try; there are none from before version 12. */
export function openTry(stored: unknown, version: number): Opened<TryBody> {
  return open(stored, version, tryBodySchema as unknown as z.ZodType<TryBody>, null)
}

/** Reads a kept breakdown; there are none from before version 18. */
export function openBreakdown(stored: unknown, version: number): Opened<Breakdown> {
  return open(stored, version, breakdownSchema as unknown as z.ZodType<Breakdown>, null)
}

/** Reads a kept set; there are none from before version 15. */
export function openSet(stored: unknown, version: number): Opened<SetBody> {
  return open(stored, version, setBodySchema as unknown as z.ZodType<SetBody>, null)
}

function open<T extends object>(stored: unknown, version: number, schema: z.ZodType<T>, kind: 'take' | 'drawing' | null): Opened<T> {
  if (!Number.isInteger(version) || version < 1) return { ok: false, code: 'format-unknown', version, issues: [] }
  if (version > FORMAT_VERSION) return { ok: false, code: 'format-too-new', version, issues: [] }
  let value = stored
  for (const step of MIGRATIONS) if (kind !== null && step.from >= version) value = step[kind](value)
  const parsed = schema.safeParse(value)
  if (parsed.success) return { ok: true, value: freeze(parsed.data) }
  return {
    ok: false,
    code: 'malformed',
    version,
    issues: parsed.error.issues.slice(0, 20).map((issue) => ({ path: issue.path.join('.'), message: issue.message })),
  }
}
