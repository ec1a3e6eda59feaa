import { counterTruck, counterZoom, heldPose, posesEqual, type CameraPose } from '@rubato/core/camera'
import type { PlacedFraming, TakeBody } from '@rubato/core/document'
import { keyCounterZoom, keyFraming, reframe } from '@rubato/core/edits'
import type { Ref } from 'vue'
import type { Gesture, Make } from './editing'

/** How a change of the camera is kept at this frame; told beside the lens view. */
export type CameraMode = 'reframes' | 'changes-framing' | 'looking' | 'auto-key' | 'locked'

interface Trial {
  readonly shotId: string
  readonly frame: number
  readonly pose: CameraPose
}

/** What the hand on the camera needs of the desk. */
interface Desk {
  readonly film: { beginGesture(label: string, joins?: string | null): Gesture; perform(label: string, how: Make): boolean; refuse(text: string): void }
  /** What a framing at the playhead would have to say for the camera to be there. */
  framedAs(asked: CameraPose): CameraPose
  readonly takeId: Readonly<Ref<string | null>>
  readonly take: Readonly<Ref<TakeBody | null>>
  readonly cameraAtWorkId: Readonly<Ref<string | null>>
  readonly shotFrame: Readonly<Ref<number>>
  readonly shotId: Readonly<Ref<string | null>>
  readonly trial: Ref<Trial | null>
  readonly trialHere: Readonly<Ref<unknown>>
  readonly pose: Readonly<Ref<CameraPose | null>>
  readonly framingHere: Readonly<Ref<PlacedFraming | null>>
  readonly cameraMode: Readonly<Ref<CameraMode>>
  readonly drifting: Readonly<Ref<{ readonly framingId: string; readonly joins: string } | null>>
  /** The depth whose size a counter-zoom keeps; null where it is off. */
  readonly keeps: () => number | null
  /** One more each time that something was refused, for what is looked at to shake. */
  readonly nudge: Ref<number>
}

/** The hand on the camera at work: what it does at the playhead, by the mode that it is in. */
export function createCameraHand({ film, framedAs, takeId, take, cameraAtWorkId, shotFrame, shotId, trial, trialHere, pose, framingHere, cameraMode, drifting, keeps, nudge }: Desk) {
  /**
   * Begins a change of the camera at this frame. Where it is kept it is a gesture on the film; where it is only
   * looking, it becomes the trial pose and nothing is written. With `counters` a counter-zoom that is on answers it.
   */
  function beginCamera(label?: string, counters = true): { update(next: CameraPose): void; end(): void; abandon(): void } {
    const [id, camId, frame, shot] = [takeId.value, cameraAtWorkId.value, shotFrame.value, shotId.value]
    const before = trial.value
    const mode = cameraMode.value
    const start = pose.value
    const standing = framingHere.value?.framing ?? null
    const plane = counters ? keeps() : null
    if (id === null || camId === null || shot === null || start === null) return { update() {}, end() {}, abandon() {} }
    if (mode === 'locked') {
      refuseLocked(camId)
      return { update() {}, end() {}, abandon() {} }
    }
    if (mode === 'looking') {
      return {
        update: (next) => (trial.value = { shotId: shot, frame, pose: heldPose(countered(start, next, plane)) ?? start }),
        end() {},
        abandon: () => (trial.value = before),
      }
    }
    const drift = drifting.value !== null && drifting.value.framingId === standing?.id ? drifting.value : null
    const gesture: Gesture = film.beginGesture(drift === null ? (label ?? (mode === 'auto-key' ? 'key framing' : mode === 'reframes' ? 'reframe' : 'change framing')) : 'drift', drift?.joins ?? null)
    const newId = crypto.randomUUID()
    return {
      update(asked) {
        const told = countered(start, asked, plane)
        // What a span holds fast is not the framing's to say; while a camera settles it is not quite on its framing.
        const framed = framedAs(told)
        const next = standing === null || framed !== told ? framed : countered(start, carriedOver(start, asked, standing.pose), plane)
        gesture.update((now) => {
          const take = now.takes[id]!
          if (plane !== null && mode !== 'reframes') return keyCounterZoom(take, id, camId, frame, next, plane, newId)
          return mode === 'auto-key' ? keyFraming(take, id, camId, frame, next, newId) : reframe(take, id, camId, frame, next, newId)
        })
      },
      end: () => gesture.commit(),
      abandon: () => gesture.abandon(),
    }
  }

  /** The pose asked for, with lens or distance answering so that the kept plane keeps its size. */
  function countered(start: CameraPose, next: CameraPose, plane: number | null): CameraPose {
    if (plane === null) return next
    const pair = next.depth !== start.depth ? counterZoom(start, next, plane) : next.focalLengthMm !== start.focalLengthMm ? counterTruck({ ...next, focalLengthMm: start.focalLengthMm, depth: start.depth }, next.focalLengthMm, plane) : next
    if (pair === null) film.refuse('The plane that keeps its size must be before the lens. Choose a level farther off, or turn Counter-zoom off.')
    return pair ?? start
  }

  function refuseLocked(camId: string) {
    nudge.value++
    film.refuse(
      take.value?.cameras[camId]?.locked === true
        ? 'This camera is locked. Unlock it in the inspector to change it.'
        : 'This framing is locked. Unlock it in the inspector to change it.',
    )
  }

  /** Writes what the lens shows as a framing at the playhead. */
  function key() {
    const [id, camId] = [takeId.value, cameraAtWorkId.value]
    if (id === null || camId === null || pose.value === null) return
    const now = framedAs(pose.value)
    const existing = framingHere.value
    // A settling camera is not there yet on its framing's frame; that is no reason to change it.
    if (existing !== null && (trialHere.value === null || posesEqual(existing.framing.pose, now))) return
    const plane = keeps()
    const done = film.perform(existing === null ? 'key framing' : 'change framing', (f) =>
      plane === null ? keyFraming(f.takes[id]!, id, camId, shotFrame.value, now, crypto.randomUUID()) : keyCounterZoom(f.takes[id]!, id, camId, shotFrame.value, now, plane, crypto.randomUUID()),
    )
    if (done) trial.value = null
    else nudge.value++
  }

  return { beginCamera, key }
}

/** What `asked` is to `seen`, done to another pose: for a camera that is not quite on its framing while it settles. */
function carriedOver(seen: CameraPose, asked: CameraPose, framing: CameraPose): CameraPose {
  if (posesEqual(seen, framing)) return asked
  const moved = { ...framing } as Record<keyof CameraPose, number>
  for (const field of Object.keys(moved) as (keyof CameraPose)[]) moved[field] += asked[field] - seen[field]
  return { ...(moved as unknown as CameraPose), focalLengthMm: (framing.focalLengthMm * asked.focalLengthMm) / seen.focalLengthMm }
}
