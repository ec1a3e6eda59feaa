import { framesPerSecond, type Rate } from './rate'
import { framesOfFeet } from './display'
import { frameOfTimecode } from './timecode'

/**
 * Reads a length as artists type it: `58` frames, `58f`, `1.5s`, `2:12` (seconds:frames), timecode, `3+08` (feet+frames), or relative to
 * `currentFrames`: `+6`, `-4`, `*1.2`, `/2`. Rounded to whole frames. Null where it is none of these or not finite.
 * The range is for the caller to judge.
 */
export function framesOfEntry(text: string, rate: Rate, currentFrames: number): number | null {
  const entry = text.trim().toLowerCase()
  const relative = /^([+\-*/])\s*(.+)$/.exec(entry)
  if (relative !== null) {
    const operator = relative[1]!
    if (operator === '*' || operator === '/') {
      if (!/^(\d+\.?\d*|\.\d+)$/.test(relative[2]!)) return null
      const factor = Number(relative[2])
      const frames = operator === '*' ? currentFrames * factor : currentFrames / factor
      return Number.isFinite(frames) ? Math.round(frames) : null
    }
    // One sign is enough: the amount has none of its own.
    const by = /^\d|^\./.test(relative[2]!) ? absoluteFrames(relative[2]!, rate) : null
    return by === null ? null : operator === '+' ? currentFrames + by : currentFrames - by
  }
  return absoluteFrames(entry, rate)
}

function absoluteFrames(entry: string, rate: Rate): number | null {
  const frames = /^(\d+)\s*f?$/.exec(entry)
  if (frames !== null) return Number(frames[1])
  const seconds = /^(\d*\.?\d+)\s*s$/.exec(entry)
  if (seconds !== null) return Math.round(Number(seconds[1]) * framesPerSecond(rate))
  return framesOfFeet(entry) ?? frameOfTimecode(entry, rate)
}
