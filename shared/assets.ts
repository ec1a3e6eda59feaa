const megabyte = 1024 * 1024

/** What is taken in at most; the server's settings may say otherwise, and its refusals always name its own. */
export const ASSET_LIMITS = {
  pictureBytes: 64 * megabyte,
  picturePx: 64_000_000,
  svgBytes: 8 * megabyte,
  soundBytes: 1024 * megabyte,
  soundSeconds: 4 * 3600,
  /** Changes that are too large for one request. */
  batchBytes: 256 * megabyte,
}
export const PICTURE_LIMIT_BYTES = ASSET_LIMITS.pictureBytes
export const PICTURE_TYPES = Object.freeze(['image/png', 'image/jpeg', 'image/webp', 'image/svg+xml'] as const)
export type PictureType = (typeof PICTURE_TYPES)[number]
export type SoundType = 'audio/wav' | 'audio/flac' | 'audio/ogg' | 'audio/mpeg'
export type AssetKind = 'picture' | 'sound'
/** What goes up in parts: a file, changes to a film, or a film as one file. */
export type UploadKind = AssetKind | 'batch' | 'archive'

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
  /** When it was taken in, as the server counts; only who took it in last may let it go unused. */
  readonly touchedAt: string
  /** It was not there before. */
  readonly fresh: boolean
}

/** The longest sides, px, at which a picture can be had besides its own size. */
export const PICTURE_SIDES_PX = Object.freeze([256, 512, 1024, 2048, 4096, 8192] as const)
/** A drawing of lines has no pixels of its own; it counts as one whose longest side has this many. */
export const SVG_SIDE_PX = 8192

/** The side to ask for where a picture is shown `neededPx` long at its longest; null for the picture as it is. */
export function pictureSide(picture: { readonly widthPx: number; readonly heightPx: number }, neededPx: number): number | null {
  const own = Math.max(picture.widthPx, picture.heightPx)
  return PICTURE_SIDES_PX.find((side) => side >= neededPx && side < own) ?? null
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
