import type { Readable } from 'node:stream'

/** `last` is the last byte itself, as in HTTP. */
export interface ByteRange {
  readonly first: number
  readonly last: number
}

export interface KeptFile<T> {
  readonly hash: string
  readonly bytes: number
  readonly found: T
}

/** Bytes kept under the SHA-256 of what they are, and the parts of what is still coming in. */
export interface BlobStore {
  /**
   * Takes a stream in. `inspect` looks at the whole file before it is kept: what it throws refuses it, and nothing stays;
   * what lies behind `keepBytes` is cut off. `keep` then puts it under its hash with `place`, and gives the answer.
   * Throws `BlobTooLarge` past the limit and leaves the rest unread.
   */
  put<T extends { readonly keepBytes: number }, R>(source: Readable, limitBytes: number, inspect: (path: string, bytes: number) => Promise<T>, keep: (file: KeptFile<T>, place: () => Promise<void>) => Promise<R>): Promise<R>
  /** Null where there is no such blob. With `range` only those of its bytes; `bytes` is the whole blob's size all the same. */
  read(hash: string, range?: ByteRange): Promise<{ readonly stream: Readable; readonly bytes: number } | null>
  has(hash: string): Promise<boolean>
  remove(hash: string): Promise<void>
  /** Every blob with its age. */
  list(): AsyncIterable<{ readonly hash: string; readonly bytes: number; readonly changedAt: Date }>
  /** Keeps a part of an upload whole, in place of one of the same number; it must have just these bytes. */
  putPart(upload: string, part: number, source: Readable, bytes: number): Promise<void>
  /** The numbers of the parts that are there, in order. */
  partsOf(upload: string): Promise<readonly number[]>
  readPart(upload: string, part: number): Promise<Readable>
  removeParts(upload: string): Promise<void>
  /** Lets go of files that servers which were killed left half written; how many. Done before anything comes in. */
  sweep(): Promise<number>
  /** Throws, with the reason, where nothing could be kept. */
  check(): Promise<void>
}

export class BlobTooLarge extends Error {}
export class PartCutShort extends Error {}

export const isHash = (text: string): boolean => /^[0-9a-f]{64}$/.test(text)
