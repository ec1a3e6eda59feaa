import type { Drawing, TakeBody } from '@rubato/core/document'
import { createTakeStage, frameSignature, mapShown, shownInTake, shownInTransition, shownSignature, type PlacedShot, type PlacedTransition, type Shown, type TakeStage } from '@rubato/core/stage'
import type { Optics } from '@rubato/core/camera'
import { serialOf } from './artSender'
import type { WantedFrames } from './messages'
import type { PaintedView } from './thumbPainter'

/** Finished pictures, and which frames show them. Frames that look alike share one, whichever shot or edit they come from. */
export interface FrameStore {
  /** Takes in a take's body; of frames that still show the same, the pictures stay. */
  putTake(takeId: string, serial: number, take: TakeBody): void
  /** Takes in a transition, under an id of its own: both its takes must be here. False where one is not. */
  putMix(mixId: string, serial: number, at: PlacedTransition): boolean
  /** What is wanted, in the order it is wanted. Pictures of it are let go last. */
  plan(parts: readonly WantedFrames[]): void
  /** Told when a drawing has changed: what frames show is worked out anew with the next plan. */
  drawingChanged(): void
  /** The next wanted frame that has no picture; null when all have, or there is no more room. */
  next(): FrameJob | null
  /** Keeps a picture. False where it has no room. */
  keep(job: FrameJob, picture: Blob): boolean
  /** The picture of a frame, if it is finished and of this very body. */
  pictureOf(takeId: string, serial: number, frame: number): Blob | null
  coverage(takeId: string): { readonly serial: number; readonly ready: Uint8Array } | null
  /** Lets all pictures go, as those of another view. */
  clear(): void
  readonly bytes: number
  readonly pictures: number
  readonly full: boolean
  /** True when a plan has come that `next` has not been asked about. */
  readonly pending: boolean
  readonly takeIds: readonly string[]
}

export interface FrameJob {
  readonly takeId: string
  readonly frame: number
  readonly key: string
  readonly shown: Shown<PaintedView>
}

interface TakeTrack {
  readonly kind: 'take'
  readonly takeId: string
  readonly serial: number
  readonly take: TakeBody
  readonly stage: TakeStage
  readonly lengthFrames: number
  muted: ReadonlySet<string>
  /** What each frame shows, worked out when first asked for. */
  keys: (string | undefined)[]
}
/** The frames of a transition, from its first; made of those of its shots' takes. */
interface MixTrack {
  readonly kind: 'mix'
  readonly serial: number
  readonly at: PlacedTransition
  readonly before: TakeTrack | null
  readonly after: TakeTrack | null
  readonly lengthFrames: number
  muted: ReadonlySet<string>
  keys: (string | undefined)[]
}
type Track = TakeTrack | MixTrack

