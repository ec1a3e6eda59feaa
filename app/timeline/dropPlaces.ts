import type { StripScene } from './stripScene'

/** Where carried panels would be put down: before a panel of a take, or at its end (null). */
export interface PanelDrop {
  readonly takeId: string
  readonly beforeId: string | null
  /** The film's frame there. */
  readonly frame: number
}

/** Where carried shots would be put down. */
export interface ShotDrop {
  readonly sequenceShotId: string
  /** Before the shot or after it. */
  readonly after: boolean
  readonly frame: number
}

/** The place between two panels that a frame is nearest to; null beside what is loaded. */
export function panelDropAt(scene: StripScene, frame: number): PanelDrop | null {
  const shot = scene.shots.find((entry) => frame >= entry.startFrame && frame < entry.startFrame + entry.lengthFrames) ?? (frame >= scene.lengthFrames ? scene.shots.at(-1) : undefined)
  const panels = shot?.body?.panels
  if (shot === undefined || panels === undefined) return null
  const at = panels.find((panel) => frame - shot.startFrame < panel.startFrame + panel.lengthFrames / 2)
  return { takeId: shot.takeId, beforeId: at?.id ?? null, frame: shot.startFrame + (at?.startFrame ?? shot.lengthFrames) }
}

/** The place between two shots that a frame is nearest to. */
export function shotDropAt(scene: StripScene, frame: number): ShotDrop | null {
  const shot = scene.shots.find((entry) => frame < entry.startFrame + entry.lengthFrames) ?? scene.shots.at(-1)
  if (shot === undefined) return null
  const after = frame >= shot.startFrame + shot.lengthFrames / 2
  return { sequenceShotId: shot.id, after, frame: shot.startFrame + (after ? shot.lengthFrames : 0) }
}
