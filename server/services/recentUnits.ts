import type { Unit } from '@rubato/core/document'
import { LRUCache } from 'lru-cache'
import type { HeldUnit } from './writeUnits'

const RECENT_UNITS = 200

/** Units as this server last wrote them, by revision: only a saving of work, since the revision is asked for each time. */
export const recent = (() => {
  const kept = new LRUCache<string, { readonly revision: number; readonly unit: Unit }>({ max: RECENT_UNITS })
  return {
    revisionOf: (film: string, key: string) => kept.get(`${film}/${key}`)?.revision ?? -1,
    unitOf: (film: string, key: string) => kept.get(`${film}/${key}`)?.unit,
    keep: (film: string, key: string, revision: number, unit: Unit) => void kept.set(`${film}/${key}`, { revision, unit }),
  }
})()

export function keepRecent(film: string, held: ReadonlyMap<string, HeldUnit>) {
  for (const [key, { unit, revision, ref }] of held) if (ref.kind !== 'outline') recent.keep(film, key, revision, unit)
}
