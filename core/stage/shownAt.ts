import type { PlacedShot } from './placedShot'
import type { MixLook, Shown, ShownMix } from './shown'
import type { TakeStage } from './takeStage'
import { transitionAt, transitionShare, type PlacedTransition } from './transitions'

/** The stage of a take; null where it is not loaded. */
export type StageOf = (takeId: string) => TakeStage | null

/** From camera to camera inside a shot. */
const CAMERA_DISSOLVE: MixLook = Object.freeze({ at: 'cut', kind: 'dissolve', angleDegrees: 0, softness: 0, colour: '#000000' })

/** What a take shows at a frame of its shot: its live camera's view, or while one dissolves into the next both. */
export function shownInTake(takeId: string, frame: number, stage: Pick<TakeStage, 'live' | 'lengthFrames'> | null): Shown {
  const view = (cameraId: string | null) => ({ kind: 'view', takeId, frame, cameraId }) as const
  if (stage === null) return view(null)
  const held = Math.min(Math.max(0, stage.lengthFrames - 1), Math.max(0, frame))
  const dissolve = stage.live.dissolveAt(held)
  if (dissolve === null) return view(stage.live.at(held))
  const share = (held - dissolve.from + 1) / (dissolve.to - dissolve.from + 1)
  return { kind: 'mix', look: CAMERA_DISSOLVE, share, before: view(dissolve.before), after: view(dissolve.after) }
}

const shownInShot = ({ shot, startFrame }: PlacedShot, frame: number, stageOf: StageOf) => shownInTake(shot.circledTakeId, frame - startFrame, stageOf(shot.circledTakeId))

/** What a transition shows at a frame of the film. */
export function shownInTransition(at: PlacedTransition, frame: number, stageOf: StageOf): ShownMix {
  const side = (placed: PlacedShot | null) => (placed === null ? null : shownInShot(placed, frame, stageOf))
  return { kind: 'mix', look: at.transition, share: transitionShare(at, frame), before: side(at.before), after: side(at.after) }
}

/** What is on the screen at a frame of the film, `placed` being the shot whose time it is; null where there is none. */
export function shownInFilm(transitions: readonly PlacedTransition[], placed: PlacedShot | null, frame: number, stageOf: StageOf): Shown | null {
  const at = transitionAt(transitions, frame)
  if (at !== null) return shownInTransition(at, frame, stageOf)
  return placed === null ? null : shownInShot(placed, frame, stageOf)
}
