import type { CameraPose } from '@rubato/core/camera'
import { placedFramings, shorten, type Film, type Take, type TakeBody } from '@rubato/core/document'
import { addTake, circleTake, removeTake, renameTake, takesOfShot, type Made } from '@rubato/core/edits'
import { createTakeStage, type TakeStage } from '@rubato/core/stage'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { api } from '~/api/client'
import { UNIT_LOADERS } from '~/api/units'
import { useDeskStore } from './desk'
import { withEachFilm } from './eachFilm'
import { useFilmStore } from './film'

/** Whose framings lie over the lens view, faint. */
export type PlanSource =
  | { readonly kind: 'take' | 'camera'; readonly id: string }
  /** The shot as a version has it. */
  | { readonly kind: 'version'; readonly id: string; readonly name: string }

/** What a plan says at a frame: where its live camera is, and the framings around. */
interface Plan {
  readonly name: string
  readonly pose: CameraPose
  readonly framings: readonly { readonly number: number; readonly pose: CameraPose }[]
}

/** The takes of the shot at the playhead, and what is compared with the one that the film shows. */
export const useTakesStore = defineStore('takes', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  /** By shot; a second window goes along. */
  const chosen = useLocalStorage<Readonly<Record<string, string>>>('rubato.comparedTakes', {})
  /** Held, the other take is seen through the lens. */
  const flipped = ref(false)
  /** Where the edge of the wipe is, as a part of the frame's width; the other take is to the right of it. Null: none. */
  const wipeAt = ref<number | null>(null)
  const cardsOpen = ref(false)

  const takes = computed<readonly Take[]>(() => (desk.shotId === null ? [] : takesOfShot(film.outline, desk.shotId)))
  const circled = computed(() => takes.value.find(({ id }) => id === desk.takeId) ?? null)
  /** The one that was chosen to be compared, or the newest beside the circled one. */
  const other = computed(() => {
    const rest = takes.value.filter(({ id }) => id !== desk.takeId)
    return rest.find(({ id }) => id === chosen.value[desk.shotId ?? '']) ?? rest.at(-1) ?? null
  })
  const nameOf = ({ letter, name }: Take) => (name === undefined ? `take ${letter}` : `take ${letter}, ${name}`)
  function compareWith(takeId: string) {
    if (desk.shotId !== null) chosen.value = { ...chosen.value, [desk.shotId]: takeId }
  }

  /** Brings a take in with its art; what goes wrong is told. */
  async function bring(takeId: string): Promise<boolean> {
    try {
      await film.ensureTakeWithArt(takeId)
      return true
    } catch (error) {
      film.refuse(`This take could not be loaded. ${(error as Error).message} Try again when the server is back.`)
      return false
    }
  }

  const newId = () => crypto.randomUUID()
  /** One step on takes that are all here; after a circle has moved the playhead stays in its shot. */
  async function step(label: string, needs: readonly string[], make: (f: Film) => Made): Promise<boolean> {
    for (const id of needs) if (!(await bring(id))) return false
    const [shotId, offset] = [desk.shotId, desk.shotFrame]
    if (!film.perform(label, make)) return false
    const placed = film.filmStage.shots.find(({ shot }) => shot.id === shotId)
    if (placed !== undefined) desk.goTo(placed.startFrame + Math.min(offset, Math.max(0, placed.lengthFrames - 1)))
    return true
  }
  const projectId = () => film.project!.id
  const newFrom = (take: Take) => step(`new take from ${take.letter}`, [take.id], (f) => addTake(f, projectId(), take.id, newId))
  function circle(take: Take) {
    if (take.id === desk.takeId) return
    const before = desk.takeId
    return step(`circle take ${take.letter}`, [take.id], (f) => circleTake(f, projectId(), take.id)).then((done) => {
      // What was circled is what one compares with next.
      if (done && before !== null) compareWith(before)
    })
  }
  function remove(take: Take) {
    const at = takes.value.indexOf(take)
    const next = take.id === desk.takeId ? (takes.value[at - 1] ?? takes.value[at + 1]) : undefined
    return step(`delete ${shorten(nameOf(take), 60)}`, next === undefined ? [] : [next.id], (f) => removeTake(f, projectId(), take.id))
  }
  const rename = (take: Take, name: string) => film.perform(name.trim() === '' ? `no name for take ${take.letter}` : `name take ${take.letter}`, (f) => renameTake(f.outline, projectId(), take.id, name))

  const planOf = shallowRef<PlanSource | null>(null)
  /** The take of the shot as the chosen version has it. */
  const ofVersion = shallowRef<{ readonly shotId: string; readonly version: string; readonly body: TakeBody; readonly stage: TakeStage } | null>(null)
  const planTrouble = ref<string | null>(null)
  withEachFilm(() => {
    flipped.value = cardsOpen.value = false
    wipeAt.value = planOf.value = planTrouble.value = null
  })
  watch([planOf, () => desk.shotId], async ([source, shotId]) => {
    planTrouble.value = null
    if (source?.kind === 'take') return void (takes.value.some(({ id }) => id === source.id) && (await bring(source.id)))
    if (source?.kind !== 'version' || shotId === null || film.optics === null || film.projectId === null) return
    if (ofVersion.value?.version === source.id && ofVersion.value.shotId === shotId) return
    ofVersion.value = null
    try {
      const { outline } = await api.openVersion(film.projectId, source.id)
      const takeId = outline.shots[shotId]?.circledTakeId
      if (takeId === undefined) return void (planTrouble.value = `“${source.name}” has no such shot`)
      const [loaded] = await UNIT_LOADERS.take(film.projectId, source.id, [takeId])
      if (planOf.value !== source || desk.shotId !== shotId || loaded === undefined) return
      const body = loaded.unit as TakeBody
      ofVersion.value = { shotId, version: source.id, body, stage: createTakeStage(body, film.optics) }
    } catch (error) {
      if (planOf.value === source) planTrouble.value = `“${source.name}” could not be loaded: ${(error as Error).message}`
    }
  })

  /** The plan at the playhead; null without one, or where it is what is seen anyway. */
  const plan = computed<Plan | null>(() => {
    const source = planOf.value
    if (source === null || desk.stage === null) return null
    const found = source.kind === 'version' ? ofVersion.value : source.kind === 'take' ? planTake(source.id) : { body: desk.stage.take, stage: desk.stage }
    if (found === null || (source.kind === 'version' && (ofVersion.value?.version !== source.id || ofVersion.value.shotId !== desk.shotId))) return null
    const { body, stage } = found
    const frame = Math.min(desk.shotFrame, Math.max(0, stage.lengthFrames - 1))
    const cameraId = source.kind === 'camera' ? source.id : stage.live.at(frame)
    if (cameraId === null || body.cameras[cameraId] === undefined || (source.kind === 'camera' && cameraId === desk.cameraAtWorkId)) return null
    const placed = placedFramings(body, cameraId)
    const at = placed.findLastIndex((entry) => entry.frame <= frame)
    const near = placed.length < 2 ? [] : [at, at + 1].filter((i) => placed[i] !== undefined && placed[i].frame !== frame)
    const name = source.kind === 'version' ? source.name : source.kind === 'camera' ? `camera ${body.cameras[cameraId].letter}` : nameOf(takes.value.find(({ id }) => id === source.id)!)
    return { name, pose: stage.poseOf(cameraId, frame), framings: near.map((i) => ({ number: i + 1, pose: placed[i]!.framing.pose })) }
  })
  function planTake(id: string) {
    const stage = takes.value.some((take) => take.id === id) && id !== desk.takeId ? film.stageOf(id) : null
    return stage === null ? null : { body: stage.take, stage }
  }

  return { takes, circled, other, flipped, wipeAt, cardsOpen, nameOf, compareWith, bring, newFrom, circle, remove, rename, planOf, plan, planTrouble }
})
