import type { BodyKind } from '@rubato/core/document'
import type { AssetKind } from '#shared/assets'
import type { FileLimits, FoundKind } from './fileKinds'
import type { FoundUnit } from './units'

export type Found = FoundKind | FoundUnit | string | null

/** What the server asks of the process that opens files. */
export type JobAsk = { readonly number: number } & (
  | { readonly kind: 'inspect'; readonly path: string; readonly bytes: number; readonly wanted: AssetKind; readonly limits: FileLimits }
  | { readonly kind: 'unit'; readonly path: string; readonly wanted: BodyKind | 'any'; readonly format: number }
  | { readonly kind: 'size'; readonly path: string; readonly out: string; readonly sidePx: number; readonly type: string; readonly lines: boolean; readonly picturePx: number }
)

/** `status` 0: it failed for a reason that is not the file's own. */
export type JobAnswer = { readonly number: number } & (
  | { readonly ok: true; readonly found: Found }
  | { readonly ok: false; readonly status: number; readonly code: string; readonly message: string }
)
