import { defineStore } from 'pinia'
import { createWorkerLine, type WorkerLine } from '~/clients/workerLine'
import type { SurveyAnswer, SurveyAsk } from '~/workers/messages'
import { useFilmStore } from './film'

/** An ask without what is put on it here. */
type Asked<A> = A extends { readonly kind: 'begin' } ? never : Omit<A, 'number'>

/** The worker that surveys shots: what art they need, how fast things go in them. */
export const useSurveyStore = defineStore('survey', () => {
  const film = useFilmStore()
  let line: WorkerLine<SurveyAsk> | null = null
  let begunFor = ''
  let number = 0
  const waiting = new Map<number, { readonly done: (answer: SurveyAnswer) => void; readonly failed: (why: Error) => void }>()

  function answer(told: SurveyAnswer) {
    const asked = waiting.get(told.number)
    waiting.delete(told.number)
    if (told.kind === 'failed') asked?.failed(new Error(told.what))
    else asked?.done(told)
  }
  function stopped(why: Error) {
    begunFor = ''
    const all = [...waiting.values()]
    waiting.clear()
    for (const { failed } of all) failed(why)
  }

  /** Fails where it can't be worked out, or the worker stopped by itself. Whether that one is new: it knows nothing that was sent before. */
  function ask<K extends SurveyAnswer['kind']>(asked: Asked<SurveyAsk>, kind: K): Promise<Extract<SurveyAnswer, { readonly kind: K }>> {
    line ??= createWorkerLine<SurveyAsk, SurveyAnswer>(() => new Worker(new URL('../workers/survey.worker.ts', import.meta.url), { type: 'module' }), { answer, stopped })
    const optics = JSON.stringify(film.optics)
    if (optics !== begunFor) line.send({ kind: 'begin', optics: { ...film.optics! } })
    begunFor = optics
    const mine = ++number
    const over = new Promise<Extract<SurveyAnswer, { readonly kind: K }>>((done, failed) => waiting.set(mine, { done: (told) => (told.kind === kind ? done(told as Extract<SurveyAnswer, { readonly kind: K }>) : failed(new Error(told.kind))), failed }))
    line.send({ ...asked, number: mine } as SurveyAsk)
    return over
  }
  return { ask }
})
