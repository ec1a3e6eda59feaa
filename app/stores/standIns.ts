import type { FigurePose, FigureView } from '@rubato/core/ink'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'

export type StandInKind = 'figure' | 'box' | 'cylinder' | 'doorway' | 'car' | 'grid'

/** What the next stand-in is, in metres; kept in this browser. */
export interface StandInChoice {
  kind: StandInKind
  heads: number
  view: FigureView
  pose: FigurePose
  figure: { height: number }
  box: { width: number; height: number; length: number }
  cylinder: { width: number; height: number }
  doorway: { width: number; height: number }
  car: { width: number; height: number; length: number }
  grid: { width: number; step: number }
}

export const useStandInsStore = defineStore('standIns', () => {
  const choice = useLocalStorage<StandInChoice>(
    'rubato.standIn',
    { kind: 'figure', heads: 6, view: 'three-quarter', pose: 'standing', figure: { height: 1.7 }, box: { width: 1, height: 1, length: 1 }, cylinder: { width: 0.8, height: 1.2 }, doorway: { width: 1, height: 2.1 }, car: { width: 1.8, height: 1.5, length: 4.3 }, grid: { width: 10, step: 1 } },
    { mergeDefaults: true },
  )
  return { choice }
})
