import { bodyKinds, UNIT_KINDS, type BodyKind } from '@rubato/core/document'

/** A unit out of a film's file, whole and of the present format, as the text that is kept. */
export interface FoundUnit {
  readonly kind: BodyKind
  readonly text: string
  readonly lengthFrames: number
  /** The drawings that it shows. */
  readonly drawings: readonly string[]
  /** The pictures that are in it. */
  readonly pictures: readonly string[]
}

/** Reads one; what is wrong with it, as text, where it can't be taken. `any`: whichever it is, as versions keep it. */
export function readUnit(json: string, wanted: BodyKind | 'any', format: number): FoundUnit | string {
  let value: unknown
  try {
    value = JSON.parse(json)
  } catch (error) {
    return `can't be read (${(error as Error).message.slice(0, 200)}).`
  }
  if (wanted !== 'any') return unitOf(wanted, value, format)
  const body = value as { format?: unknown; content?: unknown } | null
  const of = typeof body?.format === 'number' ? body.format : format
  for (const kind of bodyKinds()) {
    const found = unitOf(kind, body?.content, of)
    if (typeof found !== 'string') return found
  }
  return `is none of: ${bodyKinds().join(', ')}.`
}

function unitOf(kind: BodyKind, value: unknown, format: number): FoundUnit | string {
  const entry = UNIT_KINDS[kind]
  const opened = entry.open!(value, format)
  if (!opened.ok) return `${opened.issues[0]?.message ?? 'it is of a newer format'}.`
  const unit = opened.value
  const [problem] = entry.problems(unit)
  if (problem !== undefined) return `${problem.path.join('.')}: ${problem.code}.`
  return { kind, text: JSON.stringify(unit), lengthFrames: entry.lengthFrames?.(unit) ?? 0, drawings: entry.drawings?.(unit) ?? [], pictures: entry.pictures?.(unit) ?? [] }
}
