import type { StripScene } from './stripScene'

/** How near an edge must come, px. */
const SNAP_PX = 7

export interface Snapped {
  readonly frame: number
  /** What it snapped to; null where nothing was near. */
  readonly to: number | null
}

/**
 * The candidate nearest to a frame, where one is near enough on the screen; of two as near, the earlier. Sound begins and ends
 * between frames: unless `whole` is off, what snaps to it goes to the nearest frame.
 */
export function snapped(frame: number, candidates: readonly number[], pxPerFrame: number, whole = true): Snapped {
  let best: number | null = null
  for (const candidate of candidates) {
    const off = Math.abs(candidate - frame)
    if (off * pxPerFrame > SNAP_PX) continue
    const least = best === null ? Infinity : Math.abs(best - frame)
    if (off < least || (off === least && candidate < best!)) best = candidate
  }
  return best === null ? { frame: Math.round(frame), to: null } : { frame: whole ? Math.round(best) : best, to: best }
}

export interface SnapWishes {
  readonly playhead: number
  /** What is dragged does not snap to itself. */
  readonly not: number
  /** Only what lies up to here stays where it is while something is dragged. */
  readonly upTo?: number
  /** Clips that move along. */
  readonly without?: ReadonlySet<string>
}

/** The frames that things on the strip stand at: panels' and shots' edges, keys, clips, marks, the range, the playhead. */
export function snapPlaces(scene: StripScene, { playhead, not, upTo = Infinity, without }: SnapWishes): number[] {
  const places = new Set<number>()
  for (const shot of scene.shots) {
    places.add(shot.startFrame).add(shot.startFrame + shot.lengthFrames)
    for (const panel of shot.body?.panels ?? []) places.add(shot.startFrame + panel.startFrame)
    for (const bead of shot.body?.beads ?? []) places.add(shot.startFrame + bead.frame)
    for (const key of shot.body?.keys ?? []) places.add(shot.startFrame + key.frame)
  }
  for (const mark of scene.marks) places.add(mark.frame)
  for (const lane of scene.lanes) for (const clip of lane.clips) if (without?.has(clip.id) !== true) places.add(clip.startFrame).add(clip.endFrame)
  if (scene.range !== null) places.add(scene.range.start).add(scene.range.end)
  const still = [...places].filter((frame) => frame <= upTo)
  return [...new Set([...still, playhead])].filter((frame) => frame !== not)
}
