import type { CameraPose } from '../../camera/pose'
import { anchorOfFrame, placedFramings, takeLengthFrames, type PlacedFraming } from '../../document/panels'
import type { Framing, Preset } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { length, type Point3 } from '../../geometry/point'
import { handlesOf, oppositeHandle, smoothHandles } from '../../moves/bend'
import { spacedFrames, withCushionsScaled, type Keyed } from '../../moves/keyed'
import { looseMove } from '../../moves/excerpt'
import { CUSHIONED_MOVE, type MoveSpec } from '../../moves/move'
import { framingBegins } from '../../moves/cameraTrack'
import type { Path } from '../../moves/path'
import { Draft, withFields } from '../change/draft'
import { tidyLoose } from './cameraSpans'
import { divideMove, keyFraming } from './framings'
import { made, refused, type Made } from '../change/refusal'

const STILL: MoveSpec = { timing: { kind: 'even' }, path: { kind: 'straight' }, evenness: { kind: 'set' } }

function lockedCamera(take: TakeBody, cameraId: string) {
  const camera = take.cameras[cameraId]
  if (camera === undefined) return refused({ code: 'missing', what: 'camera', id: cameraId })
  return camera.locked ? refused({ code: 'camera-locked', id: cameraId }) : null
}

export function lockCamera(take: TakeBody, takeId: string, cameraId: string, locked: boolean): Made {
  const camera = take.cameras[cameraId]
  if (camera === undefined) return refused({ code: 'missing', what: 'camera', id: cameraId })
  return made(new Draft(take).put('cameras', { ...camera, locked }).edit('camera-lock', takeRef(takeId)))
}

/**
 * Puts framings into a shot, the first at `atFrame`. What the camera had between the first and the last of them goes;
 * before and after it keeps what it had. Refused where the last would fall past the shot's end, or where a locked
 * framing would go.
 */
export function putMove(take: TakeBody, takeId: string, cameraId: string, framings: readonly Keyed<CameraPose>[], atFrame: number, newId: () => string): Made {
  const refusal = lockedCamera(take, cameraId)
  if (refusal !== null) return refusal
  const last = framings.at(-1)
  if (last === undefined) return refused({ code: 'nothing-to-paste' })
  const lengthFrames = takeLengthFrames(take)
  if (atFrame < 0 || atFrame + last.frame > lengthFrames - 1) return refused({ code: 'move-too-long', asked: last.frame + 1, most: Math.max(0, lengthFrames - atFrame) })
  const draft = new Draft(take)
  const here = placedFramings(take, cameraId).filter(({ frame }) => frame >= atFrame && frame <= atFrame + last.frame)
  const locked = here.find(({ framing }) => framing.locked)
  if (locked !== undefined) return refused({ code: 'framing-locked', id: locked.framing.id })
  for (const { framing } of here) draft.drop('framings', framing.id)
  // The way on from the last one is what it was from there.
  const onward = here.at(-1)?.framing.move
  framings.forEach((each, i) => {
    const anchor = anchorOfFrame(take, atFrame + each.frame)!
    const id = here.find(({ frame }) => frame === atFrame + each.frame)?.framing.id ?? newId()
    draft.put('framings', withFields({ id, cameraId, ...anchor, pose: each.value, move: i === framings.length - 1 ? (onward ?? each.move) : each.move, locked: false } as Framing, { smooth: each.smooth }))
  })
  return made(tidyLoose(draft, take).edit('move-put', takeRef(takeId)))
}

/**
 * Copies what the camera shows at a frame to a later one, to be altered there. Where the first has no framing yet it gets
 * one, so that the picture stays until then.
 */
export function copyFramingTo(take: TakeBody, takeId: string, cameraId: string, fromFrame: number, pose: CameraPose, toFrame: number, newId: () => string): Made {
  const refusal = lockedCamera(take, cameraId)
  if (refusal !== null) return refusal
  if (toFrame <= fromFrame) return refused({ code: 'nothing-after', what: 'frame' })
  const placed = placedFramings(take, cameraId)
  const there = placed.find(({ frame }) => frame === toFrame)
  if (there?.framing.locked === true) return refused({ code: 'framing-locked', id: there.framing.id })
  const [from, to] = [anchorOfFrame(take, fromFrame), anchorOfFrame(take, toFrame)]
  if (from === null || to === null) return refused({ code: 'missing', what: 'panel', id: '' })
  const draft = new Draft(take)
  const here = placed.find(({ frame }) => frame === fromFrame)
  if (here === undefined) {
    const move = divideMove(draft, placed, fromFrame)
    if ('ok' in move) return move
    const between = placed.some(({ frame }) => frame > fromFrame && frame < toFrame)
    draft.put('framings', { id: newId(), cameraId, ...from, pose, move: between ? move : looseMove(move), locked: false })
  } else if (here === placed.at(-1)) draft.put('framings', { ...here.framing, move: looseMove(here.framing.move) })
  draft.put('framings', { ...(there?.framing ?? { id: newId(), cameraId, locked: false, move: CUSHIONED_MOVE }), ...to, pose })
  return made(draft.edit('framing-copy', takeRef(takeId)))
}

