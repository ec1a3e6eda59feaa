import { neededOf, needsOfTake, speedsOf, type TakeNeeds } from '@rubato/core/checks'
import { leastSlowing } from '@rubato/core/edits'
import { createTakeStage } from '@rubato/core/stage'
import type { Optics } from '@rubato/core/camera'
import type { SurveyAnswer, SurveyAsk } from './messages'

const say = (answer: SurveyAnswer) => postMessage(answer)

let optics: Optics | null = null
/** Of each take, what it shows; of one question at a time. */
let known = new Map<string, { readonly serial: number; readonly needs: TakeNeeds }>()
let knownFor = ''

function need({ number, of, margin, takes }: Extract<SurveyAsk, { readonly kind: 'need' }>): void {
  const begun = performance.now()
  try {
    const drawings = new Map(of.flatMap((each) => each.drawings.map((drawing) => [drawing.id, drawing] as const)))
    const asked = JSON.stringify([margin, of])
    if (asked !== knownFor) known = new Map()
    knownFor = asked
    const now: typeof known = new Map()
    for (const { takeId, serial, take } of takes) {
      const before = known.get(takeId)
      if (before?.serial === serial) now.set(takeId, before)
      else if (take === null) throw new Error(`take ${takeId} is not known`)
      else now.set(takeId, { serial, needs: needsOfTake(createTakeStage(take, optics!), takeId, drawings, margin) })
    }
    known = now
    const parts = [...now.values()].map(({ needs }) => needs)
    say({ kind: 'need', number, needs: of.map((each) => neededOf(each.drawings.map(({ id }) => id), parts)), tookMs: performance.now() - begun })
  } catch (error) {
    known = new Map()
    say({ kind: 'failed', number, what: (error as Error).message })
  }
}

function speed(ask: Extract<SurveyAsk, { readonly kind: 'speed' | 'slow' }>): void {
  const { number, take, fps, limit } = ask
  try {
    if (ask.kind === 'slow') return say({ kind: 'slow', number, slowing: leastSlowing(take, ask.levelId, ask.strobe, optics!, fps, limit) })
    say({ kind: 'speed', number, speeds: speedsOf(createTakeStage(take, optics!), fps, limit) })
  } catch (error) {
    say({ kind: 'failed', number, what: (error as Error).message })
  }
}

self.onmessage = ({ data: ask }: MessageEvent<SurveyAsk>) => {
  if (ask.kind === 'begin') {
    optics = ask.optics
    known = new Map()
  } else if (ask.kind === 'need') need(ask)
  else speed(ask)
}
