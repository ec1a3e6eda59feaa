import { drawingsOf, EMPTY_DRAWING, withoutStandIns, type Drawing } from '@rubato/core/document'
import type { DepthRange } from '@rubato/core/depth'
import { createTakeStage, depthRangeOf, filmFiles, type FilmFile, type FilmSpan, type PlacedShot, type TakeStage } from '@rubato/core/stage'
import { secondsOfFrames } from '@rubato/core/time'
import { isByShot } from '#shared/handOver'
import { leadFrames, type MovieLook, type Said } from '#shared/renders'
import { pictureBase } from '~/api/client'
import { movieJobs } from '~/clients/movieJobs'
import { stageJobs } from '~/clients/stageJobs'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import type { FormatId, FrameFormat, SoundFormat } from '~/workers/formats'
import type { MovieProgress, MovieRequest, MovieShot } from '~/workers/messages'
import { zipped } from './zipped'

/** What of the film, and how it looks and sounds. */
export interface MovieChoice extends MovieLook {
  range: 'shot' | 'sequence' | 'range' | 'film'
  /** One file, or one for each shot, with so many frames more at both ends. */
  each: 'whole' | 'shot'
  handles: number
}

interface MadeFile {
  readonly name: string
  readonly file: Blob
}
export interface MadeMovieFile extends MadeFile {
  readonly frames: number
  readonly codec: string | null
  readonly totalMs: number
}

/** What a worker of the server's says of what it makes. */
interface Elsewhere {
  /** Where frames are handed in one by one, in the place of a file. */
  readonly handIn?: string
  readonly said?: Said
  /** Of the whole file that this is a piece of. */
  readonly fileSpan?: FilmSpan
  /** Whether what stands before a file is before this; of sound too, where it is said. */
  readonly withLead?: boolean
}

