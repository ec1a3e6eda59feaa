import { neededOf, needsOfTake, speedsOf, type TakeNeeds } from '@rubato/core/checks'
import { leastSlowing } from '@rubato/core/edits'
import { createTakeStage } from '@rubato/core/stage'
import type { Optics } from '@rubato/core/camera'
import type { TakeBody } from '@rubato/core/document'
import type { SurveyAnswer, SurveyAsk } from './messages'

const say = (answer: SurveyAnswer) => postMessage(answer)

let optics: Optics | null = null
/** Of each take, what it shows; of one question at a time. */
let known = new Map<string, { readonly serial: number; readonly needs: TakeNeeds }>()
let knownFor = ''
/** What was sent, by take: it outlives a stroke, which changes only what is known of drawings. */
let bodies = new Map<string, { readonly serial: number; readonly take: TakeBody }>()

function need({ number, of, margin, takes }: Extract<SurveyAsk, { readonly kind: 'need' }>): void {
  const begun = performance.now()
  try {
    const drawings = new Map(of.flatMap((each) => each.drawings.map((drawing) => [drawing.id, drawing] as const)))
    const asked = JSON.stringify([margin, of])
    if (asked !== knownFor) known = new Map()
    knownFor = asked
    const now: typeof known = new Map()
    const held: typeof bodies = new Map()
    for (const { takeId, serial, take, beyond } of takes) {
      const here = bodies.get(takeId)
      const body = take ?? (here?.serial === serial ? here.take : null)
      if (body === null) throw new Error(`take ${takeId} is not known`)
      held.set(takeId, { serial, take: body })
      const before = known.get(takeId)
      now.set(takeId, before?.serial === serial ? before : { serial, needs: needsOfTake(createTakeStage(body, optics!, beyond), takeId, drawings, margin) })
    }
    known = now
    bodies = held
    const parts = [...now.values()].map(({ needs }) => needs)
    say({ kind: 'need', number, needs: of.map((each) => neededOf(each.drawings.map(({ id }) => id), parts)), tookMs: performance.now() - begun })
  } catch (error) {
    known = new Map()
    bodies = new Map()
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
    bodies = new Map()
  } else if (ask.kind === 'need') need(ask)
  else speed(ask)
}
