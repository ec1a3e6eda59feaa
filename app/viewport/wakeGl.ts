import type { AnyCanvas, Compositor } from './compositor'

/**
 * The GPU backend, its program fetched when it is first wanted: half of what a worker that paints would read at its start.
 * Null where it can't be had, in a browser without WebGL or while the server isn't reached; 2D draws the same, slowly.
 */
export async function wakeGl(canvas: AnyCanvas): Promise<Compositor | null> {
  try {
    return (await import('./glCompositor')).createGlCompositor(canvas)
  } catch {
    return null
  }
}
