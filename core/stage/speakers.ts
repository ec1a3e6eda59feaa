import type { Optics } from '../camera/lens'
import { frameThis } from '../camera/frameThis'
import type { CameraPose } from '../camera/pose'
import { inFrame, lensOf, project } from '../camera/projection'
import type { Point3 } from '../geometry/point'

/** Someone speaks, frames of the shot; the last is exclusive. */
export interface Utterance {
  readonly speaker: string
  readonly fromFrame: number
  readonly toFrame: number
}

/** What the camera is on over some frames, the last exclusive. */
export interface SpeakerBeat {
  readonly fromFrame: number
  readonly toFrame: number
  /** Who is in the picture: one who speaks, or several who speak within a moment. */
  readonly speakers: readonly string[]
}

export interface BeatSettings {
  /** The camera stays on nobody for less. */
  readonly shortestFrames: number
  /** It is there so much before they speak. */
  readonly aheadFrames: number
}

/** Names are the same whatever their capitals. */
export const sameName = (a: string, b: string) => a.trim().toLocaleLowerCase() === b.trim().toLocaleLowerCase()

/**
 * Who is to be seen when: each as they begin to speak, until someone else does. Who would be seen for less than the shortest hold
 * is seen along with who comes next, so that several who speak within a moment are in one picture. `known` says who can be
 * seen at all. The first is there from the shot's first frame.
 */
export function speakerBeats(utterances: readonly Utterance[], known: (speaker: string) => boolean, lengthFrames: number, { shortestFrames, aheadFrames }: BeatSettings): readonly SpeakerBeat[] {
  const heard = utterances.filter(({ speaker, fromFrame }) => known(speaker) && fromFrame < lengthFrames).sort((a, b) => a.fromFrame - b.fromFrame)
  const beats: { fromFrame: number; speakers: string[] }[] = []
  for (const { speaker, fromFrame } of heard) {
    const from = beats.length === 0 ? 0 : Math.max(0, Math.round(fromFrame - aheadFrames))
    const last = beats.at(-1)
    if (last === undefined) beats.push({ fromFrame: from, speakers: [speaker] })
    else if (last.speakers.some((each) => sameName(each, speaker)) && last.speakers.length === 1) continue
    else if (from - last.fromFrame < shortestFrames) {
      if (!last.speakers.some((each) => sameName(each, speaker))) last.speakers.push(speaker)
    } else beats.push({ fromFrame: from, speakers: [speaker] })
  }
  // What is left to the shot's end may be too short as well.
  while (beats.length > 1 && lengthFrames - beats.at(-1)!.fromFrame < shortestFrames) {
    const short = beats.pop()!
    const into = beats.at(-1)!
    for (const speaker of short.speakers) if (!into.speakers.some((each) => sameName(each, speaker))) into.speakers.push(speaker)
  }
  return beats.map((beat, i) => ({ ...beat, toFrame: beats[i + 1]?.fromFrame ?? lengthFrames }))
}

/** The pose from which all of them are seen, with a margin; null where there is none. */
export function poseOnSpeakers(points: readonly Point3[], from: CameraPose, optics: Optics, margin: number): CameraPose | null {
  const framed = frameThis(points, from, from, optics, margin, 'truck')
  return framed.ok ? framed.pose : null
}

/**
 * How well a camera sees a figure, whose corners these are: 0 where its head is outside the frame or behind the lens, else 1 and
 * how much of the frame's height it takes. Feet may be cut off: who speaks is seen by the face.
 */
export function sight(corners: readonly Point3[], pose: CameraPose, optics: Optics): number {
  const lens = lensOf(pose, optics)
  const seen = corners.map((point) => project(lens, point))
  if (seen.length < 2 || seen.some(({ z }) => z <= 0)) return 0
  const [low, high] = [Math.min(...seen.map(({ v }) => v)), Math.max(...seen.map(({ v }) => v))]
  const u = seen.reduce((sum, each) => sum + each.u, 0) / seen.length
  if (!inFrame(lens, { u, v: low + (high - low) * HEAD, z: seen[0]!.z })) return 0
  const shown = Math.min(high, lens.halfHeight) - Math.max(low, -lens.halfHeight)
  return 1 + shown / (2 * lens.halfHeight)
}

/** Of a figure's height, from the foot: where its head is. */
const HEAD = 0.8

/** The camera that sees all of the figures best; where none sees all of them, the one that sees most. */
export function bestCamera(figures: readonly (readonly Point3[])[], poses: ReadonlyMap<string, CameraPose>, optics: Optics): string | null {
  let best: { readonly id: string; readonly score: number } | null = null
  for (const [id, pose] of poses) {
    const score = figures.reduce((sum, corners) => sum + sight(corners, pose, optics), 0)
    if (best === null || score > best.score) best = { id, score }
  }
  return best?.id ?? null
}
