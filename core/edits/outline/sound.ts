import { inOrder } from '../../document/order'
import type { Clip, Lane } from '../../document/records'
import { outlineRef, type Outline } from '../../document/units'
import { framesPerSecond, type Rate } from '../../time/rate'
import { Draft } from '../change/draft'
import { made, refused, type Made } from '../change/refusal'

const noLane = (id: string) => refused({ code: 'missing', what: 'lane', id })
const noClip = (id: string) => refused({ code: 'missing', what: 'clip', id })

/** Nothing shorter than this is a clip. */
export const LEAST_CLIP_SECONDS = 0.005

export function addLane(outline: Outline, projectId: string, lane: Omit<Lane, 'order'>): Made {
  const lanes = inOrder(outline.lanes)
  const draft = new Draft(outline)
  const [order] = draft.room('lanes', lanes, lanes.length, 1)
  return made(draft.put('lanes', { ...lane, order: order! }).edit('lane-add', outlineRef(projectId)))
}

export function editLane(outline: Outline, projectId: string, id: string, fields: Partial<Omit<Lane, 'id' | 'order'>>): Made {
  const lane = outline.lanes[id]
  return lane === undefined ? noLane(id) : made(new Draft(outline).put('lanes', { ...lane, ...fields }).edit('lane-edit', outlineRef(projectId)))
}

/** Moves a lane before another, or to the bottom (null). */
export function moveLane(outline: Outline, projectId: string, id: string, beforeId: string | null): Made {
  const lane = outline.lanes[id]
  if (lane === undefined) return noLane(id)
  if (beforeId === id) return made()
  const rest = inOrder(outline.lanes).filter((each) => each.id !== id)
  const at = beforeId === null ? rest.length : rest.findIndex((each) => each.id === beforeId)
  if (at < 0) return noLane(beforeId!)
  const draft = new Draft(outline)
  const [order] = draft.room('lanes', rest, at, 1)
  return made(draft.put('lanes', { ...lane, order: order! }).edit('lane-move', outlineRef(projectId)))
}

/** Takes a lane out with all its clips. */
export function removeLane(outline: Outline, projectId: string, id: string): Made {
  if (outline.lanes[id] === undefined) return noLane(id)
  const draft = new Draft(outline).drop('lanes', id)
  for (const clip of Object.values(outline.clips)) if (clip.laneId === id) draft.drop('clips', clip.id)
  return made(draft.edit('lane-remove', outlineRef(projectId)))
}

export function addClips(outline: Outline, projectId: string, clips: readonly Clip[]): Made {
  const stray = clips.find((clip) => outline.lanes[clip.laneId] === undefined)
  if (stray !== undefined) return noLane(stray.laneId)
  const draft = new Draft(outline)
  for (const clip of clips) draft.put('clips', clip)
  return made(draft.edit('clip-add', outlineRef(projectId)))
}

export function editClip(outline: Outline, projectId: string, id: string, fields: Partial<Omit<Clip, 'id'>>): Made {
  const clip = outline.clips[id]
  if (clip === undefined) return noClip(id)
  if (fields.laneId !== undefined && outline.lanes[fields.laneId] === undefined) return noLane(fields.laneId)
  return made(new Draft(outline).put('clips', { ...clip, ...fields }).edit('clip-edit', outlineRef(projectId)))
}

/** Moves clips by as many frames, and as many lanes down or up (no further than there are any). They stay tied to what they were. */
export function moveClips(outline: Outline, projectId: string, ids: readonly string[], byFrames: number, byLanes: number): Made {
  const lanes = inOrder(outline.lanes).map((lane) => lane.id)
  const draft = new Draft(outline)
  const clips = ids.map((id) => outline.clips[id])
  const rows = clips.map((clip) => lanes.indexOf(clip?.laneId ?? ''))
  const down = Math.max(-Math.min(...rows), Math.min(lanes.length - 1 - Math.max(...rows), byLanes))
  for (const [i, clip] of clips.entries()) {
    if (clip === undefined) return noClip(ids[i]!)
    draft.put('clips', { ...clip, offsetFrames: clip.offsetFrames + byFrames, laneId: lanes[rows[i]! + down] ?? clip.laneId })
  }
  return made(draft.edit('clip-move', outlineRef(projectId)))
}

/** How far an end of a clip may be moved, in frames: out to the recording's own, in to where next to nothing is left. */
export function trimRange(clip: Clip, end: 'start' | 'end', rate: Rate): { readonly least: number; readonly most: number } {
  const fps = framesPerSecond(rate)
  const inward = (clip.lengthSeconds - LEAST_CLIP_SECONDS) * fps
  return end === 'start' ? { least: -clip.fromSeconds * fps, most: inward } : { least: -inward, most: (clip.sourceSeconds - clip.fromSeconds - clip.lengthSeconds) * fps }
}

