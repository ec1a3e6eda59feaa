import { lensOf, project, unproject } from '../camera/projection'
import { screenMotion } from '../camera/screenMotion'
import { dot, length, subtract, type Point3 } from '../geometry/point'
import type { Rectangle } from '../geometry/rectangle'
import { sameName } from '../stage/speakers'
import { eyeOf, eyeTravel, figuresIn, sideOfLine, type Cut, type CutSide, type Eye, type SeenFigure } from './cutSides'

/** Well as it is, to be looked at, or to be mended. */
export type Verdict = 'well' | 'look' | 'fix'
export const VERDICTS: readonly Verdict[] = Object.freeze(['well', 'look', 'fix'])

/** Limits of what is read at a cut. */
export interface CutLimits {
  /** Of the frame's width: up to here the eye finds its way easily, and past here it does not. */
  readonly eyeEasy: number
  readonly eyeMost: number
  /** A subject whose size changes by a factor of less, seen from less than so many degrees away, jumps. */
  readonly jumpRatio: number
  readonly jumpDegrees: number
  /** Cameras that move at speeds whose ratio is no more are alike. */
  readonly alikeSpeeds: number
  /** A camera that goes slower, fw a second, rests. */
  readonly restsBelow: number
}
export const CUT_LIMITS: CutLimits = Object.freeze({ eyeEasy: 0.3, eyeMost: 0.45, jumpRatio: 1.3, jumpDegrees: 25, alikeSpeeds: 1.5, restsBelow: 0.02 })

/** Which way somebody goes on the screen, or comes to us, or goes away. */
export type Heading = 'left' | 'right' | 'to us' | 'away' | 'still'

/** What is read at a cut. Sizes are heights on screen in fw, speeds fw a second. */
export type CutReading = { readonly verdict: Verdict } & (
  | { readonly kind: 'eye'; readonly from: Eye; readonly to: Eye; readonly travel: number }
  /** `ratio`: after to before. `turnDegrees`: how far the direction turns in which the camera sees it. */
  | { readonly kind: 'size'; readonly name: string; readonly before: number; readonly after: number; readonly ratio: number; readonly turnDegrees: number }
  | { readonly kind: 'direction'; readonly name: string; readonly before: Heading; readonly after: Heading; readonly says: 'kept' | 'flipped' | 'through' | 'begins' }
  /** The sides of the line between two who act on which the camera stands, as their signs. */
  | { readonly kind: 'line'; readonly names: readonly [string, string]; readonly before: number; readonly after: number }
  | { readonly kind: 'motion'; readonly before: number; readonly after: number; readonly says: MotionSays }
  /** Of the shot that ends, seconds; what is said and to be read in it takes so long. `neighbours`: the mean of those beside it. */
  | { readonly kind: 'length'; readonly seconds: number; readonly asks: number; readonly neighbours: number | null }
)
export type MotionSays = 'rest to rest' | 'comes to rest' | 'sets off' | 'alike' | 'stops dead' | 'starts at full speed' | 'another speed' | 'against each other'

export interface CutSight {
  readonly fps: number
  readonly boundsOf: (drawingId: string) => Rectangle | null
  readonly limits?: CutLimits
  /** Between shots: what the shot that ends has to be long enough for. */
  readonly said?: { readonly spokenWords: number; readonly wordsToRead: number; readonly neighbours: readonly number[] }
}

/** Frames over which a figure's travel, and a camera's speeding up, are looked at. */
const HEADING_FRAMES = 12
const SLOWING_FRAMES = 8
/** A camera that has lost so much of its speed comes to rest. */
const SLOWED_TO = 0.6
/** fw over those frames: less is standing. */
const STANDS_BELOW = 0.02
/** Words a second: spoken (150 a minute), and read, with a second to begin. */
const SPOKEN = 2.5
const READ = 3

