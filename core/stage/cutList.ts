import type { Lane, MarkMeaning, Transition } from '../document/records'
import type { Outline } from '../document/units'
import { placeSound } from '../sound/placedClips'
import { frameOfTimecode, timecodeOfFrame } from '../time/timecode'
import { framesPerSecond, type Rate } from '../time/rate'
import type { FilmStage } from './filmStage'
import type { PlacedTransition } from './transitions'

/** A panel of a picture, where a list says so much. */
export interface CutPanel {
  readonly lengthFrames: number
  readonly action: string
  readonly dialogue: string
}

/** One picture of a list: a shot, or nothing for a while. */
export interface CutPicture {
  readonly kind: 'shot' | 'gap'
  /** As Rubato knows it; null where the list does not say. */
  readonly shotId: string | null
  readonly label: string
  readonly title: string
  readonly lengthFrames: number
  /** The first frame that is seen, as a count in its source's own time; null where the list does not say. */
  readonly sourceFrame: number | null
  /** Of the same time, the frame at which the shot's own time begins; null where the list does not say. */
  readonly sourceZero: number | null
  readonly panels: readonly CutPanel[]
}

/** How one picture becomes the next: as it is seen, in frames before and after the cut. */
export interface CutTransition {
  /** The index of the picture that it leads into; as many as there are pictures: out of the last. */
  readonly into: number
  readonly kind: Transition['kind']
  readonly before: number
  readonly after: number
  /** Absent where the list does not say. */
  readonly look?: Pick<Transition, 'angleDegrees' | 'softness' | 'colour' | 'soundToo'> | undefined
}

export interface CutSound {
  readonly clipId: string | null
  readonly name: string
  readonly laneId: string | null
  readonly laneName: string
  /** Of the film; between frames where it is so. */
  readonly atFrame: number
  readonly fromSeconds: number
  readonly lengthSeconds: number
  /** Absent where the list does not say. */
  readonly gainDb?: number | undefined
  readonly fadeInSeconds?: number | undefined
  readonly fadeOutSeconds?: number | undefined
  /** Of the recording. */
  readonly assetHash: string | null
}

export interface CutMark {
  readonly markId: string | null
  readonly frame: number
  readonly name: string
  readonly meaning: MarkMeaning
}

/** A film as whoever cuts it has it: pictures one after the other, what is heard under them, and marks. */
export interface CutList {
  readonly title: string
  readonly rate: Rate
  /** The timecode of the first frame, as a count of frames. */
  readonly startFrame: number
  readonly drop: boolean
  readonly pictures: readonly CutPicture[]
  readonly transitions: readonly CutTransition[]
  readonly sounds: readonly CutSound[]
  readonly marks: readonly CutMark[]
  /** How exact its times of sound are, frames. */
  readonly soundWithin: number
}

/** A shot's own time begins at one hour, so that there is room before its first frame. */
export function shotZero(rate: Rate, drop: boolean): number {
  return frameOfTimecode(drop ? '01:00:00;00' : '01:00:00:00', rate, drop)!
}

const lookOf = ({ angleDegrees, softness, colour, soundToo }: Transition): NonNullable<CutTransition['look']> => ({ angleDegrees, softness, colour, soundToo })

/** A transition as a list has it. */
const listed = ({ transition, from, to, cutFrame }: PlacedTransition, into: number): CutTransition => ({ into, kind: transition.kind, before: cutFrame - from, after: to - cutFrame, look: lookOf(transition) })

/** The film as a list. `panelsOf` gives the panels of a take, none where they are not asked for. */
export function cutListOf(outline: Outline, stage: FilmStage, panelsOf: (takeId: string) => readonly CutPanel[] = () => []): CutList {
  const project = Object.values(outline.project)[0]!
  const { rate, startTimecodeFrames: startFrame = 0, dropFrame: drop = false } = project
  const zero = shotZero(rate, drop)
  const fps = framesPerSecond(rate)
  const lanes = new Map<string, Lane>(Object.entries(outline.lanes))
  const sound = placeSound(outline, rate, (shotId) => stage.placeOf(shotId)?.startFrame ?? null)
  return {
    title: project.title,
    rate,
    startFrame,
    drop,
    pictures: stage.shots.map(({ shot, lengthFrames }) => ({ kind: 'shot', shotId: shot.id, label: shot.label, title: shot.title, lengthFrames, sourceFrame: zero + (shot.startsAt ?? 0), sourceZero: zero, panels: panelsOf(shot.circledTakeId) })),
    transitions: stage.transitions.map((placed) => listed(placed, placed.after?.index ?? stage.shots.length)),
    sounds: sound.clips.map(({ clip, startSeconds }) => ({
      clipId: clip.id,
      name: clip.name,
      laneId: clip.laneId,
      laneName: lanes.get(clip.laneId)!.name,
      atFrame: startSeconds * fps,
      fromSeconds: clip.fromSeconds,
      lengthSeconds: clip.lengthSeconds,
      gainDb: clip.gainDb,
      fadeInSeconds: clip.fadeInSeconds,
      fadeOutSeconds: clip.fadeOutSeconds,
      assetHash: clip.assetHash,
    })),
    marks: Object.values(outline.rulerMarks)
      .flatMap((mark): CutMark[] => {
        const placed = stage.placeOf(mark.shotId)
        return placed === null ? [] : [{ markId: mark.id, frame: placed.startFrame + Math.min(mark.offsetFrames, Math.max(0, placed.lengthFrames - 1)), name: mark.name, meaning: mark.meaning }]
      })
      .sort((a, b) => a.frame - b.frame),
    soundWithin: 1e-3,
  }
}

/** The first frame of each picture, and after the last the film's length. */
export function startsOf(pictures: readonly Pick<CutPicture, 'lengthFrames'>[]): readonly number[] {
  let at = 0
  return [...pictures.map(({ lengthFrames }) => (at += lengthFrames) - lengthFrames), at]
}

/** A moment of a list as its timecode. */
export const listTimecode = ({ rate, drop }: Pick<CutList, 'rate' | 'drop'>, count: number): string => timecodeOfFrame(count, rate, drop)
