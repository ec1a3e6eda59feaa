import { FORMAT_VERSION, UNIT_KINDS, type BodyKind, type Unit, type UnitRef } from '@rubato/core/document'
import type { Change } from '@rubato/core/edits'
import { QueryTypes, type Transaction } from 'sequelize'
import { unitKey } from '#shared/edits'
import { useDatabase } from '../models/database'
import { editsText, unitText } from './largeEdits'
import { NOTICE_CHANNEL, type Notice } from './notices'
import { UNIT_TABLES, unitTables } from './unitTables'

/** A unit that a batch touches, as far as the batch has come. */
export interface HeldUnit {
  readonly ref: UnitRef
  unit: Unit
  revision: number
  /** A take that the film no longer has; it is kept for undo. */
  readonly gone?: boolean
}

export interface Entry {
  readonly change: Change
  readonly touched: Readonly<Record<string, number>>
}

/**
 * All rows in one statement: the units, the journal, the project's time, and the notice to other servers. Where no lock
 * is held, `guard` says what the rows must still be; if one is not, the whole statement fails with a division by zero.
 * Everything hangs on the project's row, which is updated first, so that places in the journal come in the order in
 * which they can be read.
 */
export async function writeUnits(projectId: string, held: ReadonlyMap<string, HeldUnit>, entries: readonly Entry[], author: string, transaction: Transaction | null, guard: { readonly before: ReadonlyMap<string, number>; readonly seen: ReadonlyMap<string, number>; readonly createdAt: Date } | null = null): Promise<number> {
  const { sequelize } = await useDatabase()
  const bind: unknown[] = [projectId, FORMAT_VERSION, author, NOTICE_CHANNEL, JSON.stringify({ project: projectId, of: 'changes' } satisfies Notice)]
  const put = (value: unknown) => `$${bind.push(value)}`
  const putJson = (text: string | Buffer) => (typeof text === 'string' ? `${put(text)}::jsonb` : `convert_from(${put(text)}::bytea, 'UTF8')::jsonb`)
  const parts: string[] = []
  const counts: string[] = []
  const texts = new Map<HeldUnit, string | Buffer>()
  for (const unit of held.values()) if (unit.ref.kind !== 'outline') texts.set(unit, await unitText(unit.unit))
  // What is large goes as it is: put into a list, each letter of it would be looked at once more.
  const singles = [...texts].filter(([, text]) => guard !== null || typeof text !== 'string')
  const many = guard === null ? inBulk(new Map([...texts].flatMap(([unit, text]) => (typeof text === 'string' ? [[unit, text] as const] : [])))) : []
  for (const { columns, statement } of many) {
    const name = `u${parts.length}`
    parts.push(`${name} AS (${statement(columns.map(put))})`)
    counts.push(`(CASE WHEN (SELECT count(*) FROM ${name}) = cardinality($${bind.length}::text[]) THEN 1 ELSE 0 END)`)
  }
  for (const [{ ref, unit, revision }, text] of singles) {
    const name = `u${parts.length}`
    const old = guard?.before.get(unitKey(ref))
    const unchanged = (table: string) => (old === undefined ? '' : ` AND ${table}.revision = ${put(old)}`)
    const { table, content, byOutline } = UNIT_TABLES[ref.kind as BodyKind]
    if (byOutline) {
      parts.push(`${name} AS (UPDATE ${table} t SET ${content} = ${putJson(text)}, format = $2, revision = ${put(revision)}, length_frames = ${put(lengthOf(ref.kind, unit))} FROM p WHERE t.project_id = p.id AND t.id = ${put(ref.id)}${unchanged('t')} AND t.removed_at IS NULL RETURNING 1)`)
    } else {
      // One that was not there when it was read must not be there now.
      const conflict = old === 0 ? '' : `ON CONFLICT (project_id, id) DO UPDATE SET ${content} = excluded.${content}, format = excluded.format, revision = excluded.revision WHERE true${unchanged(table)}`
      parts.push(`${name} AS (INSERT INTO ${table} (project_id, id, ${content}, format, revision) SELECT p.id, ${put(ref.id)}, ${putJson(text)}, $2, ${put(revision)} FROM p ${conflict} RETURNING 1)`)
    }
    counts.push(`(SELECT count(*) FROM ${name})`)
  }
  // What was only looked at stays locked until this is written, so that nobody takes it away in between.
  for (const [id, revision] of guard?.seen ?? []) {
    const name = `u${parts.length}`
    parts.push(`${name} AS (SELECT 1 FROM takes t, p WHERE t.project_id = p.id AND t.id = ${put(id)} AND t.revision = ${put(revision)} AND t.removed_at IS NULL FOR SHARE OF t)`)
    counts.push(`(SELECT count(*) FROM ${name})`)
  }
  // Facts that were worked out from any of these are no more.
  const worked = [...held.values()].flatMap(({ ref }) => (ref.kind === 'take' || ref.kind === 'drawing' || ref.kind === 'set' ? [unitKey(ref)] : []))
  if (worked.length > 0) parts.push(`f AS (DELETE FROM take_facts t USING p WHERE t.project_id = p.id AND t.uses && ${put(worked)}::text[])`)
  const rows: string[] = []
  for (const { change, touched } of entries) rows.push(`(${rows.length}, ${put(change.id)}, ${put(change.label)}, ${putJson(await editsText(change.edits))}, ${put(JSON.stringify(touched))}::jsonb)`)
  const lives = guard === null ? '' : ` AND trashed_at IS NULL AND date_trunc('milliseconds', created_at) = date_trunc('milliseconds', ${put(guard.createdAt)}::timestamptz)`
  const whole = `${['(SELECT count(*) FROM j)', ...counts].join(' + ')} = ${entries.length + counts.length}`
  const [found] = await sequelize.query<{ seq: string }>(
    `WITH p AS (UPDATE projects SET updated_at = clock_timestamp() WHERE id = $1${lives} RETURNING id),
       ${parts.map((part) => `${part},`).join('\n')}
       j AS (INSERT INTO journal (project_id, change_id, label, author, edits, revisions, created_at)
               SELECT p.id, r.change_id, r.label, $3, r.edits, r.revisions, clock_timestamp() FROM p, (VALUES ${rows.join(', ')}) AS r(n, change_id, label, edits, revisions) ORDER BY r.n RETURNING seq)
     SELECT (SELECT max(seq) FROM j) AS seq, pg_notify($4, $5)::text, $2::int AS format, 1 / (CASE WHEN ${whole} THEN 1 ELSE 0 END) AS whole`,
    { bind, type: QueryTypes.SELECT, transaction },
  )
  return Number(found!.seq)
}

