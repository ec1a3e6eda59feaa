import type { AssetKind, StoredAsset, UploadState } from '#shared/assets'
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
export async function uploadFile(file: Blob, kind: AssetKind, onProgress: (share: number) => void, gate: AbortSignal): Promise<StoredAsset> {
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
  let upload: UploadState | null = null
  try {
    upload = await again(() => api.beginUpload(kind, file.size))
    const { id, partBytes } = upload
    const count = Math.max(1, Math.ceil(file.size / partBytes))
    for (let part = 0; part < count; part++) {
      await again(() => api.sendPart(id, part, file.slice(part * partBytes, (part + 1) * partBytes), gate))
      onProgress((part + 1) / count)
    }
    const stored = await again(() => api.finishUpload(id))
    upload = null
    return stored
  } finally {
    if (upload !== null) void api.dropUpload(upload.id).catch(() => undefined)
  }
}
