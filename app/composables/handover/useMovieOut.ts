import { drawingsOf, EMPTY_DRAWING, withoutStandIns, type Drawing } from '@rubato/core/document'
import type { DepthRange } from '@rubato/core/depth'
import { createTakeStage, depthRangeOf, type FilmSpan, type PlacedShot, type TakeStage } from '@rubato/core/stage'
import { secondsOfFrames } from '@rubato/core/time'
import { movieJobs } from '~/clients/movieJobs'
import { stageJobs } from '~/clients/stageJobs'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import type { FormatId, FrameFormat, SoundFormat } from '~/workers/formats'
import type { BurnIn, MovieProgress, MovieRequest, MovieShot } from '~/workers/messages'

/** What of the film, and how it looks and sounds. */
export interface MovieChoice {
  range: 'shot' | 'sequence' | 'range' | 'film'
  size: 1 | 0.5 | 0.25
  /** Whether a movie has the film's sound. */
  sound: boolean
  burnIn: BurnIn
  /** Whether what stands in for something is seen. */
  standIns: boolean
  /** Distances in grey in the place of colours, from white to black; null: as drawn. Absent ends are those of the shots. */
  depth: { readonly nearest: number | null; readonly farthest: number | null } | null
}

/** Movies, numbered pictures and sound, made in a worker. */
export function useMovieOut() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const timing = useTimingStore()
  const sounds = useSoundStore()

  /** Makes one file. */
  async function make(choice: MovieChoice, id: FormatId, format: FrameFormat | SoundFormat, signal: AbortSignal, progress: (progress: MovieProgress) => void): Promise<{ readonly name: string; readonly file: Blob; readonly frames: number; readonly codec: string | null; readonly totalMs: number }> {
    const project = film.project
    if (project === null) throw new Error('No film is open.')
    const range = rangeOf(choice.range)
    const { filmStage } = film
    const transitions = filmStage.transitions.filter((each) => each.from < range.end && each.to > range.start)
    // A transition shows shots that the range itself may not touch.
    const beside = new Set(transitions.flatMap(({ before, after }) => [before?.shot.id, after?.shot.id]))
    const placed = format.needs === 'sound' ? [] : filmStage.shots.filter((each) => (each.startFrame < range.end && each.startFrame + each.lengthFrames > range.start) || beside.has(each.shot.id))
    const { shots, drawings } = await loaded(placed, choice, signal)
    const name = `${stemOf(choice)}.${format.extension}`
    const plan = sounds.plan()
    const wantsSound = format.needs === 'sound' || (format.sound && choice.sound)
    const sound = plan === null || !wantsSound ? null : { plan, soundBase: `${location.origin}/api/sounds/`, fromSeconds: secondsOfFrames(range.start, project.rate), toSeconds: secondsOfFrames(range.end, project.rate) }
    if (format.needs === 'sound' && sound === null) throw new Error('The film has no sound yet. Bring some in on the Desk first.')
    const depth = choice.depth === null || format.needs !== 'frames' ? null : depthOf(choice.depth, shots.map(({ body }) => createTakeStage(body, film.optics!)))
    const request: MovieRequest = { project, depth, span: range, shots, transitions, drawings, format: id, size: choice.size, burnIn: { ...choice.burnIn }, sound, fileName: name, pictureBase: `${location.origin}/api/pictures/` }
    const { file, frames, codec, totalMs } = await movieJobs.run(request, { signal, progress })
    return { name, file, frames, codec, totalMs }
  }

  async function loaded(placed: readonly PlacedShot[], choice: MovieChoice, signal: AbortSignal) {
    const shots: MovieShot[] = []
    const drawings: Record<string, Drawing> = {}
    for (const each of placed) {
      const { shot } = each
      await film.ensureTakeWithArt(shot.circledTakeId)
      signal.throwIfAborted()
      const body = film.takeOf(shot.circledTakeId)
      if (body === null) throw new Error(`Shot ${shot.label} could not be loaded.`)
      shots.push({ placed: each, body: choice.standIns ? body : withoutStandIns(body) })
      for (const drawingId of drawingsOf(body)) drawings[drawingId] = film.drawingOf(drawingId) ?? EMPTY_DRAWING
    }
    return { shots, drawings }
  }

  /** The sets and cameras of the shots of a range: a file a shot, of several in one zip. */
  async function makeStages(choice: MovieChoice, id: FormatId, signal: AbortSignal, progress: (progress: MovieProgress) => void): Promise<{ readonly name: string; readonly file: Blob }> {
    const project = film.project
    if (project === null) throw new Error('No film is open.')
    const { start, end } = rangeOf(choice.range)
    // What stands in is in the set: whoever takes it up there is to see how large a house will be.
    const { shots, drawings } = await loaded(film.filmStage.shots.filter((each) => each.startFrame < end && each.startFrame + each.lengthFrames > start), { ...choice, standIns: true }, signal)
    const first = project.startTimecodeFrames ?? 0
    return stageJobs.run({ format: id, project, shots: shots.map(({ placed, body }) => ({ label: placed.shot.label, startFrame: first + placed.startFrame, take: body })), drawings, stem: stemOf({ range: 'film', depth: null }), pictureBase: `${location.origin}/api/pictures/` }, { signal, progress })
  }

  /** What its files are called, without an ending. */
  function stemOf({ range, depth }: Pick<MovieChoice, 'range' | 'depth'>): string {
    const stem = `${film.project?.title ?? ''}${nameOf(range)}${depth === null ? '' : ' distances'}`.trim().replace(/[^\p{L}\p{N}._-]+/gu, '-')
    return stem || 'film'
  }

  /** The distances that are white and black in all of these shots. */
  function depthOf({ nearest, farthest }: NonNullable<MovieChoice['depth']>, stages: readonly TakeStage[]): DepthRange {
    const found = depthRangeOf(stages) ?? { nearest: 1, farthest: 10 }
    const near = nearest ?? found.nearest
    return { nearest: near, farthest: Math.max(farthest ?? found.farthest, near * 1.0001) }
  }

  /** The film's frames of a choice, `end` exclusive. */
  function rangeOf(choice: MovieChoice['range']): FilmSpan {
    const whole = { start: 0, end: desk.lengthFrames }
    const placed = desk.placedShot
    if (choice === 'film' || placed === null) return whole
    if (choice === 'range') return timing.range ?? whole
    if (choice === 'shot') return { start: placed.startFrame, end: placed.startFrame + placed.lengthFrames }
    return film.filmStage.spanOf(placed.shot.sequenceId) ?? whole
  }

  function nameOf(choice: MovieChoice['range']): string {
    if (choice === 'shot') return ` ${desk.placedShot?.shot.label ?? ''}`
    if (choice === 'sequence') return ` sequence ${film.outline.sequences[desk.placedShot?.shot.sequenceId ?? '']?.label ?? ''}`
    return choice === 'range' ? ` ${rangeOf('range').start}-${rangeOf('range').end - 1}` : ''
  }

  return { make, makeStages, rangeOf, stemOf }
}