/**
 * Keeps the camera at rest from the framing before a frame until that frame; then it makes the move that it made, in the
 * time that is left. What comes after is as it was.
 */
export function holdUntil(take: TakeBody, takeId: string, cameraId: string, frame: number, newId: string): Made {
  const refusal = lockedCamera(take, cameraId)
  if (refusal !== null) return refusal
  const placed = placedFramings(take, cameraId)
  const index = placed.findLastIndex((entry) => entry.frame < frame)
  const [from, next] = [placed[index], placed[index + 1]]
  if (from === undefined || next === undefined || next.frame <= frame) return refused({ code: 'nothing-to-hold' })
  if (from.framing.locked) return refused({ code: 'framing-locked', id: from.framing.id })
  const restsAt = framingBegins(placed).begins[index]!
  if (restsAt > from.frame && frame < restsAt + 1) return refused({ code: 'still-settling', restsAtFrame: Math.ceil(restsAt) + 1 })
  const anchor = anchorOfFrame(take, frame)!
  return made(
    new Draft(take)
      .put('framings', { ...from.framing, move: STILL })
      .put('framings', { id: newId, cameraId, ...anchor, pose: from.framing.pose, move: from.framing.move, locked: false })
      .edit('framing-hold', takeRef(takeId)),
  )
}

export type FramingsInTime = { readonly kind: 'shift'; readonly byFrames: number } | { readonly kind: 'scale'; readonly aboutFrame: number; readonly factor: number }

/**
 * Moves framings in time together, or scales their times about a frame. They stay between their neighbours and inside the
 * shot, each on a frame of its own. Cushions of a move that is scaled scale with it; else they stay as many frames.
 */
export function retimeFramings(take: TakeBody, takeId: string, cameraId: string, ids: readonly string[], how: FramingsInTime): Made {
  const refusal = lockedCamera(take, cameraId)
  if (refusal !== null) return refusal
  const placed = placedFramings(take, cameraId)
  const chosen = new Set(ids)
  const missing = ids.find((id) => !placed.some(({ framing }) => framing.id === id))
  if (missing !== undefined) return refused({ code: 'missing', what: 'framing', id: missing })
  const locked = placed.find(({ framing }) => chosen.has(framing.id) && framing.locked)
  if (locked !== undefined) return refused({ code: 'framing-locked', id: locked.framing.id })
  const runs = runsOf(placed, chosen, takeLengthFrames(take))
  const frames = new Map<string, number>()
  if (how.kind === 'shift') {
    let by = Math.round(how.byFrames)
    for (const { entries, low, high } of runs) by = Math.min(high - entries.at(-1)!.frame, Math.max(low - entries[0]!.frame, by))
    for (const { entries } of runs) for (const { framing, frame } of entries) frames.set(framing.id, frame + by)
  } else {
    for (const { entries, low, high } of runs) {
      const wanted = entries.map(({ frame }) => how.aboutFrame + (frame - how.aboutFrame) * how.factor)
      // Turned about, time would run back: it stops at the closest that they can stand.
      const ordered = how.factor < 0 ? wanted.map(() => how.aboutFrame) : wanted
      spacedFrames(ordered, low, high).forEach((frame, i) => frames.set(entries[i]!.framing.id, frame))
    }
  }
  const draft = new Draft(take)
  placed.forEach(({ framing, frame }, i) => {
    const now = frames.get(framing.id)
    if (now === undefined) return
    const next = placed[i + 1]
    const after = next === undefined ? undefined : frames.get(next.framing.id)
    const ratio = how.kind === 'scale' && next !== undefined && after !== undefined && next.frame > frame ? (after - now) / (next.frame - frame) : 1
    draft.put('framings', { ...framing, ...anchorOfFrame(take, now)!, move: withCushionsScaled(framing.move, ratio) })
  })
  return made(tidyLoose(draft, take).edit('framings-retime', takeRef(takeId)))
}

