import { inOrder } from '../../document/order'
import { WORK_COLUMNS_MOST, type Work, type WorkColumn, type WorkFields, type WorkWeight } from '../../document/records'
import { BREAKDOWN_REF, type Breakdown } from '../../document/units'
import { Draft, withFields } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'

/** What is said of one thing, with fields changed; null where nothing is left of it. A field that is null, and a column without letters, goes. */
function changed(before: Work | undefined, id: string, { own, ...fields }: WorkFields): Work | null {
  const plain = Object.fromEntries(Object.entries(fields).map(([name, value]) => [name, value === null || value === '' ? undefined : value]))
  const columns = own === undefined ? before?.own : Object.fromEntries(Object.entries({ ...before?.own, ...own }).filter(([, text]) => text !== ''))
  const now = withFields<Work>(before ?? { id }, { ...plain, own: columns === undefined || Object.keys(columns).length === 0 ? undefined : columns } as Partial<Work>)
  return Object.keys(now).length === 1 ? null : now
}

/** Says something of things or shots in the breakdown, each its own. */
export function sayOfWork(breakdown: Breakdown, said: readonly { readonly id: string; readonly fields: WorkFields }[]): Made {
  if (said.length === 0) return refused({ code: 'nothing-selected' })
  const draft = new Draft(breakdown)
  for (const { id, fields } of said) {
    const now = changed(draft.now('work', id) ?? undefined, id, fields)
    if (now === null) draft.drop('work', id)
    else draft.put('work', now)
  }
  return made(draft.edit('work', BREAKDOWN_REF))
}

/** Another column of one's own, after the others. */
export function addWorkColumn(breakdown: Breakdown, id: string, name: string, of: WorkColumn['of']): Made {
  const there = inOrder(breakdown.columns)
  if (there.length >= WORK_COLUMNS_MOST) return refused({ code: 'too-many-columns', most: WORK_COLUMNS_MOST })
  const draft = new Draft(breakdown)
  const [order] = draft.room('columns', there, there.length, 1)
  return made(draft.put('columns', { id, order: order!, name: name.trim(), of }).edit('work-column', BREAKDOWN_REF))
}

export function renameWorkColumn(breakdown: Breakdown, id: string, name: string): Made {
  const column = breakdown.columns[id]
  return column === undefined ? refused({ code: 'missing', what: 'column', id }) : made(new Draft(breakdown).put('columns', { ...column, name: name.trim() }).edit('work-column', BREAKDOWN_REF))
}

/** Takes a column out, with all that stands in it. */
export function removeWorkColumn(breakdown: Breakdown, id: string): Made {
  if (breakdown.columns[id] === undefined) return refused({ code: 'missing', what: 'column', id })
  const draft = new Draft(breakdown).drop('columns', id)
  for (const work of Object.values(breakdown.work)) {
    if (work.own?.[id] === undefined) continue
    const now = changed(work, work.id, { own: { [id]: '' } })
    if (now === null) draft.drop('work', work.id)
    else draft.put('work', now)
  }
  return made(draft.edit('work-column', BREAKDOWN_REF))
}

/** What each counts from now on; null: as it is unless the film says otherwise. */
export function setWorkWeights(breakdown: Breakdown, weights: Readonly<Record<WorkWeight, number>> | null): Made {
  const draft = new Draft(breakdown)
  return made((weights === null ? draft.drop('weights', 'weights') : draft.put('weights', { id: 'weights', ...weights })).edit('work-weights', BREAKDOWN_REF))
}
