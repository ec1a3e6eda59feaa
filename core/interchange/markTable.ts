import type { CutList } from '../stage/cutList'
import { listTimecode, startsOf } from '../stage/cutList'
import { framesPerSecond } from '../time/rate'
import { writeTable } from './workTable'

/** Marks as CSV (RFC 4180): timecode, frame (from 0) and seconds of the film, the shot and the frame in it, meaning, name. */
export function writeMarks(list: CutList): string {
  const starts = startsOf(list.pictures)
  const fps = framesPerSecond(list.rate)
  const rows = list.marks.map(({ frame, meaning, name }) => {
    const index = Math.max(0, starts.findLastIndex((start, i) => start <= frame && i < list.pictures.length))
    return [listTimecode(list, list.startFrame + frame), frame, Number((frame / fps).toFixed(4)), list.pictures[index]?.label ?? '', frame - (starts[index] ?? 0), meaning, name]
  })
  return writeTable(['Timecode', 'Frame', 'Seconds', 'Shot', 'Frame in shot', 'Meaning', 'Name'], rows)
}