interface Run {
  readonly entries: PlacedFraming[]
  readonly low: number
  readonly high: number
}

/** Neighbouring framings that go together, with the first and last frame that they may stand on. */
function runsOf(placed: readonly PlacedFraming[], chosen: ReadonlySet<string>, lengthFrames: number): readonly Run[] {
  const runs: Run[] = []
  for (let i = 0; i < placed.length; i++) {
    if (!chosen.has(placed[i]!.framing.id)) continue
    const start = i
    while (i + 1 < placed.length && chosen.has(placed[i + 1]!.framing.id)) i++
    runs.push({ entries: placed.slice(start, i + 1), low: (placed[start - 1]?.frame ?? -1) + 1, high: (placed[i + 1]?.frame ?? lengthFrames) - 1 })
  }
  return runs
}

/**
 * Bends the path of the move that leaves a framing, by the handle at one of its ends (an offset from that end's place,
 * fw). At a smooth framing the handle on its other side stays in line.
 */
export function bendMove(take: TakeBody, takeId: string, framingId: string, end: 'leave' | 'arrive', handle: Point3): Made {
  const found = moveOf(take, framingId)
  if ('ok' in found) return found
  const { placed, index, from, to } = found
  const path: Path = { ...handlesOf(from.pose, to.pose, from.move.path), kind: 'bent', [end]: handle }
  const draft = new Draft(take).put('framings', { ...from, move: { ...from.move, path } })
  const joint = end === 'leave' ? from : to
  const other = end === 'leave' ? placed[index - 1]?.framing : to
  // The framing whose move has the handle on the joint's other side.
  if (joint.smooth === true && other?.move.path.kind === 'bent' && (end === 'leave' || placed[index + 2] !== undefined)) {
    if (other.locked) return refused({ code: 'framing-locked', id: other.id })
    const side = end === 'leave' ? 'arrive' : 'leave'
    const turned = { ...other.move.path, [side]: oppositeHandle(handle, length(other.move.path[side])) }
    draft.put('framings', { ...other, move: { ...other.move, path: turned } })
  }
  return made(draft.edit('move-bend', takeRef(takeId)))
}

/** Gives the move that leaves a framing another path. */
export function setPath(take: TakeBody, takeId: string, framingId: string, path: Path): Made {
  const found = moveOf(take, framingId)
  if ('ok' in found) return found
  return made(new Draft(take).put('framings', { ...found.from, move: { ...found.from.move, path } }).edit('move-bend', takeRef(takeId)))
}

/** Takes the corner out of the path at a framing, or puts it back. Smooth, the moves on both sides are bent along one line. */
export function smoothFraming(take: TakeBody, takeId: string, framingId: string, smooth: boolean): Made {
  const framing = take.framings[framingId]
  if (framing === undefined) return refused({ code: 'missing', what: 'framing', id: framingId })
  const refusal = lockedCamera(take, framing.cameraId)
  if (refusal !== null) return refusal
  if (framing.locked) return refused({ code: 'framing-locked', id: framingId })
  const placed = placedFramings(take, framing.cameraId)
  const index = placed.findIndex((entry) => entry.framing.id === framingId)
  const [before, after] = [placed[index - 1]?.framing, placed[index + 1]?.framing]
  const draft = new Draft(take)
  let own = withFields(framing, { smooth: smooth ? true : undefined })
  if (smooth && before !== undefined && after !== undefined) {
    if (before.locked) return refused({ code: 'framing-locked', id: before.id })
    const handles = smoothHandles(before.pose, framing.pose, after.pose)
    draft.put('framings', { ...before, move: { ...before.move, path: { ...handlesOf(before.pose, framing.pose, before.move.path), kind: 'bent', arrive: handles.arrive } } })
    own = { ...own, move: { ...own.move, path: { ...handlesOf(framing.pose, after.pose, own.move.path), kind: 'bent', leave: handles.leave } } }
  }
  return made(draft.put('framings', own).edit('framing-smooth', takeRef(takeId)))
}

