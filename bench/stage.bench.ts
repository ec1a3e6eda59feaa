import { EMPTY_TAKE, placedPanels, unfolded, type Outline, type TakeBody, orderOfNumber } from '@rubato/core/document'
import { createFilmStage, createTakeStage } from '@rubato/core/stage'
import { buildSaltLantern } from '../demo/saltLantern'
import { size } from '../scripts/benchSize.mjs'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }

/** A film of `count` shots, every one a copy of the demo's shot 040. */
function longFilm(count: number) {
  const demo = buildSaltLantern()
  const body = unfolded(demo.takes['take-040-a']!, (id) => demo.sets?.[id] ?? null)
  const outline: Pick<Outline, 'sequences' | 'shots'> = {
    sequences: { s: { id: 's', order: 'a1', label: '01', title: '', targetFrames: null } },
    shots: Object.fromEntries(Array.from({ length: count }, (_, i) => [`s${i}`, { id: `s${i}`, sequenceId: 's', order: orderOfNumber(i), label: String(i), title: '', circledTakeId: `t${i}` }])),
  }
  const takes: Record<string, TakeBody> = Object.fromEntries(Array.from({ length: count }, (_, i) => [`t${i}`, { ...EMPTY_TAKE, ...body }]))
  const film = createFilmStage(outline, (takeId) => placedPanels(takes[takeId]!).at(-1)!.startFrame + 50)
  const stages = new Map(Object.entries(takes).map(([id, take]) => [id, createTakeStage(take, OPTICS)]))
  return { film, stages }
}

let seed = 1

/** Microseconds to find the shot at a film frame and evaluate it, over 2,000 of them. */
function evaluate({ film, stages }: ReturnType<typeof longFilm>): number {
  const begun = performance.now()
  for (let i = 0; i < 2000; i++) {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
    // The same few shots in both films, so that both are as warm.
    const placed = film.shots[seed % 10]!
    const frame = placed.startFrame + ((seed >>> 8) % placed.lengthFrames)
    const at = film.shotAt(frame)!
    stages.get(at.shot.circledTakeId)!.at(frame - at.startFrame)
  }
  return ((performance.now() - begun) / 2000) * 1000
}

const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!
const films = { small: longFilm(10), large: longFilm(size(1000, 20)) }
const times = { small: [] as number[], large: [] as number[] }
// Turn and turn about, so that a slow spell of the machine falls on both.
for (let round = 0; round < size(60, 4); round++) {
  const [small, large] = [evaluate(films.small), evaluate(films.large)]
  if (round < size(10, 2)) continue
  times.small.push(small)
  times.large.push(large)
}
console.log(JSON.stringify({ small: median(times.small), large: median(times.large) }))
