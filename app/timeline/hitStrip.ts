import { rowAt } from './stripRows'
import { frameOfX, xOfFrame, type StripScale } from './stripScale'
import type { StripScene } from './stripScene'

export type StripHit =
  | { readonly kind: 'ruler'; readonly frame: number }
  | { readonly kind: 'shot'; readonly shotId: string; readonly frame: number }
  | { readonly kind: 'panel'; readonly shotId: string; readonly panelId: string; readonly startFrame: number }
  | { readonly kind: 'panel-end'; readonly shotId: string; readonly panelId: string }
  | { readonly kind: 'bead'; readonly shotId: string; readonly framingId: string }
  | { readonly kind: 'camera'; readonly shotId: string; readonly frame: number }

/** Half the width in which an edge is grabbed, px; less on panels too narrow to have an inside. */
const EDGE_PX = 5
const BEAD_PX = 12

/** What is under a point of the strip; null beside the film. */
export function hitStrip(scene: StripScene, scale: StripScale, x: number, y: number): StripHit | null {
  const row = rowAt(y)
  const frame = frameOfX(scale, x)
  if (row === 'ruler') return { kind: 'ruler', frame }
  if (row === 'camera') {
    const bead = nearestBead(scene, scale, x)
    if (bead !== null) return bead
  }
  if (row === 'panels') {
    const end = nearestEnd(scene, scale, x)
    if (end !== null) return end
  }
  const shot = scene.shots.find((entry) => frame >= entry.startFrame && frame < entry.startFrame + entry.lengthFrames)
  if (shot === undefined || row === null) return null
  if (row === 'shots') return { kind: 'shot', shotId: shot.id, frame }
  if (row === 'camera') return { kind: 'camera', shotId: shot.id, frame }
  const panel = shot.body?.panels.find((entry) => frame - shot.startFrame >= entry.startFrame && frame - shot.startFrame < entry.startFrame + entry.lengthFrames)
  return panel === undefined ? null : { kind: 'panel', shotId: shot.id, panelId: panel.id, startFrame: shot.startFrame + panel.startFrame }
}

function nearestBead(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  let best: { readonly hit: StripHit; readonly off: number } | null = null
  for (const shot of scene.shots) {
    for (const bead of shot.body?.beads ?? []) {
      const off = Math.abs(xOfFrame(scale, shot.startFrame + bead.frame) - x)
      if (off <= BEAD_PX && (best === null || off < best.off)) best = { hit: { kind: 'bead', shotId: shot.id, framingId: bead.id }, off }
    }
  }
  return best?.hit ?? null
}

function nearestEnd(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  let best: { readonly hit: StripHit; readonly off: number } | null = null
  for (const shot of scene.shots) {
    for (const panel of shot.body?.panels ?? []) {
      const width = panel.lengthFrames * scale.pxPerFrame
      const off = Math.abs(xOfFrame(scale, shot.startFrame + panel.startFrame + panel.lengthFrames) - x)
      if (off <= Math.min(EDGE_PX, Math.max(2, width / 3)) && (best === null || off < best.off)) {
        best = { hit: { kind: 'panel-end', shotId: shot.id, panelId: panel.id }, off }
      }
    }
  }
  return best?.hit ?? null
}
