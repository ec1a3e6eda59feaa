import type { BodyKind, Unit } from '@rubato/core/document'
import { api } from '~/api/client'

export interface LoadedUnit {
  readonly id: string
  readonly revision: number
  readonly unit: Unit
}

/** How units of each kind are asked for: of the film as it is, or of one of its versions. */
export const UNIT_LOADERS: Record<BodyKind, (projectId: string, version: string | null, ids: readonly string[]) => Promise<readonly LoadedUnit[]>> = {
  take: async (projectId, version, ids) => (version === null ? await api.takes(projectId, ids) : await api.versionTakes(projectId, version, ids)).map(({ id, revision, body }) => ({ id, revision, unit: body })),
  drawing: async (projectId, version, ids) => (version === null ? await api.drawings(projectId, ids) : await api.versionDrawings(projectId, version, ids)).map(({ id, revision, drawing }) => ({ id, revision, unit: drawing })),
  set: async (projectId, version, ids) => (version === null ? await api.sets(projectId, ids) : await api.versionSets(projectId, version, ids)).map(({ id, revision, body }) => ({ id, revision, unit: body })),
  breakdown: async (projectId, version, ids) => (version === null ? await api.breakdowns(projectId, ids) : await api.versionBreakdowns(projectId, version, ids)).map(({ id, revision, body }) => ({ id, revision, unit: body })),
  try: async (projectId, version, ids) => (version === null ? await api.tries(projectId, ids) : await api.versionTries(projectId, version, ids)).map(({ id, revision, tried }) => ({ id, revision, unit: tried })),
}
