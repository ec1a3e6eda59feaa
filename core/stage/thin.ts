import type { Optics } from '../camera/lens'
import { placedFramings, type PlacedFraming } from '../document/panels'
import type { Framing } from '../document/records'
import type { TakeBody } from '../document/units'
import { joinedSpec } from '../moves/keyed'
import { artDepths, pictureShift } from './pictureShift'
import { createTrack, type CameraTrack } from '../moves/track'

/** What thinning would do to a camera. */
export interface Thinned {
  /** The framings that would go, in time order. */
  readonly remove: readonly Framing[]
  /** The framings that stay and leave in another way, since the one after them goes. */
  readonly change: readonly Framing[]
  /** The farthest that the picture would move at any frame, px of the output. */
  readonly mostPx: number
}

interface Trial {
  readonly shiftFw: number
  /** The framing before, leaving in another way; null where it leaves as it did. */
  readonly before: PlacedFraming | null
}

/**
 * Finds the framings that change nothing: taken out one after the other, the least felt first, while the picture at
 * every frame stays within `tolerancePx` of what it is now. Locked framings stay, and one always does.
 */
export function thinFramings(take: TakeBody, cameraId: string, optics: Optics, tolerancePx: number, outputWidthPx: number): Thinned {
  const original = placedFramings(take, cameraId)
  const whole = createTrack(original, optics)
  const depths = artDepths(take)
  const limit = tolerancePx / outputWidthPx
  const now = [...original]
  const trials = new Map<string, Trial | null>()
  let most = 0
  while (now.length > 1) {
    let best: { readonly at: number; readonly trial: Trial } | null = null
    for (const [at, { framing }] of now.entries()) {
      if (framing.locked) continue
      if (!trials.has(framing.id)) trials.set(framing.id, without(now, at, whole, optics, depths, limit))
      const trial = trials.get(framing.id)!
      if (trial !== null && (best === null || trial.shiftFw < best.trial.shiftFw)) best = { at, trial }
    }
    if (best === null) break
    const { at, trial } = best
    // What was found of a framing holds while those next to it are as they were.
    for (const near of now.slice(Math.max(0, at - REACH), at + REACH + 1)) trials.delete(near.framing.id)
    if (trial.before !== null) now[at - 1] = trial.before
    now.splice(at, 1)
    most = Math.max(most, trial.shiftFw)
  }
  const left = new Map(now.map(({ framing }) => [framing.id, framing]))
  return {
    remove: original.filter(({ framing }) => !left.has(framing.id)).map(({ framing }) => framing),
    change: original.flatMap(({ framing }) => (left.has(framing.id) && left.get(framing.id) !== framing ? [left.get(framing.id)!] : [])),
    mostPx: most * outputWidthPx,
  }
}

/** How far from a framing its going is felt, in framings: a settle may reach over one. */
const REACH = 2

/** Taking a framing out, as it is or with its two moves made one; null where the picture would move past the limit. */
function without(framings: readonly PlacedFraming[], index: number, whole: CameraTrack, optics: Optics, depths: readonly number[], limit: number): Trial | null {
  const rest = framings.filter((_, i) => i !== index)
  const before = framings[index - 1]
  const low = index <= REACH ? whole.framings[0]!.frame : framings[index - REACH]!.frame
  const high = index + REACH >= framings.length ? Math.max(whole.lastMovingFrame, framings.at(-1)!.frame) : framings[index + REACH]!.frame
  const joined = before === undefined || before.framing.locked ? null : { ...before, framing: { ...before.framing, move: joinedSpec(before.framing.move, framings[index]!.framing.move) } }
  let best: Trial | null = null
  for (const changed of joined === null ? [null] : [null, joined]) {
    const track = createTrack(changed === null ? rest : rest.map((entry) => (entry === before ? changed : entry)), optics)
    const shiftFw = mostShift(whole, track, low, Math.ceil(high), optics, depths, best?.shiftFw ?? limit)
    if (shiftFw <= limit && (best === null || shiftFw < best.shiftFw)) best = { shiftFw, before: changed }
  }
  return best
}

function mostShift(a: CameraTrack, b: CameraTrack, from: number, to: number, optics: Optics, depths: readonly number[], limit: number): number {
  let most = 0
  for (let frame = from; frame <= to && most <= limit; frame++) most = Math.max(most, pictureShift(a.poseAt(frame)!, b.poseAt(frame)!, optics, depths, limit))
  return most
}
