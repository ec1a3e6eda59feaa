import { samePicture, type Composition } from './composition'

export type AnyCanvas = HTMLCanvasElement | OffscreenCanvas

/** `exact` everywhere the same to within 3/255; `fast` may be coarser in hard edges, for pictures in motion. */
export type Resampling = 'exact' | 'fast'

/** Draws compositions on its canvas, sized to their view. */
export interface Compositor {
  readonly kind: 'canvas' | 'gl'
  readonly canvas: AnyCanvas
  /** Draws; false where the composition is what is on the canvas already. */
  draw(composition: Composition, background: Background, resampling: Resampling): boolean
  dispose(): void
}

/** What shows where no art is: a colour, or null for nothing (transparent). */
export interface Background {
  /** Inside the frame: paper. */
  readonly frame: string | null
  /** Outside it. */
  readonly surround: string | null
}


/** Remembers what is on a canvas, so that the same picture is not drawn twice. */
export function createShown() {
  let signature: Composition['signature'] = []
  let frame: string | null = null
  let surround: string | null = null
  let as: Resampling = 'fast'
  return {
    /** False where it is there already; else it is taken to be there from now on. */
    replacedBy(composition: Composition, background: Background, resampling: Resampling): boolean {
      if (resampling === as && background.frame === frame && background.surround === surround && samePicture(signature, composition.signature)) return false
      signature = composition.signature
      frame = background.frame
      surround = background.surround
      as = resampling
      return true
    },
    forget() {
      signature = []
    },
  }
}
