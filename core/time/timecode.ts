import { timecodeBase, type Rate } from './rate'

/** Drop-frame counting exists for 30000/1001 and 60000/1001 only. */
export function canDropFrames(rate: Rate): boolean {
  return rate.denominator === 1001 && (rate.numerator === 30000 || rate.numerator === 60000)
}

/**
 * `hh:mm:ss:ff` for a frame number. With `drop`, the first 2 (or 4) numbers of every minute but each tenth are
 * skipped (SMPTE ST 12) and a `;` stands before the frames. Negative frames get a leading minus.
 */
export function timecodeOfFrame(frame: number, rate: Rate, drop = false): string {
  const base = timecodeBase(rate)
  const dropping = drop && canDropFrames(rate)
  let count = Math.abs(frame)
  if (dropping) {
    const dropped = base / 15
    const tenMinutes = base * 600 - dropped * 9
    const minute = base * 60 - dropped
    const tens = Math.floor(count / tenMinutes)
    const rest = count % tenMinutes
    count += dropped * 9 * tens + (rest < dropped ? 0 : dropped * Math.floor((rest - dropped) / minute))
  }
  const two = (value: number) => String(value).padStart(2, '0')
  const frames = count % base
  const seconds = Math.floor(count / base)
  return (
    (frame < 0 ? '-' : '') +
    `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}` +
    `${dropping ? ';' : ':'}${two(frames)}`
  )
}

/**
 * The frame a timecode names, or null where it names none: malformed, a part out of range, or a dropped number.
 * Fewer parts are read from the right: `2:12` is 2 s 12 f. A `;` before the frames asks for drop-frame counting.
 */
export function frameOfTimecode(text: string, rate: Rate, drop = text.includes(';')): number | null {
  const match = /^(-?)(?:(?:(\d{1,3}):)?(\d{1,2}):)?(\d{1,2})[:;](\d{1,2})$/.exec(text.trim())
  if (match === null) return null
  const [hours, minutes, seconds, frames] = [match[2], match[3], match[4], match[5]].map((part) => Number(part ?? 0))
  const base = timecodeBase(rate)
  if (minutes! > 59 || seconds! > 59 || frames! >= base) return null
  let count = ((hours! * 60 + minutes!) * 60 + seconds!) * base + frames!
  if (drop && canDropFrames(rate)) {
    const dropped = base / 15
    const totalMinutes = hours! * 60 + minutes!
    if (seconds === 0 && frames! < dropped && totalMinutes % 10 !== 0) return null
    count -= dropped * (totalMinutes - Math.floor(totalMinutes / 10))
  }
  return match[1] === '-' && count !== 0 ? -count : count
}
