import { onBeforeUnmount, shallowRef, watch, type Ref } from 'vue'
import type { Thinned } from '@rubato/core/stage'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import type { ThinAnswer, ThinAsk } from '~/workers/messages'

/** Which framings change nothing: found in a worker while `on`, anew when the shot changes, not while something is dragged. */
export function useThinning(on: Ref<boolean>, tolerancePx: Ref<number>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const found = shallowRef<Thinned | null>(null)
  let worker: Worker | null = null
  let number = 0

  function end() {
    number++
    worker?.terminate()
    worker = null
    found.value = null
  }
  function ask() {
    const { take, cameraId } = desk
    const { optics, project } = film
    if (take === null || cameraId === null || optics === null || project === null) return
    found.value = null
    // What is being found of an older state is not waited for.
    if (worker !== null) end()
    const made = (worker = new Worker(new URL('../workers/thin.worker.ts', import.meta.url), { type: 'module' }))
    made.onmessage = ({ data }: MessageEvent<ThinAnswer>) => {
      if (data.number !== number) return
      if (data.kind === 'found') found.value = data.found
      else film.refuse(`Thinning failed: ${data.what} Nothing was changed.`)
    }
    made.onerror = () => film.refuse('Thinning could not be started. Reload the page and try again.')
    const { panels, levels, framings, cameras } = take
    made.postMessage({ number: ++number, take: { ...take, panels, levels, framings, cameras, cells: {} }, cameraId, optics, tolerancePx: tolerancePx.value, widthPx: project.widthPx } satisfies ThinAsk)
  }
  watch([on, tolerancePx, () => desk.take?.framings, () => desk.take?.levels, () => film.gestureOpen], () => {
    if (!on.value) end()
    else if (!film.gestureOpen) ask()
  })
  onBeforeUnmount(end)
  return { found }
}
