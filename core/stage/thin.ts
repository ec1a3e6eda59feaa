import type { Optics } from '../camera/lens'
import { placedFramings, type PlacedFraming } from '../document/panels'
import type { Framing } from '../document/records'
import type { TakeBody } from '../document/units'
import { joinedSpec } from '../moves/keyed'
import { createCameraTrack, type CameraTrack } from '../moves/cameraTrack'
import { artDepths, createShiftGauge, type ArtReach } from './pictureShift'

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

/** A framing and what was found of its going; `fresh`: nothing next to it has gone since. */
interface Candidate {
  readonly id: string
  shiftFw: number
  fresh: Trial | null
}

/**
 * Finds the framings that change nothing: taken out one after the other, the least felt first, while the picture at
 * every frame stays within `tolerancePx` of what it is now. Locked framings stay, and one always does. `reaches` tells
 * how far levels' art reaches, which matters where they are turned.
 *
 * With each framing that goes, those next to it are felt more, hardly ever less. So what was found of one before is taken
 * for the least it can be, and only the one that seems least felt is looked at again.
 */
export function thinFramings(take: TakeBody, cameraId: string, optics: Optics, tolerancePx: number, outputWidthPx: number, reaches: ReadonlyMap<string, ArtReach> = new Map()): Thinned {
  const original = placedFramings(take, cameraId)
  const whole = createCameraTrack(original, optics)
  const gauge = createShiftGauge((frame) => whole.at(frame)!, optics, artDepths(take, reaches))
  const limit = tolerancePx / outputWidthPx
  const now = [...original]
  const candidates = new Map<string, Candidate>(original.flatMap(({ framing }) => (framing.locked ? [] : [[framing.id, { id: framing.id, shiftFw: 0, fresh: null }]])))
  let most = 0
  while (now.length > 1 && candidates.size > 0) {
    let best: Candidate | null = null
    for (const each of candidates.values()) if (best === null || each.shiftFw < best.shiftFw) best = each
    const at = now.findIndex(({ framing }) => framing.id === best!.id)
    if (best!.fresh === null) {
      const trial = without(now, at, whole, optics, gauge, limit)
      if (trial === null) candidates.delete(best!.id)
      else Object.assign(best!, { fresh: trial, shiftFw: Math.max(best!.shiftFw, trial.shiftFw) })
      continue
    }
    const { shiftFw, before } = best!.fresh
    candidates.delete(best!.id)
    for (const { framing } of now.slice(Math.max(0, at - REACH), at + REACH + 1)) {
      const near = candidates.get(framing.id)
      if (near !== undefined) near.fresh = null
    }
    if (before !== null) now[at - 1] = before
    now.splice(at, 1)
    most = Math.max(most, shiftFw)
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
/** As many more on either side tell where the moves there begin. */
const AROUND = 2 * REACH

type Gauge = ReturnType<typeof createShiftGauge>

/** Taking a framing out, as it is or with its two moves made one; null where the picture would move past the limit. */
function without(framings: readonly PlacedFraming[], index: number, whole: CameraTrack, optics: Optics, gauge: Gauge, limit: number): Trial | null {
  const from = Math.max(0, index - AROUND)
  const rest = framings.slice(from, index + AROUND + 1).filter((_, i) => i !== index - from)
  const before = framings[index - 1]
  const low = index <= REACH ? whole.framings[0]!.frame : framings[index - REACH]!.frame
  const high = index + REACH >= framings.length ? Math.max(whole.lastMovingFrame, framings.at(-1)!.frame) : framings[index + REACH]!.frame
  const joined = before === undefined || before.framing.locked ? null : { ...before, framing: { ...before.framing, move: joinedSpec(before.framing.move, framings[index]!.framing.move) } }
  let best: Trial | null = null
  for (const changed of joined === null ? [null] : [null, joined]) {
    const track = createCameraTrack(changed === null ? rest : rest.map((entry) => (entry === before ? changed : entry)), optics)
    const shiftFw = mostShift(gauge, track, low, Math.ceil(high), best?.shiftFw ?? limit)
    if (shiftFw <= limit && (best === null || shiftFw < best.shiftFw)) best = { shiftFw, before: changed }
  }
  return best
}

/** Frames this far apart are looked at first: what goes past the limit mostly does so for a while. */
const STRIDE = 16

function mostShift(gauge: Gauge, track: CameraTrack, from: number, to: number, limit: number): number {
  let most = 0
  for (let offset = STRIDE >> 1; most <= limit; offset = (offset + 1) % STRIDE) {
    for (let frame = from + offset; frame <= to && most <= limit; frame += STRIDE) most = Math.max(most, gauge(frame, track.at(frame)!, limit))
    if (offset === (STRIDE >> 1) - 1) break
  }
  return most
}
