import { UNIT_KINDS, type BodyKind, type Drawing, type TakeBody, type Unit } from '@rubato/core/document'
import { refuse } from './refusals'

/** A take or drawing out of the database, made of this format. */
export function opened(kind: 'take', id: string, content: unknown, format: number): TakeBody
export function opened(kind: 'drawing', id: string, content: unknown, format: number): Drawing
export function opened(kind: BodyKind, id: string, content: unknown, format: number): Unit
export function opened(kind: BodyKind, id: string, content: unknown, format: number): Unit {
  const result = UNIT_KINDS[kind].open!(content, format)
  if (result.ok) return result.value
  throw refuse(500, result.code, `The ${kind} ${id} can't be read: ${result.issues[0]?.message ?? `format ${result.version}`}.`)
}
