import { RULER, rowAt } from './stripRows'
import { frameOfX, xOfFrame, type StripScale } from './stripScale'
import type { StripScene } from './stripScene'

export type StripHit =
  | { readonly kind: 'ruler'; readonly frame: number }
  | { readonly kind: 'mark'; readonly markId: string; readonly frame: number }
  | { readonly kind: 'range-end'; readonly which: 'in' | 'out'; readonly frame: number }
  | { readonly kind: 'shot'; readonly shotId: string; readonly frame: number }
  | { readonly kind: 'shot-end'; readonly shotId: string }
  | { readonly kind: 'panel'; readonly shotId: string; readonly takeId: string; readonly panelId: string; readonly startFrame: number }
  | { readonly kind: 'panel-end'; readonly shotId: string; readonly takeId: string; readonly panelId: string }
  | { readonly kind: 'bead'; readonly shotId: string; readonly framingId: string }
  | { readonly kind: 'camera'; readonly shotId: string; readonly frame: number }

/** Half the width in which an edge is grabbed, px; less on panels too narrow to have an inside. */
const EDGE_PX = 5
const BEAD_PX = 12
const MARK_PX = 7

/** What is under a point of the strip; null beside the film. */
export function hitStrip(scene: StripScene, scale: StripScale, x: number, y: number): StripHit | null {
  const row = rowAt(y)
  const frame = frameOfX(scale, x)
  if (row === 'ruler') return (y >= RULER.figuresPx ? markAt(scene, scale, x) : rangeEndAt(scene, scale, x)) ?? { kind: 'ruler', frame }
  if (row === 'camera') {
    const bead = nearestBead(scene, scale, x)
    if (bead !== null) return bead
  }
  if (row === 'panels') {
    const end = nearestEnd(scene, scale, x)
    if (end !== null) return end
  }
  if (row === 'shots') {
    const end = nearest(scene.shots, (shot) => shot.startFrame + shot.lengthFrames, scale, x, (shot) => reachOf(shot.lengthFrames * scale.pxPerFrame))
    if (end !== null) return { kind: 'shot-end', shotId: end.id }
  }
  const shot = scene.shots.find((entry) => frame >= entry.startFrame && frame < entry.startFrame + entry.lengthFrames)
  if (shot === undefined || row === null) return null
  if (row === 'shots') return { kind: 'shot', shotId: shot.id, frame }
  if (row === 'camera') return { kind: 'camera', shotId: shot.id, frame }
  const panel = shot.body?.panels.find((entry) => frame - shot.startFrame >= entry.startFrame && frame - shot.startFrame < entry.startFrame + entry.lengthFrames)
  return panel === undefined ? null : { kind: 'panel', shotId: shot.id, takeId: shot.takeId, panelId: panel.id, startFrame: shot.startFrame + panel.startFrame }
}

const reachOf = (widthPx: number) => Math.min(EDGE_PX, Math.max(2, widthPx / 3))

/** The thing whose frame is nearest to x, if it is within reach. */
function nearest<T>(things: readonly T[], frameOf: (thing: T) => number, scale: StripScale, x: number, reachPx: (thing: T) => number): T | null {
  let best: { readonly thing: T; readonly off: number } | null = null
  for (const thing of things) {
    const off = Math.abs(xOfFrame(scale, frameOf(thing)) - x)
    if (off <= reachPx(thing) && (best === null || off < best.off)) best = { thing, off }
  }
  return best?.thing ?? null
}

function markAt(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  const mark = nearest(scene.marks, (each) => each.frame, scale, x, () => MARK_PX)
  return mark === null ? null : { kind: 'mark', markId: mark.id, frame: mark.frame }
}

function rangeEndAt(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  if (scene.range === null) return null
  const ends = [{ which: 'in' as const, frame: scene.range.start }, { which: 'out' as const, frame: scene.range.end }]
  const end = nearest(ends, (each) => each.frame, scale, x, () => EDGE_PX)
  return end === null ? null : { kind: 'range-end', ...end }
}

function nearestBead(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  const beads = scene.shots.flatMap((shot) => (shot.body?.beads ?? []).map((bead) => ({ shotId: shot.id, framingId: bead.id, frame: shot.startFrame + bead.frame })))
  const bead = nearest(beads, (each) => each.frame, scale, x, () => BEAD_PX)
  return bead === null ? null : { kind: 'bead', shotId: bead.shotId, framingId: bead.framingId }
}

function nearestEnd(scene: StripScene, scale: StripScale, x: number): StripHit | null {
  const ends = scene.shots.flatMap((shot) =>
    (shot.body?.panels ?? []).map((panel) => ({ shotId: shot.id, takeId: shot.takeId, panelId: panel.id, frame: shot.startFrame + panel.startFrame + panel.lengthFrames, widthPx: panel.lengthFrames * scale.pxPerFrame })),
  )
  const end = nearest(ends, (each) => each.frame, scale, x, (each) => reachOf(each.widthPx))
  return end === null ? null : { kind: 'panel-end', shotId: end.shotId, takeId: end.takeId, panelId: end.panelId }
}
