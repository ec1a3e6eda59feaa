import { batchSchema, type Batch, type BatchAccepted } from '#shared/edits'
import { applyBatch } from './editBatches'
import { checked } from './requests'

/** Changes as they came: checked, and made. A refusal names the change that it is about. */
export async function takeBatch(projectId: string, text: string): Promise<BatchAccepted> {
  const batch = checked(text, batchSchema, (path, value) => {
    const [collection, index, ...rest] = path
    const id = collection === 'changes' && typeof index === 'number' ? (value as { changes?: { id?: unknown }[] }).changes?.[index]?.id : undefined
    return typeof id === 'string' ? { code: 'invalid-edit', changeId: id, path: rest.map(String) } : {}
  })
  return applyBatch(projectId, batch as Batch)
}