/** What is to be read at a cut, in the order of its kinds; those of which nothing can be said are left out. */
export function readCut(cut: Cut, { fps, boundsOf, limits = CUT_LIMITS, said }: CutSight): readonly CutReading[] {
  const { before, after } = cut
  const last = before.stage.through(before.frame, before.cameraId)
  const first = after.stage.through(after.frame, after.cameraId)
  const [left, right] = [figuresIn(last, boundsOf), figuresIn(first, boundsOf)]
  const [from, to] = [eyeOf(left, before.speakers), eyeOf(right, after.speakers)]
  const travel = eyeTravel(from, to)
  const readings: CutReading[] = [{ kind: 'eye', verdict: travel > limits.eyeMost ? 'fix' : travel > limits.eyeEasy ? 'look' : 'well', from, to, travel }]
  const both = left.flatMap((figure) => ((other) => (other === undefined ? [] : [{ figure, other }]))(right.find(({ name }) => sameName(name, figure.name))))
  const subject = both.find(({ figure }) => from.name !== null && sameName(figure.name, from.name)) ?? both[0]
  if (subject !== undefined) readings.push(sizeOf(subject.figure, subject.other, last.lens.position, first.lens.position, limits))
  const headings = both.map(({ figure, other }) => directionOf(figure, headingAt(before, figure.levelId, -1), headingAt(after, other.levelId, 1)))
  const direction = headings.find(({ verdict }) => verdict !== 'well') ?? headings.find(({ name }) => subject !== undefined && sameName(name, subject.figure.name)) ?? headings[0]
  if (direction !== undefined && (direction.before !== 'still' || direction.after !== 'still')) readings.push(direction)
  if (both.length >= 2) {
    const [a, b] = [both[0]!, both[1]!]
    const [sideBefore, sideAfter] = [sideOfLine(a.figure.place, b.figure.place, last.lens.position), sideOfLine(a.other.place, b.other.place, first.lens.position)]
    if (Math.abs(sideBefore) > 1e-6 && Math.abs(sideAfter) > 1e-6) readings.push({ kind: 'line', verdict: sideBefore * sideAfter < 0 ? 'fix' : 'well', names: [a.figure.name, b.figure.name], before: sideBefore, after: sideAfter })
  }
  readings.push(motionOf(before, after, fps, limits))
  if (cut.kind === 'shots' && said !== undefined) readings.push(lengthOf(before.stage.lengthFrames / fps, said))
  return readings
}

/** How a subject's size and the direction in which it is seen change. */
function sizeOf({ name, height, place }: SeenFigure, other: SeenFigure, from: Point3, to: Point3, { jumpRatio, jumpDegrees }: CutLimits): CutReading {
  const [a, b] = [subtract(place, from), subtract(other.place, to)]
  const turnDegrees = (Math.acos(Math.min(1, Math.max(-1, dot(a, b) / (length(a) * length(b) || 1)))) * 180) / Math.PI
  const ratio = other.height / height
  const jumps = Math.max(ratio, 1 / ratio) < jumpRatio && turnDegrees < jumpDegrees
  return { kind: 'size', verdict: jumps ? 'look' : 'well', name, before: height, after: other.height, ratio, turnDegrees }
}

/**
 * Where a figure is going over the frames before a cut (`way` −1) or after it (1), as the camera of the cut's frame sees its way: a
 * figure that is followed stays in the picture and goes somewhere all the same.
 */
function headingAt({ stage, frame, cameraId }: CutSide, levelId: string, way: -1 | 1): Heading {
  const other = Math.min(stage.lengthFrames - 1, Math.max(0, frame + way * HEADING_FRAMES))
  const { lens } = stage.through(frame, cameraId)
  const seenAt = (at: number) => project(lens, stage.seen(at).standOf(levelId).place)
  const [early, late] = [seenAt(Math.min(frame, other)), seenAt(Math.max(frame, other))]
  const across = late.u - early.u
  const nearer = early.z > 0 && late.z > 0 ? Math.log(early.z / late.z) : 0
  if (Math.abs(nearer) > 2 * STANDS_BELOW && Math.abs(nearer) > 4 * Math.abs(across)) return nearer > 0 ? 'to us' : 'away'
  return Math.abs(across) < STANDS_BELOW ? 'still' : across > 0 ? 'right' : 'left'
}

function directionOf({ name }: SeenFigure, before: Heading, after: Heading): Extract<CutReading, { readonly kind: 'direction' }> {
  const isFlipped = (before === 'left' && after === 'right') || (before === 'right' && after === 'left')
  const says = isFlipped ? 'flipped' : before === after ? 'kept' : before === 'still' || after === 'still' ? 'begins' : 'through'
  return { kind: 'direction', verdict: isFlipped ? 'fix' : 'well', name, before, after, says }
}

