import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Render, RenderAsk } from '#shared/renders'
import { api } from '~/api/client'
import { useFilmStore } from './film'

/** Between two looks at the list: workers tell of every second. */
const LOOK_EVERY_MS = 700

/** What the server makes, and has made, of the film that is open; the same in every window. */
export const useRendersStore = defineStore('renders', () => {
  const film = useFilmStore()
  const list = shallowRef<readonly Render[]>([])
  const trouble = ref<string | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined
  let looked = -Infinity

  async function look() {
    clearTimeout(timer)
    timer = undefined
    const id = film.projectId
    if (id === null) return
    looked = performance.now()
    try {
      const found = await api.renders(id)
      if (film.projectId === id) [list.value, trouble.value] = [found, null]
    } catch (error) {
      trouble.value = (error as Error).message
    }
  }
  const lookSoon = () => (timer ??= setTimeout(() => void look(), Math.max(0, looked + LOOK_EVERY_MS - performance.now())))

  const running = computed(() => list.value.filter(({ state }) => state === 'running'))
  /** Of all that is running, 0…1; null where nothing is. */
  const share = computed(() => {
    if (running.value.length === 0) return null
    const sum = running.value.reduce((all, each) => all + shareOf(each), 0)
    return sum / running.value.length
  })

  const told = async (work: Promise<unknown>) => {
    trouble.value = null
    await work.catch((error: Error) => (trouble.value = error.message))
    await look()
  }
  const start = (ask: RenderAsk) => told(api.startRender(film.projectId!, ask))
  const end = (id: string) => told(api.endRender(film.projectId!, id))
  const again = (id: string) => told(api.againRender(film.projectId!, id))
  const urlOf = (render: Render, file: number) => api.renderedUrl(film.projectId!, render.id, file)

  watch(
    () => film.projectId,
    (id) => {
      list.value = []
      trouble.value = null
      if (id !== null) lookSoon()
    },
    { immediate: true },
  )
  watch(() => film.rendersTold, lookSoon)
  return { list, trouble, running, share, start, end, again, urlOf, look }
})

/** How far one is, 0…1. */
export function shareOf({ frames, doneFrames, pieces, donePieces }: Render): number {
  if (frames > 0) return (doneFrames / frames) * 0.97
  return pieces === 0 ? 0 : donePieces / pieces
}
