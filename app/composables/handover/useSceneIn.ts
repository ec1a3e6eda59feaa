import { METRES_PER_FW_RANGE } from '@rubato/core/document'
import type { SceneBrought, SceneWishes } from '@rubato/core/scene'
import { useDebounceFn } from '@vueuse/core'
import { onScopeDispose, reactive, ref, shallowRef, watch, type Ref } from 'vue'
import { sceneJobs } from '~/clients/sceneJobs'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { wordRefusal } from '~/text/refusals'
import type { ToldScene } from '~/workers/handOverMessages'

/** Said in fields, where nothing is no choice. */
export const NO_CAMERA = -1
export const NEW_CAMERA = 'new'
/** After a wish changes, this long until what comes of it is worked out, ms. */
const SETTLE_MS = 250

/** A 3D scene for the shot that is open: what is in it, what it would become, and taking it. */
export function useSceneIn(file: Ref<File | null>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const told = shallowRef<ToldScene | null>(null)
  /** What the wishes make of it, of the take as it was then. */
  const result = shallowRef<{ readonly brought: SceneBrought; readonly take: object; readonly takeId: string } | null>(null)
  const trouble = ref<string | null>(null)
  const busy = ref(false)
  const wishes = reactive({ camera: NO_CAMERA, into: NEW_CAMERA, levels: true, others: false, metresPerFw: 1, zUp: false, rate: 'time' as SceneWishes['rate'], tolerancePx: 0.5 })
  let gate = new AbortController()

  async function ask(asked: SceneWishes | null) {
    const [from, takeId] = [file.value, desk.takeId]
    const take = takeId === null ? undefined : film.film.takes[takeId]
    if (from === null || film.project === null || film.optics === null) return null
    if (takeId === null || take === undefined) throw new Error('No shot is open that it could come into.')
    gate.abort()
    const { signal } = (gate = new AbortController())
    const answer = await sceneJobs.run({ file: from, takeId, take, wishes: asked, rate: { ...film.project.rate }, optics: film.optics, ids: crypto.randomUUID() }, { signal })
    return { ...answer, take, takeId }
  }
  async function look() {
    told.value = null
    result.value = null
    trouble.value = null
    busy.value = true
    try {
      const answer = await ask(null)
      if (answer === null) return
      const first = answer.told
      const own = first.cameras.findIndex(({ cameraId }) => cameraId === desk.cameraAtWorkId)
      Object.assign(wishes, {
        camera: first.cameras.length === 0 ? NO_CAMERA : Math.max(0, own),
        // Where spans work on the camera its framings can't be written over.
        into: own >= 0 && !Object.values(desk.take?.spans ?? {}).some(({ cameraId }) => cameraId === desk.cameraAtWorkId) ? desk.cameraAtWorkId! : NEW_CAMERA,
        levels: first.levels > 0,
        others: first.carriers + first.shapes > 0,
        metresPerFw: first.own === null ? (film.project?.metresPerFw ?? 1) : (first.own.metresPerFw ?? 1),
        zUp: false,
        rate: 'time',
      })
      told.value = first
      await work()
    } catch (error) {
      if ((error as Error).name !== 'AbortError') trouble.value = `${file.value?.name ?? 'It'} can’t be taken in. ${(error as Error).message} Nothing has been changed.`
    } finally {
      busy.value = false
    }
  }
  async function work() {
    if (told.value === null) return
    trouble.value = null
    busy.value = true
    try {
      const answer = await ask({ ...wishes, camera: wishes.camera === NO_CAMERA ? null : wishes.camera, into: wishes.into === NEW_CAMERA ? null : wishes.into, outputWidthPx: film.project!.widthPx })
      if (answer === null || answer.brought === null) return
      result.value = { brought: answer.brought, take: answer.take, takeId: answer.takeId }
      busy.value = false
      if (!answer.brought.made.ok) trouble.value = wordRefusal(answer.brought.made.refusal)
    } catch (error) {
      if ((error as Error).name === 'AbortError') return
      busy.value = false
      trouble.value = (error as Error).message
    }
  }
  const soon = useDebounceFn(work, SETTLE_MS)
  watch(file, (now) => (now === null ? stop() : void look()), { immediate: true })
  watch([wishes, () => (desk.takeId === null ? null : film.film.takes[desk.takeId])], () => {
    if (told.value === null) return
    result.value = null
    if (wishes.metresPerFw >= METRES_PER_FW_RANGE.min && wishes.metresPerFw <= METRES_PER_FW_RANGE.max) void soon()
  })
  /** Takes what has been worked out; false where the shot has changed since. */
  function take(): boolean {
    const now = result.value
    if (now === null || film.film.takes[now.takeId] !== now.take) return false
    return film.perform(`take ${told.value?.title || file.value?.name || 'a scene'} in`, () => now.brought.made)
  }
  function stop() {
    gate.abort()
    told.value = null
    result.value = null
    busy.value = false
  }
  onScopeDispose(stop)
  return { told, result, trouble, busy, wishes, take }
}