const lengthOf = (kind: UnitRef['kind'], unit: Unit) => UNIT_KINDS[kind].lengthFrames?.(unit) ?? 0

/** All units of a kind in one part of the statement, however many: a part for each takes the planner too long. The last column is the ids. */
function inBulk(texts: ReadonlyMap<HeldUnit, string>): readonly { readonly columns: readonly unknown[][]; readonly statement: (places: string[]) => string }[] {
  return unitTables().flatMap(([kind, { table, content, byOutline }]) => {
    const found = [...texts].filter(([{ ref }]) => ref.kind === kind)
    if (found.length === 0) return []
    const columns: unknown[][] = [found.map(([, text]) => text), found.map(([{ revision }]) => revision), found.map(([{ ref }]) => ref.id)]
    if (!byOutline) {
      return [{
        columns,
        statement: ([bodies, revisions, ids]: string[]) =>
          `INSERT INTO ${table} (project_id, id, ${content}, format, revision)
           SELECT p.id, w.id, w.body::jsonb, $2, w.revision FROM p, unnest(${bodies}::text[], ${revisions}::int[], ${ids}::text[]) AS w(body, revision, id)
           ON CONFLICT (project_id, id) DO UPDATE SET ${content} = excluded.${content}, format = excluded.format, revision = excluded.revision RETURNING 1`,
      }]
    }
    return [{
      columns: [found.map(([{ unit }]) => lengthOf(kind, unit)), ...columns],
      statement: ([frames, bodies, revisions, ids]: string[]) =>
        `UPDATE ${table} t SET ${content} = w.body::jsonb, format = $2, revision = w.revision, length_frames = w.frames
         FROM p, unnest(${frames}::int[], ${bodies}::text[], ${revisions}::int[], ${ids}::text[]) AS w(frames, body, revision, id)
         WHERE t.project_id = p.id AND t.id = w.id RETURNING 1`,
    }]
  })
}
