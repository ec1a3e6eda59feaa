import type { AnyCanvas, Compositor } from './compositor'
import { hasGraphicsCard } from './graphicsCard'

let refused = false

/** False once the browser has said that it has no WebGL: it is not asked again for every picture. */
export const mayWakeGl = () => !refused && hasGraphicsCard()

/**
 * The GPU backend, its program fetched when it is first wanted: half of what a worker that paints would read at its start.
 * Null where it can't be had, in a browser without WebGL or while the server isn't reached; 2D draws the same, slowly.
 */
export async function wakeGl(canvas: AnyCanvas): Promise<Compositor | null> {
  if (!mayWakeGl()) return null
  const program = await import('./glCompositor').catch(() => null)
  try {
    return program?.createGlCompositor(canvas) ?? null
  } catch {
    refused = true
    return null
  }
}
