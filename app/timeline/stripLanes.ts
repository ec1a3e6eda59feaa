import { heightWithLanes } from './stripRows'
import type { StripClip, StripLane, StripScene } from './stripScene'

/** The height of a strip with the lanes of a scene, px. */
export const heightOf = (scene: Pick<StripScene, 'lanes' | 'rows'>) => heightWithLanes(scene.rows, scene.lanes.reduce((sum, lane) => sum + lane.height, 0))

export const laneAt = (scene: Pick<StripScene, 'lanes'>, y: number): StripLane | null => scene.lanes.find((lane) => y >= lane.top && y < lane.top + lane.height) ?? null

/** The clip that lies on top of a lane at a frame: of those that overlap the one that begins last. */
export function clipAt(lane: StripLane, frame: number): StripClip | null {
  return lane.clips.findLast((clip) => frame >= clip.startFrame && frame < clip.endFrame) ?? null
}
