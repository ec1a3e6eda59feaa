import { framesPerSecond, secondsOfFrames, type Rate } from './rate'
import { frameOfTimecode, timecodeOfFrame } from './timecode'

/** How moments and lengths are written. `feet` is feet+frames of 35 mm film, 16 frames a foot. */
export const TIME_DISPLAYS = Object.freeze(['timecode', 'frames', 'seconds', 'feet'] as const)
export type TimeDisplay = (typeof TIME_DISPLAYS)[number]

export const FRAMES_PER_FOOT = 16

export interface TimeBase {
  readonly rate: Rate
  /** The timecode of the film's first frame, as a count of frames; moments are written from there. */
  readonly startFrame: number
  /** Whether timecode drops numbers; only where the rate can. */
  readonly drop: boolean
}

/** Feet and frames: `3+08` is frame 56. Negative frames get a leading minus. */
export function feetOfFrames(frames: number): string {
  const count = Math.abs(frames)
  return `${frames < 0 ? '-' : ''}${Math.floor(count / FRAMES_PER_FOOT)}+${String(count % FRAMES_PER_FOOT).padStart(2, '0')}`
}

/** The frames that `3+08` names; null where it is not feet and frames, or the frames fill a foot. */
export function framesOfFeet(text: string): number | null {
  const match = /^(-?)(\d{1,6})\+(\d{1,2})$/.exec(text.trim())
  if (match === null || Number(match[3]) >= FRAMES_PER_FOOT) return null
  const frames = Number(match[2]) * FRAMES_PER_FOOT + Number(match[3])
  return match[1] === '-' && frames !== 0 ? -frames : frames
}

/** A frame of the film, counted from 0, as a moment. Frames, seconds and feet count from `startFrame` too. */
export function showMoment(frame: number, display: TimeDisplay, base: TimeBase): string {
  return write(frame + base.startFrame, display, base)
}

/** A number of frames as a length. */
export function showLength(frames: number, display: TimeDisplay, base: TimeBase): string {
  // Lengths of less than an hour are read sooner without hours.
  const text = write(frames, display, { ...base, drop: false })
  return display === 'timecode' ? text.replace(/^(-?)00:/, '$1') : text
}

function write(count: number, display: TimeDisplay, { rate, drop }: TimeBase): string {
  switch (display) {
    case 'timecode':
      return timecodeOfFrame(count, rate, drop)
    case 'frames':
      return String(count)
    case 'seconds':
      return `${secondsOfFrames(count, rate).toFixed(2)} s`
    case 'feet':
      return feetOfFrames(count)
  }
}

/**
 * The film's frame that a typed moment names: timecode, `12.5s`, feet+frames, or plain digits, which are frames.
 * Null where it names none. It may lie outside the film.
 */
export function frameOfMoment(text: string, base: TimeBase): number | null {
  const entry = text.trim().toLowerCase()
  const counted = countOf(entry, base)
  return counted === null ? null : counted - base.startFrame
}

function countOf(entry: string, { rate, drop }: TimeBase): number | null {
  if (/^-?\d{1,9}f?$/.test(entry)) return Number.parseInt(entry, 10)
  const seconds = /^(-?\d*\.?\d+)\s*s$/.exec(entry)
  if (seconds !== null) return Math.round(Number(seconds[1]) * framesPerSecond(rate))
  return framesOfFeet(entry) ?? frameOfTimecode(entry, rate, drop || entry.includes(';'))
}