/** Movies, numbered pictures and sound, made in a worker. */
export function useMovieOut() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const timing = useTimingStore()
  const sounds = useSoundStore()

  const filesOf = (choice: MovieChoice, id?: FormatId): readonly FilmFile[] => filmFiles(film.filmStage, rangeOf(choice.range), id !== undefined && isByShot(id) ? 'shot' : choice.each, choice.handles)

  /** Makes what is chosen as one file; of several, one in a zip for each shot. */
  async function make(choice: MovieChoice, id: FormatId, format: FrameFormat | SoundFormat, signal: AbortSignal, progress: (progress: MovieProgress) => void): Promise<MadeMovieFile> {
    const files = filesOf(choice, id)
    if (files.length === 0) throw new Error('There are no frames to make: the range is empty.')
    const lengths = files.map(({ span }) => span.end - span.start + (format.needs === 'frames' && format.frame !== 'layers' ? leadFrames(choice.dress) : 0))
    const total = lengths.reduce((sum, length) => sum + length, 0)
    const made: MadeMovieFile[] = []
    let before = 0
    for (const [i, file] of files.entries()) {
      const tell = ({ phase, done }: MovieProgress) => progress({ phase, done: phase === 'frames' ? before + done : done, total })
      made.push(await makeFile(file, choice, id, format, signal, files.length === 1 ? progress : tell, file.label === null ? stemOf(choice) : named(film.project?.title, file.label)))
      before += lengths[i]!
    }
    const sum = { frames: made.reduce((all, each) => all + each.frames, 0), codec: made[0]!.codec, totalMs: made.reduce((all, each) => all + each.totalMs, 0) }
    return files.length === 1 ? made[0]! : { ...sum, name: `${stemOf(choice)}-${id}.zip`, file: await zipped(made, signal) }
  }

  /** Makes one file. With `handIn` its frames are handed in there instead, one by one. */
  async function makeFile(
    of: Pick<FilmFile, 'shotId' | 'span'>,
    look: MovieLook,
    id: FormatId,
    format: FrameFormat | SoundFormat,
    signal: AbortSignal,
    progress: (progress: MovieProgress) => void,
    stem: string,
    elsewhere: Elsewhere = {},
  ): Promise<MadeMovieFile> {
    const request = await requestOf(of, look, id, format, signal, stem, elsewhere)
    const { file, frames, codec, totalMs } = await movieJobs.run(request, { signal, progress })
    return { name: request.fileName, file, frames, codec, totalMs }
  }

  /** All that painting and mixing need, loaded. */
  async function requestOf({ shotId, span }: Pick<FilmFile, 'shotId' | 'span'>, look: MovieLook, id: FormatId, format: FrameFormat | SoundFormat, signal: AbortSignal, stem: string, elsewhere: Elsewhere = {}): Promise<MovieRequest> {
    const { handIn, said = saidHere(), withLead = true, fileSpan = span } = elsewhere
    const project = film.project
    if (project === null) throw new Error('No film is open.')
    const { filmStage } = film
    const transitions = shotId !== null ? [] : filmStage.transitions.filter((each) => each.from < span.end && each.to > span.start)
    // A transition shows shots that the range itself may not touch.
    const beside = new Set(transitions.flatMap(({ before, after }) => [before?.shot.id, after?.shot.id]))
    const seen = (each: PlacedShot) => (shotId !== null ? each.shot.id === shotId : (each.startFrame < span.end && each.startFrame + each.lengthFrames > span.start) || beside.has(each.shot.id))
    const { shots, drawings } = await loaded(format.needs === 'sound' ? [] : filmStage.shots.filter(seen), look, signal)
    const name = `${stem}.${format.extension}`
    const plan = sounds.plan()
    const wantsSound = format.needs === 'sound' || (format.sound === true && look.sound && handIn === undefined)
    const lead = withLead ? leadFrames(look.dress) : 0
    const from = shotId === null ? 0 : (filmStage.placeOf(shotId)?.startFrame ?? 0)
    const seconds = (frames: number) => secondsOfFrames(frames, project.rate)
    // Sound that is handed over by itself begins where it is asked for.
    const leadSeconds = format.needs === 'sound' && elsewhere.withLead === undefined ? 0 : seconds(lead)
    const sound = plan === null || !wantsSound ? null : { plan, soundBase: `${location.origin}/api/sounds/`, fromSeconds: seconds(from + span.start), toSeconds: seconds(from + span.end), leadSeconds }
    if (format.needs === 'sound' && sound === null) throw new Error('The film has no sound yet. Bring some in on the Desk first.')
    const depth = look.depth === null || format.needs !== 'frames' ? null : depthOf(look.depth, shots.map(({ body }) => createTakeStage(body, film.optics!)))
    return {
      project,
      depth,
      span,
      alone: shotId,
      shots,
      transitions,
      drawings,
      format: id,
      size: look.size,
      clear: look.clear && format.needs === 'frames' && format.frame === 'png',
      trim: look.trim,
      burnIn: JSON.parse(JSON.stringify(look.burnIn)) as MovieLook['burnIn'],
      dress: JSON.parse(JSON.stringify(look.dress)) as MovieLook['dress'],
      said,
      fileSpan,
      lead: format.needs === 'frames' && format.frame !== 'layers' ? lead : 0,
      sound,
      fileName: name,
      pictureBase: pictureBase(),
      ...(handIn === undefined ? {} : { handIn }),
    }
  }

  const saidHere = (): Said => ({ version: film.lookingAt?.name ?? '', date: new Date().toISOString().slice(0, 10), who: film.artist })

  async function loaded(placed: readonly PlacedShot[], look: Pick<MovieLook, 'standIns'>, signal: AbortSignal) {
    const shots: MovieShot[] = []
    const drawings: Record<string, Drawing> = {}
    for (const each of placed) {
      const { shot } = each
      await film.ensureTakeWithArt(shot.circledTakeId)
      signal.throwIfAborted()
      const body = film.takeOf(shot.circledTakeId)
      if (body === null) throw new Error(`Shot ${shot.label} could not be loaded.`)
      shots.push({ placed: each, letter: film.outline.takes[shot.circledTakeId]?.letter ?? '', body: look.standIns ? body : withoutStandIns(body) })
      for (const drawingId of drawingsOf(body)) drawings[drawingId] = film.drawingOf(drawingId) ?? EMPTY_DRAWING
    }
    return { shots, drawings }
  }

  /** The sets and cameras of the shots of a range: a file a shot, of several in one zip. */
  const makeStages = (choice: MovieChoice, id: FormatId, signal: AbortSignal, progress: (progress: MovieProgress) => void): Promise<MadeFile> => {
    const { start, end } = rangeOf(choice.range)
    return stagesOf(film.filmStage.shots.filter((each) => each.startFrame < end && each.startFrame + each.lengthFrames > start), id, signal, progress)
  }

  async function stagesOf(placed: readonly PlacedShot[], id: FormatId, signal: AbortSignal, progress: (progress: MovieProgress) => void, panelId?: string): Promise<MadeFile> {
    const project = film.project
    if (project === null) throw new Error('No film is open.')
    // What stands in is in the set: whoever takes it up there is to see how large a house will be.
    const { shots, drawings } = await loaded(placed, { standIns: true }, signal)
    const first = project.startTimecodeFrames ?? 0
    return stageJobs.run({ format: id, project, shots: shots.map(({ placed: at, body }) => ({ label: at.shot.label, startFrame: first + at.startFrame, takeId: at.shot.circledTakeId, take: body })), drawings, stem: stemOf({ range: 'film', depth: null }), ...(panelId === undefined ? {} : { panelId }), pictureBase: pictureBase() }, { signal, progress })
  }

  /** What its files are called, without an ending. */
  const stemOf = ({ range, depth }: Pick<MovieChoice, 'range' | 'depth'>): string => named(film.project?.title, `${nameOf(range)}${depth === null ? '' : ' distances'}`)

  /** The distances that are white and black in all of these shots. */
  function depthOf({ nearest, farthest }: NonNullable<MovieLook['depth']>, stages: readonly TakeStage[]): DepthRange {
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
    if (choice === 'shot') return desk.placedShot?.shot.label ?? ''
    if (choice === 'sequence') return `sequence ${film.outline.sequences[desk.placedShot?.shot.sequenceId ?? '']?.label ?? ''}`
    return choice === 'range' ? `${rangeOf('range').start}-${rangeOf('range').end - 1}` : ''
  }

  return { make, makeFile, requestOf, saidHere, makeStages, stagesOf, filesOf, rangeOf, stemOf }
}

const named = (title: string | undefined, rest: string): string => `${title ?? ''} ${rest}`.trim().replace(/[^\p{L}\p{N}._-]+/gu, '-') || 'film'
