import type { FileHandle } from 'node:fs/promises'
import type { Readable } from 'node:stream'

/** `last` is the last byte itself, as in HTTP. */
export interface ByteRange {
  readonly first: number
  readonly last: number
}

/** Bytes kept under the SHA-256 of what they are, and the parts of what is still coming in. */
export interface BlobStore {
  /**
   * Takes a stream in. `inspect` reads the whole file before it is kept: what it throws refuses it, and nothing stays.
   * Throws `BlobTooLarge` past the limit and leaves the rest unread.
   */
  put<T>(source: Readable, limitBytes: number, inspect: (file: FileHandle, bytes: number) => Promise<T>): Promise<{ readonly hash: string; readonly bytes: number; readonly found: T }>
  /** Null where there is no such blob. With `range` only those of its bytes; `bytes` is the whole blob's size all the same. */
  read(hash: string, range?: ByteRange): Promise<{ readonly stream: Readable; readonly bytes: number } | null>
  remove(hash: string): Promise<void>
  /** Every blob with its age. */
  list(): AsyncIterable<{ readonly hash: string; readonly bytes: number; readonly changedAt: Date }>
  /** Keeps a part of an upload whole, in place of one of the same number; it must have just these bytes. */
  putPart(upload: string, part: number, source: Readable, bytes: number): Promise<void>
  /** The numbers of the parts that are there, in order. */
  partsOf(upload: string): Promise<readonly number[]>
  readPart(upload: string, part: number): Promise<Readable>
  removeParts(upload: string): Promise<void>
  /** Throws, with the reason, where nothing could be kept. */
  check(): Promise<void>
}

export class BlobTooLarge extends Error {}
export class PartCutShort extends Error {}

export const isHash = (text: string): boolean => /^[0-9a-f]{64}$/.test(text)
