import { EMPTY_OUTLINE, EMPTY_TAKE, orderOfNumber, type Film } from '@rubato/core/document'
import { createPinia, setActivePinia } from 'pinia'
import { vi } from 'vitest'
import { nextTick } from 'vue'
import { useFilmStore } from './film'

/** A film of two shots of so many frames each, at 24 a second, with a camera each. */
export function filmOfTwo(lengthFrames = 24): Film {
  const project = { id: 'f', title: 'Film', rate: { numerator: 24, denominator: 1 }, widthPx: 1920, heightPx: 1080, filmBackMm: 36, baseLensMm: 50, defaultPanelFrames: 24 }
  const panel = { id: 'p', order: orderOfNumber(0), lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' }
  const body = { ...EMPTY_TAKE, panels: { p: panel }, cameras: { a: { id: 'a', order: 'a0', letter: 'A', locked: false } } }
  const shot = (id: string, order: string, take: string) => ({ id, sequenceId: 'q', order, label: id, title: '', circledTakeId: take })
  const take = (id: string, shotId: string) => ({ id, shotId, order: 'a0', letter: 'A' })
  return {
    outline: { ...EMPTY_OUTLINE, project: { f: project }, sequences: { q: { id: 'q', order: 'a0', label: '01', title: '', targetFrames: null } }, shots: { s1: shot('s1', 'a0', 't1'), s2: shot('s2', 'a1', 't2') }, takes: { t1: take('t1', 's1'), t2: take('t2', 's2') } },
    takes: { t1: body, t2: body },
    drawings: {},
  }
}

/** A window with a film open and no server, whose screen and clock are moved by hand. */
export function openWindow(film = filmOfTwo()) {
  const window = {
    now: 1000,
    /** What the screen's next picture is waited for by. */
    waiting: null as (() => void) | null,
    /** The next picture of the screen, so many milliseconds on. */
    async turn(ms: number) {
      window.now += ms
      const due = window.waiting
      window.waiting = null
      due?.()
      await nextTick()
    },
    close: () => (vi.unstubAllGlobals(), vi.restoreAllMocks()),
  }
  vi.stubGlobal('navigator', {})
  vi.stubGlobal('requestAnimationFrame', (call: () => void) => ((window.waiting = call), 1))
  vi.stubGlobal('cancelAnimationFrame', () => (window.waiting = null))
  vi.stubGlobal('fetch', () => new Promise(() => undefined))
  vi.spyOn(performance, 'now').mockImplementation(() => window.now)
  setActivePinia(createPinia())
  useFilmStore().film = film
  return window
}
