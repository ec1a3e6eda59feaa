import { FORMAT_VERSION, type BodyKind } from '@rubato/core/document'
import { setResponseHeader, type H3Event } from 'h3'
import { Readable } from 'node:stream'
import { breathe } from './breathe'
import { opened } from './opened'
import { UNIT_TABLES } from './unitTables'

/** A take or drawing as it is stored; `content` is JSON. */
export interface StoredUnit {
  readonly id: string
  readonly revision: number
  readonly format: number
  readonly content: string
}

/**
 * Answers with units as `[{"id", "revision", NAME: content}]`. What is of this format is handed on as the database has it:
 * opening hundreds of drawings to make the same text of them again would hold everyone up.
 */
export async function answerUnits(event: H3Event, kind: BodyKind, units: readonly StoredUnit[]): Promise<Readable> {
  const name = UNIT_TABLES[kind].answer
  const pieces: string[] = []
  for (const { id, revision, format, content } of units) {
    const text = format === FORMAT_VERSION ? content : JSON.stringify(opened(kind, id, JSON.parse(content), format))
    pieces.push(`${pieces.length === 0 ? '[' : ','}{"id":${JSON.stringify(id)},"revision":${revision},"${name}":${text}}`)
    await breathe()
  }
  setResponseHeader(event, 'Content-Type', 'application/json')
  return Readable.from(pieces.length === 0 ? ['[]'] : [...pieces, ']'], { objectMode: false })
}