export function createFrameStore(optics: Optics, budgetBytes: number, drawingOf: (id: string) => Drawing | null): FrameStore {
  const tracks = new Map<string, Track>()
  // In the order they were last wanted or kept.
  const kept = new Map<string, Blob>()
  let parts: readonly WantedFrames[] = []
  let at = { part: 0, frame: -1 }
  /** Given out and not kept yet. */
  const given = new Set<string>()
  let bytes = 0
  let full = false
  let pending = false
  let drawingsStale = false

  const nameOf = (id: string) => {
    const drawing = drawingOf(id)
    return drawing === null ? 'none' : serialOf(drawing)
  }

  /** What a frame of a track shows, with what its views are painted from. */
  function shownOf(track: Track, frame: number): Shown<PaintedView & { readonly stage: TakeStage }> {
    if (track.kind === 'take') return mapShown(shownInTake('', frame, track.stage), (view) => ({ ...view, take: track.take, stage: track.stage, muted: track.muted }))
    const sides = new Map([track.before, track.after].flatMap((side) => (side === null ? [] : [[side.takeId, side]])))
    const shown = shownInTransition(track.at, track.at.from + frame, (takeId) => sides.get(takeId)?.stage ?? null)
    return mapShown(shown, (view) => {
      const { take, stage, muted } = sides.get(view.takeId)!
      return { ...view, take, stage, muted }
    })
  }

  function keyOf(track: Track, frame: number): string {
    return (track.keys[frame] ??= shownSignature(shownOf(track, frame), ({ stage, frame: at, cameraId, muted }) => frameSignature(stage.through(at, cameraId), nameOf, muted)))
  }

  /** Room is made by letting go what is not wanted now, then what is wanted last, but nothing that is wanted sooner. */
  function makeRoom(wanted: number, before: string): boolean {
    if (bytes + wanted <= budgetBytes) return true
    const order: string[] = []
    for (const part of parts) {
      const track = tracks.get(part.takeId)
      if (track?.serial === part.serial) for (let frame = part.from; frame < Math.min(part.to, track.lengthFrames); frame++) order.push(keyOf(track, frame))
    }
    const needed = new Set(order)
    for (const key of kept.keys()) {
      if (!needed.has(key)) letGo(key)
      if (bytes + wanted <= budgetBytes) return true
    }
    const first = new Set(order.slice(0, order.indexOf(before)))
    for (const key of order.reverse()) {
      if (!first.has(key)) letGo(key)
      if (bytes + wanted <= budgetBytes) return true
    }
    return false
  }

  function letGo(key: string) {
    bytes -= kept.get(key)?.size ?? 0
    kept.delete(key)
  }

  return {
    putTake(takeId, serial, take) {
      const stage = createTakeStage(take, optics)
      tracks.set(takeId, { kind: 'take', takeId, serial, take, stage, lengthFrames: stage.lengthFrames, muted: tracks.get(takeId)?.muted ?? new Set(), keys: [] })
    },
    putMix(mixId, serial, at) {
      const trackOf = (placed: PlacedShot | null) => (placed === null ? null : tracks.get(placed.shot.circledTakeId))
      const [before, after] = [trackOf(at.before), trackOf(at.after)]
      if (before === undefined || after === undefined || before?.kind === 'mix' || after?.kind === 'mix') return false
      tracks.set(mixId, { kind: 'mix', serial, at, before, after, lengthFrames: at.to - at.from, muted: new Set(), keys: [] })
      return true
    },
    plan(next) {
      parts = next
      pending = true
      at = { part: 0, frame: -1 }
      full = false
      given.clear()
      const planned = new Set(next.map((part) => part.takeId))
      for (const takeId of tracks.keys()) if (!planned.has(takeId)) tracks.delete(takeId)
      for (const part of next) {
        const track = tracks.get(part.takeId)
        if (track === undefined) continue
        const mutedAsBefore = track.muted.size === part.muted.length && part.muted.every((id) => track.muted.has(id))
        if (!drawingsStale && mutedAsBefore) continue
        track.muted = new Set(part.muted)
        track.keys = []
      }
      // What a transition shows follows its shots.
      for (const track of tracks.values()) if (track.kind === 'mix') track.keys = []
      drawingsStale = false
    },
    drawingChanged() {
      drawingsStale = true
    },
    next() {
      pending = false
      if (full) return null
      for (; at.part < parts.length; at = { part: at.part + 1, frame: -1 }) {
        const part = parts[at.part]!
        const track = tracks.get(part.takeId)
        if (track?.serial !== part.serial) continue
        for (let frame = Math.max(part.from, at.frame + 1); frame < Math.min(part.to, track.lengthFrames); frame++) {
          const key = keyOf(track, frame)
          if (kept.has(key) || given.has(key)) continue
          given.add(key)
          at = { part: at.part, frame }
          return { takeId: part.takeId, frame, key, shown: mapShown(shownOf(track, frame), ({ take, frame: at, cameraId, muted }) => ({ take, frame: at, cameraId, muted })) }
        }
      }
      return null
    },
    keep(job, picture) {
      if (kept.has(job.key)) return true
      if (!makeRoom(picture.size, job.key)) {
        full = true
        return false
      }
      kept.set(job.key, picture)
      bytes += picture.size
      return true
    },
    pictureOf(takeId, serial, frame) {
      const track = tracks.get(takeId)
      if (track === undefined || track.serial !== serial || frame < 0 || frame >= track.lengthFrames) return null
      return kept.get(keyOf(track, frame)) ?? null
    },
    coverage(takeId) {
      const track = tracks.get(takeId)
      if (track === undefined) return null
      const ready = new Uint8Array(track.lengthFrames)
      for (let frame = 0; frame < ready.length; frame++) ready[frame] = kept.has(keyOf(track, frame)) ? 1 : 0
      return { serial: track.serial, ready }
    },
    clear() {
      kept.clear()
      given.clear()
      bytes = 0
      full = false
      at = { part: 0, frame: -1 }
    },
    get bytes() {
      return bytes
    },
    get pictures() {
      return kept.size
    },
    get full() {
      return full
    },
    get pending() {
      return pending
    },
    get takeIds() {
      return [...tracks.keys()]
    },
  }
}