/** Trims an end of a clip by as many frames, or pulls what was trimmed out again, as far as `trimRange`. */
export function trimClip(outline: Outline, projectId: string, id: string, end: 'start' | 'end', byFrames: number, rate: Rate): Made {
  const clip = outline.clips[id]
  if (clip === undefined) return noClip(id)
  const { least, most } = trimRange(clip, end, rate)
  const by = Math.min(most, Math.max(least, byFrames))
  const seconds = by / framesPerSecond(rate)
  const trimmed = end === 'start' ? { offsetFrames: clip.offsetFrames + by, fromSeconds: Math.max(0, clip.fromSeconds + seconds), lengthSeconds: clip.lengthSeconds - seconds } : { lengthSeconds: clip.lengthSeconds + seconds }
  return editClip(outline, projectId, id, keptInside({ ...clip, ...trimmed }))
}

/** Moves the recording under a clip that stays where it is: later in the film by as many seconds. */
export function slipClip(outline: Outline, projectId: string, id: string, bySeconds: number): Made {
  const clip = outline.clips[id]
  if (clip === undefined) return noClip(id)
  const fromSeconds = Math.min(clip.sourceSeconds - clip.lengthSeconds, Math.max(0, clip.fromSeconds - bySeconds))
  return editClip(outline, projectId, id, { fromSeconds: Math.max(0, fromSeconds) })
}

/** Sums of floats must not lead past the recording, nor fades past the clip. */
function keptInside(clip: Clip): Clip {
  const lengthSeconds = Math.min(clip.lengthSeconds, clip.sourceSeconds - clip.fromSeconds)
  return { ...clip, lengthSeconds, fadeInSeconds: Math.min(clip.fadeInSeconds, lengthSeconds), fadeOutSeconds: Math.min(clip.fadeOutSeconds, lengthSeconds) }
}

/** Splits a clip `atSeconds` after its start, in one edit for several places. The parts keep the recording whole behind them. */
export function splitClip(outline: Outline, projectId: string, id: string, atSeconds: readonly number[], newIds: readonly string[], rate: Rate): Made {
  const clip = outline.clips[id]
  if (clip === undefined) return noClip(id)
  const places = [...atSeconds].sort((a, b) => a - b)
  const bounds = [0, ...places, clip.lengthSeconds]
  if (places.length === 0 || bounds.some((at, i) => i > 0 && at - bounds[i - 1]! < LEAST_CLIP_SECONDS)) return refused({ code: 'clip-not-there' })
  const draft = new Draft(outline)
  const fps = framesPerSecond(rate)
  bounds.slice(0, -1).forEach((from, i) => {
    const lengthSeconds = bounds[i + 1]! - from
    const last = i === bounds.length - 2
    draft.put('clips', {
      ...clip,
      id: i === 0 ? id : newIds[i - 1]!,
      offsetFrames: clip.offsetFrames + from * fps,
      fromSeconds: clip.fromSeconds + from,
      lengthSeconds,
      fadeInSeconds: i === 0 ? Math.min(clip.fadeInSeconds, lengthSeconds) : 0,
      fadeOutSeconds: last ? Math.min(clip.fadeOutSeconds, lengthSeconds) : 0,
    })
  })
  return made(draft.edit('clip-split', outlineRef(projectId)))
}

/** Copies of clips, each right after its own, tied to the same. */
export function duplicateClips(outline: Outline, projectId: string, ids: readonly string[], newIds: readonly string[], rate: Rate): Made {
  const clips = ids.map((id) => outline.clips[id])
  const lost = clips.findIndex((clip) => clip === undefined)
  if (lost >= 0) return noClip(ids[lost]!)
  // To whole frames, and never over the one it is a copy of.
  return addClips(outline, projectId, clips.map((clip, i) => ({ ...clip!, id: newIds[i]!, offsetFrames: Math.ceil(clip!.offsetFrames + clip!.lengthSeconds * framesPerSecond(rate) - 1e-6) })))
}

export function removeClips(outline: Outline, projectId: string, ids: readonly string[]): Made {
  const draft = new Draft(outline)
  for (const id of new Set(ids)) {
    if (outline.clips[id] === undefined) return noClip(id)
    draft.drop('clips', id)
  }
  return made(draft.edit('clip-remove', outlineRef(projectId)))
}

/**
 * Ties clips to a shot, or to the film's start (null). They stay where they are in the film; one from the tray, which is
 * nowhere, keeps its offset from what it is tied to. `startOf` gives a shot's first frame.
 */
export function tieClips(outline: Outline, projectId: string, ids: readonly string[], shotId: string | null, startOf: (shotId: string) => number | null): Made {
  const to = shotId === null ? 0 : startOf(shotId)
  if (to === null) return refused({ code: 'missing', what: 'shot', id: shotId! })
  const draft = new Draft(outline)
  for (const id of ids) {
    const clip = outline.clips[id]
    if (clip === undefined) return noClip(id)
    const from = clip.shotId === null ? 0 : startOf(clip.shotId)
    draft.put('clips', { ...clip, shotId, offsetFrames: from === null ? clip.offsetFrames : clip.offsetFrames + from - to })
  }
  return made(draft.edit('clip-tie', outlineRef(projectId)))
}
