import type { TakeBody } from './units'

/** What a kind of anchored record is, beside standing at a frame of a panel. */
interface AnchoredKind {
  /** What it belongs to beside its panel: the collection that has it, and the field that names it. Null: nothing. */
  readonly owner: { readonly collection: 'air'; readonly field: 'airId' } | { readonly collection: 'cameras'; readonly field: 'cameraId' } | { readonly collection: 'levels'; readonly field: 'levelId' } | { readonly collection: 'spans'; readonly field: 'spanId' } | null
  /** What the place is for: of two at one frame with the same, only one would ever be seen. */
  readonly slotOf: (record: AnchoredRecord) => string
  /** Put together anew where panels go elsewhere, so that it shows what it showed: keys of a track, and spans. */
  readonly track: boolean
}

/**
 * Records of a take that stand at a frame of a panel: `panelId` and `offsetFrames`. Everything that gives panels another
 * length or place, splits, joins, carries or removes them, checks a take or merges two hands' work goes through this
 * table; a new kind is a line here, and its schema.
 */
export const ANCHORED = {
  framings: { owner: { collection: 'cameras', field: 'cameraId' }, slotOf: (record) => record.cameraId ?? '', track: true },
  levelKeys: { owner: { collection: 'levels', field: 'levelId' }, slotOf: (record) => `${record.levelId} ${record.of}`, track: true },
  airKeys: { owner: { collection: 'air', field: 'airId' }, slotOf: (record) => record.airId ?? '', track: true },
  cuts: { owner: { collection: 'cameras', field: 'cameraId' }, slotOf: () => '', track: false },
  spans: { owner: { collection: 'cameras', field: 'cameraId' }, slotOf: (record) => record.id, track: true },
  tries: { owner: { collection: 'cameras', field: 'cameraId' }, slotOf: (record) => record.id, track: false },
  spanEnds: { owner: { collection: 'spans', field: 'spanId' }, slotOf: (record) => record.id, track: true },
} satisfies Readonly<Partial<Record<keyof TakeBody, AnchoredKind>>>
export type AnchoredCollection = keyof typeof ANCHORED

export interface AnchoredRecord {
  readonly id: string
  readonly panelId: string
  readonly offsetFrames: number
  readonly cameraId?: string
  readonly levelId?: string
  readonly airId?: string
  readonly spanId?: string
  /** What of a level a key is of. */
  readonly of?: string
}

/** An anchored record, with the collection it is of. */
export interface Anchored {
  readonly collection: AnchoredCollection
  readonly record: AnchoredRecord
}

/** What `Draft` can do with one: the collection and the record always belong together. */
export interface AnchoredDraft {
  put(collection: AnchoredCollection, record: never): unknown
  drop(collection: AnchoredCollection, id: string): unknown
  now(collection: AnchoredCollection, id: string): object | null
}

export const anchoredCollections = () => Object.keys(ANCHORED) as AnchoredCollection[]
export const kindOfAnchored = (collection: AnchoredCollection): AnchoredKind => ANCHORED[collection]

/** All of a take, or those that stand in some of its panels. */
export function anchoredIn(take: Pick<TakeBody, AnchoredCollection>, isIn: (panelId: string) => boolean = () => true): readonly Anchored[] {
  const found: Anchored[] = []
  for (const collection of anchoredCollections()) for (const record of Object.values<AnchoredRecord>(take[collection])) if (isIn(record.panelId)) found.push({ collection, record })
  return found
}

/** Puts one with other fields; its kind stays. */
export function putAnchored(draft: AnchoredDraft, { collection, record }: Anchored, fields: Partial<AnchoredRecord> = {}): void {
  draft.put(collection, { ...record, ...fields } as never)
}

export function dropAnchored(draft: AnchoredDraft, { collection, record }: Anchored): void {
  draft.drop(collection, record.id)
}

/**
 * Puts those that are not put together anew into another take: under their ids, where those are free, in panels and of
 * owners that are called otherwise there. What belongs to a camera or level that is not there stays behind.
 */
export function carryAnchored(draft: AnchoredDraft, records: readonly Anchored[], panelIdOf: (panelId: string) => string, ownerIdOf: (ownerId: string) => string | undefined, newId: () => string): void {
  for (const each of records) {
    const { owner, track } = kindOfAnchored(each.collection)
    const ownerId = owner === null ? undefined : ownerIdOf(each.record[owner.field]!)
    if (track || (owner !== null && ownerId === undefined)) continue
    const id = draft.now(each.collection, each.record.id) === null ? each.record.id : newId()
    putAnchored(draft, each, { id, panelId: panelIdOf(each.record.panelId), ...(owner === null ? {} : { [owner.field]: ownerId }) })
  }
}

/** The collection that should have what one belongs to, and has not; null where all is there. */
export function missingOwner(take: Pick<TakeBody, 'cameras' | 'levels' | 'spans' | 'air'>, { collection, record }: Anchored): 'cameras' | 'levels' | 'spans' | 'air' | null {
  const { owner } = kindOfAnchored(collection)
  return owner === null || Object.hasOwn(take[owner.collection], record[owner.field]!) ? null : owner.collection
}
