import { createTakeStage, type TakeStage } from '@rubato/core/stage'
import { chained, LENGTH, repeated, takeOf } from './movingTakes'
import { size } from '../scripts/benchSize.mjs'

const OPTICS = { filmBackMm: 36, baseLensMm: 50, aspect: 16 / 9 }

/** Microseconds a frame, over every frame of the shot. */
function evaluate(stage: TakeStage): number {
  const begun = performance.now()
  for (let frame = 0; frame < LENGTH; frame++) stage.at(frame)
  return ((performance.now() - begun) / LENGTH) * 1000
}

const stages = {
  still: createTakeStage(takeOf(12, 0), OPTICS),
  moving: createTakeStage(takeOf(12, 20), OPTICS),
  fewKeys: createTakeStage(takeOf(1, 2), OPTICS),
  manyKeys: createTakeStage(takeOf(1, 100), OPTICS),
  ten: createTakeStage(takeOf(10, 20), OPTICS),
  hundred: createTakeStage(takeOf(100, 20), OPTICS),
  apart: createTakeStage(takeOf(17, 20), OPTICS),
  sixteenDeep: createTakeStage(chained(takeOf(17, 20)), OPTICS),
  tenTimes: createTakeStage(repeated(10), OPTICS),
  hundredTimes: createTakeStage(repeated(100), OPTICS),
}
const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!
const times = Object.fromEntries(Object.keys(stages).map((name) => [name, [] as number[]]))
// Turn and turn about, so that a slow spell of the machine falls on all.
for (let round = 0; round < size(50, 4); round++) {
  for (const [name, stage] of Object.entries(stages)) {
    const took = evaluate(stage)
    if (round >= size(10, 2)) times[name]!.push(took)
  }
}
console.log(JSON.stringify(Object.fromEntries(Object.entries(times).map(([name, each]) => [name, median(each)]))))
