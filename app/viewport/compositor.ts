import type { Composition } from './composition'

export type AnyCanvas = HTMLCanvasElement | OffscreenCanvas

/** Draws compositions on its canvas, sized to their view. */
export interface Compositor {
  readonly kind: 'canvas' | 'gl'
  readonly canvas: AnyCanvas
  /** Draws; false where the composition is what is on the canvas already. */
  draw(composition: Composition, background: Background): boolean
  dispose(): void
}

/** What shows where no art is: a colour, or null for nothing (transparent). */
export interface Background {
  /** Inside the frame: paper. */
  readonly frame: string | null
  /** Outside it. */
  readonly surround: string | null
}

