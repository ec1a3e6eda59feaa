import { createCanvasCompositor } from './canvasCompositor'
import type { Composition } from './composition'
import type { AnyCanvas, Background, Compositor, Resampling } from './compositor'
import { createGlCompositor } from './glCompositor'
import { hasGraphicsCard } from './graphicsCard'

/**
 * Draws compositions with the backend that suits: the GPU where there is a card, else 2D. Each has a canvas of its own; the answer
 * tells which one to show.
 */
export interface StageView {
  draw(composition: Composition, background: Background, resampling: Resampling): { readonly canvas: AnyCanvas; readonly drawn: boolean }
  /** What went wrong with the GPU; null while nothing did. */
  readonly problem: string | null
  dispose(): void
}

export function createStageView(makeCanvas: (kind: Compositor['kind']) => AnyCanvas): StageView {
  let flat: Compositor | null = null
  let gl: Compositor | null = null
  let problem: string | null = null

  function pick(): Compositor {
    if (hasGraphicsCard() && problem === null) {
      try {
        gl ??= createGlCompositor(makeCanvas('gl'))
        return gl
      } catch {
        problem = 'This browser gives no WebGL, so turned levels are drawn slowly.'
      }
    }
    flat ??= createCanvasCompositor(makeCanvas('canvas'))
    return flat
  }
  return {
    get problem() {
      return problem
    },
    draw(composition, background, resampling) {
      const compositor = pick()
      return { canvas: compositor.canvas, drawn: compositor.draw(composition, background, resampling) }
    },
    dispose() {
      flat?.dispose()
      gl?.dispose()
    },
  }
}