/** A camera's step from a frame to the next, on screen. */
function stepOf({ stage, cameraId }: CutSide, frame: number): { readonly far: number; readonly u: number; readonly v: number } {
  const [a, b] = [stage.poseOf(cameraId, frame), stage.poseOf(cameraId, frame + 1)]
  const { optics } = stage
  const middle = project(lensOf(b, optics), unproject(lensOf(a, optics), 0, 0, Math.max(0.1, -a.depth)))
  return { far: screenMotion(a, b, optics), u: middle.u, v: middle.v }
}

/** How the camera goes into a cut and comes out of it. */
function motionOf(before: CutSide, after: CutSide, fps: number, { alikeSpeeds, restsBelow }: CutLimits): CutReading {
  const still = { far: 0, u: 0, v: 0 }
  const steps = (side: CutSide, from: number, to: number) => Array.from({ length: Math.max(0, to - from) }, (_, i) => stepOf(side, from + i))
  // Two framings a frame apart jump between them: neither side has that step.
  const into = steps(before, Math.max(0, before.frame - SLOWING_FRAMES), before.frame)
  const out = steps(after, after.frame, Math.min(after.stage.lengthFrames - 1, after.frame + SLOWING_FRAMES))
  const [a, b] = [into.at(-1) ?? still, out[0] ?? still]
  const [speedA, speedB] = [a.far * fps, b.far * fps]
  const fastest = (all: readonly { readonly far: number }[]) => Math.max(0, ...all.map(({ far }) => far)) * fps
  const says = ((): MotionSays => {
    const [restsA, restsB] = [speedA < restsBelow, speedB < restsBelow]
    if (restsA && restsB) return fastest(into) >= restsBelow ? 'comes to rest' : 'rest to rest'
    if (restsB) return speedA < SLOWED_TO * fastest(into) ? 'comes to rest' : 'stops dead'
    if (restsA) return 'starts at full speed'
    const along = a.u * b.u + a.v * b.v
    if (along < -0.5 * Math.hypot(a.u, a.v) * Math.hypot(b.u, b.v)) return 'against each other'
    if (Math.max(speedA / speedB, speedB / speedA) <= alikeSpeeds) return 'alike'
    if (speedB < SLOWED_TO * fastest(out)) return 'sets off'
    return speedA < SLOWED_TO * fastest(into) ? 'comes to rest' : 'another speed'
  })()
  // What gets up to speed only after the cut sets off there.
  const gentle = says === 'starts at full speed' && speedB < SLOWED_TO * fastest(out) ? 'sets off' : says
  const isWell = gentle === 'rest to rest' || gentle === 'comes to rest' || gentle === 'alike' || gentle === 'sets off'
  return { kind: 'motion', verdict: isWell ? 'well' : 'look', before: speedA, after: speedB, says: gentle }
}

function lengthOf(seconds: number, { spokenWords, wordsToRead, neighbours }: NonNullable<CutSight['said']>): CutReading {
  const asks = Math.max(spokenWords / SPOKEN, wordsToRead === 0 ? 0 : 1 + wordsToRead / READ)
  const mean = neighbours.length === 0 ? null : neighbours.reduce((sum, each) => sum + each, 0) / neighbours.length
  return { kind: 'length', verdict: seconds < asks ? 'look' : 'well', seconds, asks, neighbours: mean }
}

/** The same as long as what it says is: whoever accepts it accepts this. */
export function aboutReading(reading: CutReading): string {
  let hash = 0x811c9dc5
  for (const letter of JSON.stringify(reading, (_, value: unknown) => (typeof value === 'number' ? Math.round(value * 1e3) : value))) hash = Math.imul(hash ^ letter.charCodeAt(0), 0x01000193) >>> 0
  return hash.toString(36)
}

/** The worst of what is read at a cut. */
export const worstVerdict = (readings: readonly Pick<CutReading, 'verdict'>[]): Verdict => VERDICTS[Math.max(0, ...readings.map(({ verdict }) => VERDICTS.indexOf(verdict)))]!
