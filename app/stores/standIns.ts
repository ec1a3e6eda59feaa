import type { FigurePose, FigureView } from '@rubato/core/ink'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'

export type StandInKind = 'figure' | 'box' | 'cylinder' | 'doorway' | 'car' | 'grid'
/** Metres; `step`, between the lines of a grid. What a kind does not have is not read. */
export type StandInSize = Record<'width' | 'height' | 'length' | 'step', number>

/** What the next stand-in is; kept in this browser. */
export interface StandInChoice {
  kind: StandInKind
  heads: number
  view: FigureView
  pose: FigurePose
  sizes: Record<StandInKind, StandInSize>
}

const size = (fields: Partial<StandInSize>): StandInSize => ({ width: 1, height: 1, length: 1, step: 1, ...fields })
const USUAL: StandInChoice = {
  kind: 'figure',
  heads: 6,
  view: 'three-quarter',
  pose: 'standing',
  sizes: {
    figure: size({ height: 1.7 }),
    box: size({}),
    cylinder: size({ width: 0.8, height: 1.2 }),
    doorway: size({ height: 2.1 }),
    car: size({ width: 1.8, height: 1.5, length: 4.3 }),
    grid: size({ width: 10 }),
  },
}
/** The sizes that each kind has, and what they are called; first what matters most. */
export const STAND_IN_SIZES: Readonly<Record<StandInKind, readonly (readonly [field: keyof StandInSize, label: string])[]>> = {
  figure: [['height', 'height']],
  box: [['width', 'width'], ['height', 'height'], ['length', 'deep']],
  cylinder: [['width', 'width'], ['height', 'height']],
  doorway: [['width', 'width'], ['height', 'height']],
  car: [['length', 'length'], ['height', 'height'], ['width', 'width']],
  grid: [['width', 'side'], ['step', 'squares of']],
}

export const useStandInsStore = defineStore('standIns', () => {
  const choice = useLocalStorage<StandInChoice>('rubato.standIn2', USUAL, { mergeDefaults: true })
  return { choice }
})
