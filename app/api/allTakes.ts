import type { PlacedShot } from '@rubato/core/stage'
import type { LoadedTake } from '#shared/projects'
import { api } from './client'

/** Few at a time, so that reading an answer holds nothing up. */
const AT_ONCE = 40

/**
 * The circled takes of shots, in their order, as the server has them; none is kept. A version is read where one is
 * named. `onProgress` hears the share that has come.
 */
export async function* takesInOrder(projectId: string, version: string | null, shots: readonly PlacedShot[], onProgress: (share: number) => void, gate: AbortSignal): AsyncGenerator<{ readonly placed: PlacedShot; readonly take: LoadedTake }> {
  for (let at = 0; at < shots.length; at += AT_ONCE) {
    gate.throwIfAborted()
    const part = shots.slice(at, at + AT_ONCE)
    const ids = part.map((placed) => placed.shot.circledTakeId)
    const loaded = new Map((version === null ? await api.takes(projectId, ids) : await api.versionTakes(projectId, version, ids)).map((take) => [take.id, take]))
    for (const placed of part) {
      const take = loaded.get(placed.shot.circledTakeId)
      if (take !== undefined) yield { placed, take }
    }
    onProgress(Math.min(1, (at + AT_ONCE) / shots.length))
  }
}
