import { freeze, orderOfNumber, takeLengthFrames, type Film, type Outline } from '@rubato/core/document'
import { conform, planConform } from '@rubato/core/edits'
import { readEditList, readTimeline, writeEditList, writeTimeline } from '@rubato/core/interchange'
import { createFilmStage, cutListOf } from '@rubato/core/stage'
import { sampleTake } from '../core/edits/testing'
import { size } from '../scripts/benchSize.mjs'

/** The cut of a long film, written, read and compared: ms of each. */
const SHOTS = size(1000, 20)
const rate = { numerator: 24, denominator: 1 }
const ids = Array.from({ length: SHOTS }, (_, i) => String(i))
const outline: Outline = {
  project: { film: { id: 'film', title: 'Long', rate, widthPx: 1280, heightPx: 720, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 } },
  sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } },
  shots: Object.fromEntries(ids.map((id, i) => [`s${id}`, { id: `s${id}`, sequenceId: 'q', order: orderOfNumber(i), label: String((i + 1) * 10).padStart(4, '0'), title: '', circledTakeId: `t${id}` }])),
  takes: Object.fromEntries(ids.map((id) => [`t${id}`, { id: `t${id}`, shotId: `s${id}`, order: 'a0', letter: 'A' }])),
  passages: {}, links: {}, sets: {}, rulerMarks: {}, lanes: {}, clips: {},
  transitions: Object.fromEntries(ids.filter((_, i) => i % 10 === 9).map((id) => [`s${id}`, { id: `s${id}`, at: 'cut', kind: 'dissolve', lengthFrames: 12, place: 'centre', angleDegrees: 0, softness: 0, colour: '#000000', soundToo: false }])),
}
const take = freeze(sampleTake(Array.from({ length: 10 }, (_, i) => 12 + i)))
const takes = Object.fromEntries(ids.map((id) => [`t${id}`, take]))
const stage = createFilmStage(outline, () => takeLengthFrames(take))
const timed = <T>(work: () => T): readonly [number, T] => {
  const begun = performance.now()
  const made = work()
  return [performance.now() - begun, made]
}
const [written, text] = timed(() => writeTimeline({ outline: freeze(outline), takes }, { nested: true, movie: null }))
const [read, found] = timed(() => readTimeline(text))
if (!found.ok) throw new Error(found.why)
const [, list] = timed(() => cutListOf(outline, stage))
const [listWritten, listText] = timed(() => writeEditList(list))
const [listRead, foundList] = timed(() => readEditList(listText, rate))
if (!foundList.ok) throw new Error(foundList.why)
// Every shot is changed: trimmed, and all of them turned round.
const changed = { ...found.list, transitions: [], pictures: [...found.list.pictures].reverse().map((picture) => ({ ...picture, sourceFrame: picture.sourceZero! + 3, lengthFrames: picture.lengthFrames - 5 })) }
const [planned, plan] = timed(() => planConform(outline, stage, changed))
let fresh = 0
const [taken, made] = timed(() => conform({ outline, takes, drawings: {} } as Film, 'film', plan, new Set(plan.lines.map(({ id }) => id)), () => `new-${fresh++}`))
if (!made.ok) throw new Error(made.refusal.code)
process.stdout.write(JSON.stringify({ written, read, listWritten, listRead, planned, taken, edits: made.edits.length, lines: plan.lines.length, bytes: text.length, shots: SHOTS }))
