const megabyte = 1024 * 1024

/** What is taken in at most; the server's settings may say otherwise, and its refusals always name its own. */
export const ASSET_LIMITS = {
  pictureBytes: 64 * megabyte,
  picturePx: 64_000_000,
  soundBytes: 1024 * megabyte,
  soundSeconds: 4 * 3600,
}
export const PICTURE_LIMIT_BYTES = ASSET_LIMITS.pictureBytes
export const PICTURE_TYPES = Object.freeze(['image/png', 'image/jpeg', 'image/webp'] as const)
export type PictureType = (typeof PICTURE_TYPES)[number]
export type SoundType = 'audio/wav' | 'audio/flac' | 'audio/ogg' | 'audio/mpeg'
export type AssetKind = 'picture' | 'sound'

/** A picture or a sound as the server keeps it. */
export interface StoredAsset {
  readonly kind: AssetKind
  /** SHA-256 of the bytes, hexadecimal. */
  readonly hash: string
  readonly type: PictureType | SoundType
  /** 0 for a sound. */
  readonly widthPx: number
  readonly heightPx: number
  /** Null for a picture. */
  readonly seconds: number | null
  readonly bytes: number
}

/** Files go up in parts of this many bytes, so that a dropped connection costs one part. */
export const PART_BYTES = 4 * megabyte

export interface UploadState {
  readonly id: string
  readonly bytes: number
  readonly partBytes: number
  /** The numbers of the parts that are there. */
  readonly parts: readonly number[]
}
