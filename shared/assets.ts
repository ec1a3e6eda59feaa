/** Largest picture file and largest picture taken in. */
export const PICTURE_LIMIT_BYTES = 64 * 1024 * 1024
export const PICTURE_LIMIT_PX = 64_000_000
export const PICTURE_TYPES = Object.freeze(['image/png', 'image/jpeg', 'image/webp'] as const)
export type PictureType = (typeof PICTURE_TYPES)[number]

/** A picture as the server keeps it. */
export interface StoredPicture {
  /** SHA-256 of the bytes, hexadecimal. */
  readonly hash: string
  readonly type: PictureType
  readonly widthPx: number
  readonly heightPx: number
  readonly bytes: number
}
