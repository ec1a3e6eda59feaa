import type { TakeFacts, Thing } from '@rubato/core/checks'
import { describe, expect, it } from 'vitest'
import { cameraWords, difficultyWords, madeWords, sortedBy, sortWords, stateOfWords, stateWords, STATES } from './breakdown'
import { daysChart, hardnessChart, sizesChart, timeChart } from './workCharts'

const facts: TakeFacts = { frames: 48, framings: 2, cameras: 1, camera: 'moves', move: [{ does: 'truck', way: 'in', percent: 32 }], dissolves: 0, dialogue: 0, levels: [], isTooLong: false }
const thing: Thing = { id: 'level.s.sky', sort: 'background', name: 'Sky', shotIds: ['s'], pieces: 1, drawings: 1, exposures: 1, stepped: null, size: { width: 1920.2, height: 1079.9999999 }, megapixels: 2, closest: 1, isEndless: false, isTooLong: false, moves: false, turned: false }
const look = { ink: '#000', rule: '#111', done: '#222', left: '#333', size: '#444', over: '#555', width: 300, height: 100 }

describe('words of the breakdown', () => {
  it('says what a camera does, what a thing is and how it is made', () => {
    expect(cameraWords(facts)).toBe('truck in 32 %')
    expect(cameraWords({ ...facts, camera: 'by hand', cameras: 2 })).toBe('truck in 32 %, held by hand, 2 cameras')
    expect([cameraWords({ ...facts, move: [] }), cameraWords({ ...facts, move: [], camera: 'locked' }), cameraWords({ ...facts, isTooLong: true })]).toEqual(['hardly moves', 'locked off', 'too long to be reckoned'])
    expect([sortWords(thing), sortWords({ ...thing, sort: 'set', pieces: 6 }), sortWords({ ...thing, sort: 'overlay', turned: true, moves: true })]).toEqual(['background', 'set of 6', 'overlay, turned, moves'])
    expect(madeWords(thing)).toBe('1,921 × 1,080')
    expect(madeWords({ ...thing, drawings: 8, stepped: 2 })).toBe('8 × 1,921 × 1,080 on 2s')
    expect([madeWords({ ...thing, size: null }), madeWords({ ...thing, size: null, isTooLong: true }), madeWords({ ...thing, isEndless: true })]).toEqual(['not seen', 'too long to reckon', '1,921 × 1,080 +'])
    expect(difficultyWords({ points: 7.25, terms: [{ of: 'level', count: 12, points: 6 }, { of: 'turned', count: 1, points: 1.25 }] })).toBe('12 levels: 6\n1 turned plane: 1.3\ntogether 7.3 points')
  })

  it('knows every state by its words', () => {
    for (const state of STATES) expect(stateOfWords(stateWords(state === 'todo' ? undefined : state).toUpperCase())).toBe(state === 'todo' ? null : state)
    expect([stateOfWords(''), stateOfWords('perhaps')]).toEqual([null, undefined])
  })

  it('puts rows in order as people count, what has nothing last whichever way', () => {
    const rows = ['10', '9', '', 'Ärger', null, 'zebra']
    expect(sortedBy(rows, (row) => row, 1)).toEqual(['9', '10', 'Ärger', 'zebra', '', null])
    expect(sortedBy(rows, (row) => row, -1)).toEqual(['zebra', 'Ärger', '10', '9', '', null])
    expect(sortedBy([3, 20, 3], (row) => row, -1)).toEqual([20, 3, 3])
  })

  it('draws days, sizes, difficulty and time; names are words and nothing more', () => {
    const sequences = [{ name: '<b>Kite', days: 4, doneDays: 1, seconds: 31, targetSeconds: 26 }, { name: 'Tower', days: 0, doneDays: 0, seconds: 5, targetSeconds: null }]
    const [all, done] = daysChart(sequences, look).traces as { x: number[]; y: string[]; text?: string[] }[]
    expect([all!.x, all!.y, all!.text, done!.x]).toEqual([[4, 0], ['‹b>Kite', 'Tower'], ['4', '0'], [1, 0]])
    const [sizes] = sizesChart([{ sort: 'background', width: 900 }, { sort: 'set', width: 3000 }, { sort: 'overlay', width: 90_000 }, { sort: 'figure', width: 500 }], look).traces as { y: number[] }[]
    expect(sizes!.y).toEqual([1, 0, 1, 0, 0, 0, 1])
    const [hard] = hardnessChart([0, 4, 58], look).traces as { x: string[]; y: number[] }[]
    expect([hard!.y.reduce((sum, each) => sum + each, 0), hard!.y[0], hard!.x.at(-1)]).toEqual([3, 2, '54–60'])
    const [, , time] = timeChart(sequences, look).traces as { x: number[]; marker: { color: string[] } }[]
    expect([time!.x, time!.marker.color]).toEqual([[31, 5], ['#555', '#222']])
    expect((hardnessChart([], look).traces as { y: number[] }[])[0]!.y).toEqual([0])
  })
})
