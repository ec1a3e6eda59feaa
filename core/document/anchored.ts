import type { Camera, CameraCut, Framing } from './records'
import type { TakeBody } from './units'

/**
 * Records of a take that stand at a frame of a panel: `panelId` and `offsetFrames`. Everything that gives panels another
 * length or place, splits, joins, carries or removes them goes through this list; a new kind of key is one line here and
 * its schema.
 */
export const ANCHORED = Object.freeze(['framings', 'cuts'] as const)
export const NONE_ANCHORED = Object.freeze({ framings: {}, cuts: {} }) satisfies Pick<TakeBody, 'framings' | 'cuts'>
export type AnchoredCollection = (typeof ANCHORED)[number]

export interface AnchoredRecords {
  readonly framings: Framing
  readonly cuts: CameraCut
}
export type AnchoredRecord = AnchoredRecords[AnchoredCollection]

/** An anchored record, with the collection it is of. */
export interface Anchored {
  readonly collection: AnchoredCollection
  readonly record: AnchoredRecord
}

/** What `Draft` can do with one: the collection and the record always belong together. */
export interface AnchoredDraft {
  put(collection: AnchoredCollection, record: never): unknown
  drop(collection: AnchoredCollection, id: string): unknown
}

/** All of a take, or those that stand in some of its panels. */
export function anchoredIn(take: Pick<TakeBody, AnchoredCollection>, isIn: (panelId: string) => boolean = () => true): readonly Anchored[] {
  return ANCHORED.flatMap((collection) => Object.values<AnchoredRecord>(take[collection]).filter((record) => isIn(record.panelId)).map((record) => ({ collection, record })))
}

/** Puts one with other fields; its kind stays. */
export function putAnchored(draft: AnchoredDraft, { collection, record }: Anchored, fields: Partial<AnchoredRecord> = {}): void {
  draft.put(collection, { ...record, ...fields } as never)
}

export function dropAnchored(draft: AnchoredDraft, { collection, record }: Anchored): void {
  draft.drop(collection, record.id)
}

/** What one stands on beside its panel: null where that is gone. */
export function cameraOfAnchored(take: Pick<TakeBody, 'cameras'>, record: AnchoredRecord): Camera | null {
  return Object.hasOwn(take.cameras, record.cameraId) ? take.cameras[record.cameraId]! : null
}
