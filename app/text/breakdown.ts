import type { Difficulty, TakeFacts, Term, Thing } from '@rubato/core/checks'
import type { WorkState } from '@rubato/core/document'
import { partsWords } from './moves'

/** `null`: nobody has said anything. */
export const STATE_WORDS: Readonly<Record<WorkState | 'todo', string>> = { todo: 'to do', work: 'in work', look: 'to look at', done: 'done', out: 'left out' }
export const stateWords = (state: WorkState | undefined) => STATE_WORDS[state ?? 'todo']
export const STATES = Object.keys(STATE_WORDS) as readonly (WorkState | 'todo')[]
/** The state that words stand for; undefined for none of them. */
export const stateOfWords = (words: string): WorkState | null | undefined => {
  const state = STATES.find((each) => STATE_WORDS[each] === words.trim().toLowerCase())
  return state === 'todo' || words.trim() === '' ? null : state
}

const TERM_WORDS: Readonly<Record<Term['of'], readonly [one: string, many: string]>> = {
  level: ['level', 'levels'],
  moving: ['moving level', 'moving levels'],
  turned: ['turned plane', 'turned planes'],
  camera: ['for the camera', 'for the camera'],
  paint: ['million px to paint', 'million px to paint'],
  exposure: ['change of drawing', 'changes of drawing'],
  dissolve: ['dissolve', 'dissolves'],
}
export const TERM_NAMES: Readonly<Record<Term['of'] | 'daysPerPoint', string>> = { level: 'each level', moving: 'each level that moves', turned: 'each turned plane', camera: 'the camera: 2 where it moves, 3 where it follows or is worked by hand, 2 more for each other camera', paint: 'each million px to be painted', exposure: 'each change of drawing', dissolve: 'each camera dissolve', daysPerPoint: 'days a point takes' }
const short = (value: number) => String(Number(value.toFixed(value < 10 ? 1 : 0)))
export const pointsWords = (points: number) => short(points)
export const daysWords = (days: number) => short(days)

/** What it is made of, a line each: "12 levels: 6". */
export function difficultyWords({ terms, points }: Difficulty): string {
  const lines = terms.map(({ of, count, points: own }) => `${short(count)} ${TERM_WORDS[of][count === 1 ? 0 : 1]}: ${short(own)}`)
  return [...lines, `together ${short(points)} points`].join('\n')
}

/** What a shot's camera does: "truck in 32 %, pan right"; "locked off". */
export function cameraWords({ camera, cameras, move, isTooLong }: TakeFacts): string {
  if (isTooLong) return 'too long to be reckoned'
  const first = move.length > 0 ? partsWords(move) : camera === 'locked' ? 'locked off' : camera === 'moves' ? 'hardly moves' : ''
  const extra = [camera === 'follows' ? 'follows' : camera === 'by hand' ? 'held by hand' : '', cameras > 1 ? `${cameras} cameras` : ''].filter((each) => each !== '')
  return [first, ...extra].filter((each) => each !== '').join(', ')
}

/** What sort of thing it is: "set of 6", "overlay, turned". */
export function sortWords({ sort, pieces, turned, moves }: Thing): string {
  return [sort === 'set' ? (pieces === 1 ? 'set' : `set of ${pieces}`) : sort, ...(turned ? ['turned'] : []), ...(moves ? ['moves'] : [])].join(', ')
}
const STEPS = { 2: 'on 2s', 3: 'on 3s', 4: 'on 4s', held: 'held' } as const
/** What of it is made: its size, or how many drawings. */
export function madeWords({ size, drawings, stepped, sort, isEndless, isTooLong }: Thing): string {
  if (size === null) return isTooLong ? 'too long to reckon' : 'not seen'
  const px = `${Math.ceil(size.width - 1e-6).toLocaleString('en')} × ${Math.ceil(size.height - 1e-6).toLocaleString('en')}${isEndless ? ' +' : ''}`
  return drawings > 1 && sort !== 'set' ? `${drawings} × ${px}${stepped === null ? '' : ` ${STEPS[stepped!]}`}` : px
}

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
/** Rows by what stands in a column; those that have nothing there last, whichever way. */
export function sortedBy<R>(rows: readonly R[], valueOf: (row: R) => string | number | null, way: 1 | -1): readonly R[] {
  const held = rows.map((row, i) => ({ row, i, value: valueOf(row) }))
  const isNone = (value: string | number | null) => value === null || value === ''
  return held
    .sort((a, b) => Number(isNone(a.value)) - Number(isNone(b.value)) || (isNone(a.value) ? 0 : way * (typeof a.value === 'number' && typeof b.value === 'number' ? a.value - b.value : collator.compare(String(a.value), String(b.value)))) || a.i - b.i)
    .map(({ row }) => row)
}
