import { planeOf, pointOnPlane } from '@rubato/core/depth'
import { cameraKeys, shownAt } from '@rubato/core/document'
import { cutLive, putMove } from '@rubato/core/edits'
import { cornersOf, type Point3 } from '@rubato/core/geometry'
import { drawingBounds } from '@rubato/core/ink'
import { CUSHIONED_MOVE, HOLD_MOVE, type Keyed } from '@rubato/core/moves'
import type { CameraPose } from '@rubato/core/camera'
import { bestCamera, poseOnSpeakers, sameName, speakerBeats, type SpeakerBeat, type Utterance } from '@rubato/core/stage'
import type { Make } from '~/stores/editing'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'

export interface SpeakerSettings {
  shortestSeconds: number
  /** Part of the frame left free on each side. */
  margin: number
  how: 'cut' | 'travel'
  travelFrames: number
}

/** A beat with what the camera does for it, or why it can't. */
export interface ProposedBeat extends SpeakerBeat {
  readonly pose: CameraPose | null
  /** Of several cameras the one that sees them best. */
  readonly cameraId: string | null
  readonly trouble: string | null
}

/** Proposes framings, or with several cameras cuts between them, from who speaks when and the levels that carry their names. */
export function useSpeakers() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const sound = useSoundStore()

  const levelOf = (speaker: string) => desk.levels.find((level) => sameName(level.name, speaker)) ?? null

  /** Who speaks in the shot, by its frames. */
  function utterances(): readonly Utterance[] {
    const shot = desk.placedShot
    if (shot === null) return []
    const [from, to] = [shot.startFrame / desk.fps, (shot.startFrame + shot.lengthFrames) / desk.fps]
    return sound.placed.between(from, to).flatMap(({ clip, startSeconds, endSeconds }): Utterance[] =>
      clip.speaker === '' || endSeconds <= from ? [] : [{ speaker: clip.speaker, fromFrame: Math.max(0, Math.round(startSeconds * desk.fps) - shot.startFrame), toFrame: Math.round(endSeconds * desk.fps) - shot.startFrame }],
    )
  }

  /** The corners of what a level shows at a frame. */
  function pointsAt(levelId: string, frame: number): readonly Point3[] {
    const [take, stage] = [desk.take!, desk.stage!]
    const cell = shownAt(take, levelId, frame)
    const drawing = cell === null ? null : film.drawingOf(cell.drawingId)
    const bounds = drawing === null ? null : drawingBounds(drawing)
    if (bounds === null) return []
    const plane = planeOf(stage.seen(frame).standOf(levelId), take.levels[levelId]!.pivot)
    return cornersOf(bounds).map((corner) => pointOnPlane(plane, corner))
  }

  /** Those of whom there is a level, and those of whom there is none. */
  function speakers() {
    const names = [...new Map(utterances().map(({ speaker }) => [speaker.toLocaleLowerCase(), speaker])).values()]
    return { known: names.filter((name) => levelOf(name) !== null), unknown: names.filter((name) => levelOf(name) === null) }
  }

  function propose({ shortestSeconds, margin }: SpeakerSettings): readonly ProposedBeat[] {
    const [shot, stage, optics, take, from] = [desk.placedShot, desk.stage, film.optics, desk.take, desk.cameraAtWorkId]
    if (shot === null || stage === null || optics === null || take === null || from === null) return []
    const ids = Object.keys(take.cameras)
    const beats = speakerBeats(utterances(), (name) => levelOf(name) !== null, shot.lengthFrames, { shortestFrames: Math.max(1, Math.round(shortestSeconds * desk.fps)), aheadFrames: 4 })
    return beats.map((beat) => {
      const middle = Math.min(shot.lengthFrames - 1, Math.round((beat.fromFrame + Math.min(beat.toFrame, beat.fromFrame + desk.fps * 2)) / 2))
      const figures = beat.speakers.map((name) => pointsAt(levelOf(name)!.id, middle)).filter((corners) => corners.length > 0)
      const points = figures.flat()
      if (points.length === 0) return { ...beat, pose: null, cameraId: null, trouble: `nothing is drawn on ${beat.speakers.join(' and ')} here` }
      if (ids.length > 1) return { ...beat, pose: null, cameraId: bestCamera(figures, new Map(ids.map((id) => [id, stage.poseOf(id, middle)])), optics), trouble: null }
      const pose = poseOnSpeakers(points, stage.poseOf(from, beat.fromFrame), optics, margin)
      return { ...beat, pose, cameraId: null, trouble: pose === null ? 'no camera sees them whole' : null }
    })
  }

  /** The beats as framings of the camera at work, each held until the next; or as camera cuts. */
  function makeOf(beats: readonly ProposedBeat[], { how, travelFrames }: SpeakerSettings): Make | null {
    const [takeId, cameraId, shot] = [desk.takeId, desk.cameraAtWorkId, desk.placedShot]
    if (takeId === null || cameraId === null || shot === null || beats.length === 0) return null
    const newId = () => crypto.randomUUID()
    if (beats[0]!.cameraId !== null) {
      const cuts = beats.map(({ fromFrame, cameraId: to }) => ({ frame: fromFrame, cameraId: to! }))
      return (f) => cutLive(f.takes[takeId]!, takeId, { from: cuts[0]!.frame, to: beats.at(-1)!.toFrame - 1 }, cuts, newId)
    }
    const keys: Keyed<CameraPose>[] = []
    const first = beats[0]!.fromFrame
    beats.forEach(({ fromFrame, toFrame, pose }, i) => {
      const before = beats[i - 1]
      const frame = fromFrame - first
      if (how === 'cut' || before === undefined) keys.push({ frame, value: pose!, move: HOLD_MOVE })
      else {
        const over = Math.min(travelFrames, Math.max(1, toFrame - fromFrame - 1))
        keys.push({ frame, value: before.pose!, move: CUSHIONED_MOVE }, { frame: frame + over, value: pose!, move: HOLD_MOVE })
      }
    })
    // It stays as it is to the end of the last one.
    const [last, end] = [keys.at(-1)!, beats.at(-1)!.toFrame - 1 - first]
    if (end > last.frame) keys.push({ frame: end, value: last.value, move: CUSHIONED_MOVE })
    return (f) => putMove(f.takes[takeId]!, takeId, cameraKeys(cameraId), keys, first, newId)
  }

  return { speakers, propose, makeOf }
}
