import { heightOf, widthOf, type Rectangle } from '@rubato/core/geometry'

const GROUPED = new Intl.NumberFormat('en', { maximumFractionDigits: 0 })

/** `3,208 × 1,805 px`: whole px, never less than is needed. */
export const pxWords = ({ width, height }: { readonly width: number; readonly height: number }): string => `${GROUPED.format(wholePx(width))} × ${GROUPED.format(wholePx(height))} px`

/** A hair over a px is none. */
const wholePx = (px: number): number => Math.max(1, Math.ceil(px - 1e-6))

/** `4.60 × 1.20 fw` */
export const fwWords = (of: Rectangle): string => `${widthOf(of).toFixed(2)} × ${heightOf(of).toFixed(2)} fw`
