import type { AssetKind, StoredAsset, UploadKind, UploadState } from '#shared/assets'
import type { Batch, BatchAccepted } from '#shared/edits'
import { api, Refused, Unreachable } from './client'

const TRIES = 8
const pause = (ms: number, gate: AbortSignal) =>
  new Promise<void>((resolve, reject) => {
    const timer = setTimeout(resolve, ms)
    gate.addEventListener('abort', () => (clearTimeout(timer), reject(gate.reason as Error)), { once: true })
  })

/**
 * Sends a file part by part. A part that is lost on the way is sent again, for some minutes; what has arrived is not.
 * `onProgress` hears the share that is there, 0…1.
 */
export const uploadFile = (file: Blob, kind: AssetKind, onProgress: (share: number) => void, gate: AbortSignal): Promise<StoredAsset> => upload(file, kind, (id) => api.finishUpload(id), onProgress, gate)

/** Sends changes that are too large for one request: part by part, as a file. */
export function uploadBatch(projectId: string, batch: Batch): Promise<BatchAccepted> {
  const gate = new AbortController()
  return upload(new Blob([JSON.stringify(batch)]), 'batch', (id) => api.sendUploadedBatch(projectId, id), () => undefined, gate.signal)
}

async function upload<T>(file: Blob, kind: UploadKind, finish: (id: string) => Promise<T>, onProgress: (share: number) => void, gate: AbortSignal): Promise<T> {
  const again = async <T>(work: () => Promise<T>): Promise<T> => {
    for (let tries = 0; ; tries++) {
      gate.throwIfAborted()
      try {
        return await work()
      } catch (error) {
        gate.throwIfAborted()
        const passing = error instanceof Unreachable || (error instanceof Refused && (error.data.code === 'cut-short' || error.status === 429))
        if (!passing || tries >= TRIES) throw error
        await pause(Math.min(30_000, 500 * 2 ** tries), gate)
      }
    }
  }
  let begun: UploadState | null = null
  try {
    begun = await again(() => api.beginUpload(kind, file.size))
    const { id, partBytes } = begun
    const count = Math.max(1, Math.ceil(file.size / partBytes))
    for (let part = 0; part < count; part++) {
      await again(() => api.sendPart(id, part, file.slice(part * partBytes, (part + 1) * partBytes), gate))
      onProgress((part + 1) / count)
    }
    const stored = await again(() => finish(id))
    begun = null
    return stored
  } finally {
    if (begun !== null) void api.dropUpload(begun.id).catch(() => undefined)
  }
}