function moveOf(take: TakeBody, framingId: string): Made | { readonly placed: readonly PlacedFraming[]; readonly index: number; readonly from: Framing; readonly to: Framing } {
  const from = take.framings[framingId]
  if (from === undefined) return refused({ code: 'missing', what: 'framing', id: framingId })
  const refusal = lockedCamera(take, from.cameraId)
  if (refusal !== null) return refusal
  const placed = placedFramings(take, from.cameraId)
  const index = placed.findIndex((entry) => entry.framing.id === framingId)
  const to = placed[index + 1]?.framing
  if (to === undefined) return refused({ code: 'nothing-after', what: 'framing' })
  if (from.locked) return refused({ code: 'framing-locked', id: from.id })
  return { placed, index, from, to }
}

/** Takes out what thinning found, and lets the framings before leave as it found. */
export function applyThinned(take: TakeBody, takeId: string, thinned: { readonly remove: readonly Framing[]; readonly change: readonly Framing[] }): Made {
  const draft = new Draft(take)
  for (const framing of [...thinned.remove, ...thinned.change]) {
    if (take.framings[framing.id] === undefined) return refused({ code: 'missing', what: 'framing', id: framing.id })
    const refusal = lockedCamera(take, framing.cameraId)
    if (refusal !== null) return refusal
  }
  for (const framing of thinned.remove) draft.drop('framings', framing.id)
  for (const framing of thinned.change) draft.put('framings', framing)
  return made(draft.edit('framings-thin', takeRef(takeId)))
}

/** Keys a framing that counter-zooms: the moves on both its sides keep the plane's size all the way. */
export function keyCounterZoom(take: TakeBody, takeId: string, cameraId: string, frame: number, pose: CameraPose, planeDepth: number, newId: string): Made {
  const keyed = keyFraming(take, takeId, cameraId, frame, pose, newId)
  if (!keyed.ok) return keyed
  const draft = new Draft(take)
  const placed = placedFramings(take, cameraId)
  const evenness = { kind: 'screen', subjectDepth: planeDepth } as const
  const even = (framing: Framing): Framing => ({ ...framing, move: { ...framing.move, path: { kind: 'straight' }, evenness } })
  const before = placed.filter((entry) => entry.frame < frame).at(-1)
  if (before?.framing.locked === true && !isEvenAt(before.framing.move, planeDepth)) return refused({ code: 'framing-locked', id: before.framing.id })
  if (before !== undefined && !before.framing.locked) draft.put('framings', even(before.framing))
  for (const edit of keyed.edits) for (const { after } of Object.values(edit.changes.framings ?? {})) if (after !== null) draft.put('framings', even(after as unknown as Framing))
  return made(draft.edit('framing-key', takeRef(takeId)))
}

/** Whether a move keeps a plane's size as a counter-zoom does. */
function isEvenAt({ path, evenness }: MoveSpec, planeDepth: number): boolean {
  return path.kind === 'straight' && evenness.kind === 'screen' && evenness.subjectDepth === planeDepth
}

/** The room a framing's settle has, frames; Infinity for the last. */
export function settleRoom(take: TakeBody, framingId: string): number {
  const framing = take.framings[framingId]
  if (framing === undefined) return 0
  const placed = placedFramings(take, framing.cameraId)
  const index = placed.findIndex((entry) => entry.framing.id === framingId)
  const [to, next] = [placed[index + 1], placed[index + 2]]
  return to === undefined ? 0 : next === undefined ? Infinity : next.frame - to.frame - 1
}

/** Keeps a framing on a number key, in the place of what was there. */
export function setPreset(take: TakeBody, takeId: string, preset: Preset): Made {
  return made(new Draft(take).put('presets', preset).edit('preset-set', takeRef(takeId)))
}

export function removePreset(take: TakeBody, takeId: string, id: string): Made {
  if (take.presets[id] === undefined) return refused({ code: 'missing', what: 'preset', id })
  return made(new Draft(take).drop('presets', id).edit('preset-remove', takeRef(takeId)))
}

/** A camera's framings as a move to be carried elsewhere; `ids` of those meant, or all. */
export function copyMove(take: TakeBody, cameraId: string, ids: readonly string[] | null): readonly Keyed<CameraPose>[] {
  const placed = placedFramings(take, cameraId).filter(({ framing }) => ids === null || ids.includes(framing.id))
  const first = placed[0]?.frame ?? 0
  return placed.map(({ framing: { pose, move, smooth }, frame }) => ({ frame: frame - first, value: pose, move, ...(smooth === undefined ? {} : { smooth }) }))
}

