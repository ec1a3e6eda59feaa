import { onBeforeUnmount, shallowRef, watch, type Ref } from 'vue'
import { artReaches, type Thinned } from '@rubato/core/stage'
import { thinJobs } from '~/clients/thinJobs'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** Which framings, or keys of the level in hand, change nothing: found in a worker while `on`, anew when the shot changes, not while something is dragged. */
export function useThinning(on: Ref<boolean>, tolerancePx: Ref<number>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const found = shallowRef<Thinned | null>(null)
  let gate = new AbortController()

  function end() {
    gate.abort()
    found.value = null
  }
  async function ask() {
    const { take, cameraAtWorkId: cameraId } = desk
    const { optics, project } = film
    const of = desk.tool === 'level' && desk.selectedLevelId !== null ? { levelId: desk.selectedLevelId } : cameraId === null ? null : { cameraId }
    if (take === null || of === null || optics === null || project === null) return
    // What is being found of an older state is not waited for.
    end()
    const { signal } = (gate = new AbortController())
    try {
      const thinned = await thinJobs.run({ take: { ...take, cells: {} }, of, optics, tolerancePx: tolerancePx.value, widthPx: project.widthPx, reaches: artReaches(take, film.drawingOf) }, { signal })
      if (!signal.aborted) found.value = thinned
    } catch (error) {
      if (!signal.aborted) film.refuse(`Thinning failed: ${(error as Error).message}. Nothing was changed; reload the page and try again.`)
    }
  }
  watch([on, tolerancePx, () => desk.take?.framings, () => desk.take?.levelKeys, () => desk.take?.levels, () => desk.take?.panels, () => desk.take?.cells, () => film.gestureOpen], () => {
    if (!on.value) end()
    else if (!film.gestureOpen) void ask()
  })
  onBeforeUnmount(end)
  return { found }
}
