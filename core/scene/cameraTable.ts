import { fieldAngleDegrees } from '../camera/lens'
import { inOrder } from '../document/order'
import type { TakeStage } from '../stage/takeStage'
import { secondsOfFrames, type Rate } from '../time/rate'
import { timecodeOfFrame } from '../time/timecode'
import { writeTable } from '../interchange/workTable'

export interface CameraTableAsk {
  readonly stage: TakeStage
  readonly rate: Rate
  readonly drop: boolean
  /** Of the film, the frame that is the shot's first, counted with its start timecode. */
  readonly startFrame: number
  /** Of the picture. */
  readonly widthPx: number
  readonly metresPerFw: number | null
}

/** A frame of a camera: where it is, how it is turned and what it sees. */
interface CameraRow {
  readonly camera: string
  readonly frame: number
  readonly timecode: string
  readonly seconds: number
  readonly live: boolean
  /** x right, y up, depth away, of the camera's own place: fw, px of the picture (one fw is its width), and metres where a scale is declared. */
  readonly placeFw: readonly [number, number, number]
  readonly placePx: readonly [number, number, number]
  readonly placeMetres: readonly [number, number, number] | null
  readonly panDegrees: number
  readonly tiltDegrees: number
  readonly rollDegrees: number
  readonly lensMm: number
  readonly fieldDegrees: number
}

const round = (value: number, digits: number) => Number(value.toFixed(digits)) + 0

function rowsOf({ stage, rate, drop, startFrame, widthPx, metresPerFw }: CameraTableAsk): readonly CameraRow[] {
  return inOrder(stage.take.cameras).flatMap((camera) =>
    Array.from({ length: stage.lengthFrames }, (_, frame): CameraRow => {
      const { x, y, depth, panDegrees, tiltDegrees, rollDegrees, focalLengthMm } = stage.poseOf(camera.id, frame)
      const place = (factor: number, digits: number) => [round(x * factor, digits), round(y * factor, digits), round(depth * factor, digits)] as const
      return {
        camera: camera.letter,
        frame,
        timecode: timecodeOfFrame(startFrame + frame, rate, drop),
        seconds: round(secondsOfFrames(frame, rate), 6),
        live: stage.live.at(frame) === camera.id,
        placeFw: place(1, 9),
        placePx: place(widthPx, 5),
        placeMetres: metresPerFw === null ? null : place(metresPerFw, 9),
        panDegrees: round(panDegrees, 9),
        tiltDegrees: round(tiltDegrees, 9),
        rollDegrees: round(rollDegrees, 9),
        lensMm: round(focalLengthMm, 9),
        fieldDegrees: round(fieldAngleDegrees(focalLengthMm, stage.optics.filmBackMm), 9),
      }
    }),
  )
}

/** Every camera at every frame as CSV (RFC 4180), units in the header. Turns: pan about the upright, to the right; then tilt, up; then roll, clockwise in the picture's eyes. */
export function writeCameraTable(ask: CameraTableAsk): string {
  const metres = ask.metresPerFw === null ? [] : ['x (m)', 'y (m)', 'depth (m)']
  const header = ['camera', 'frame', 'timecode', 'time (s)', 'live', 'x (fw)', 'y (fw)', 'depth (fw)', 'x (px)', 'y (px)', 'depth (px)', ...metres, 'pan (degrees)', 'tilt (degrees)', 'roll (degrees)', 'lens (mm)', 'field across (degrees)']
  return writeTable(header, rowsOf(ask).map((row) => [row.camera, row.frame, row.timecode, row.seconds, row.live ? 1 : 0, ...row.placeFw, ...row.placePx, ...(row.placeMetres ?? []), row.panDegrees, row.tiltDegrees, row.rollDegrees, row.lensMm, row.fieldDegrees]))
}

/** The same as JSON, with what a frame width is. */
export function writeCameraJson(ask: CameraTableAsk): string {
  const { optics, lengthFrames } = ask.stage
  const units = { place: 'x right, y up, depth away from the untouched camera', fw: 'frame widths of the untouched picture', px: `${ask.widthPx} to one fw`, metres: ask.metresPerFw === null ? 'not declared' : `${ask.metresPerFw} to one fw`, turns: 'degrees: pan to the right, then tilt up, then roll', lens: 'mm', filmBackMm: optics.filmBackMm }
  return JSON.stringify({ units, rate: [ask.rate.numerator, ask.rate.denominator], frames: lengthFrames, aspect: optics.aspect, rows: rowsOf(ask) }, null, 1)
}
