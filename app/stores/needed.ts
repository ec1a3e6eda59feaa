import { NEED_MARGIN, owesOf, takeForDrawings, type ArtNeed } from '@rubato/core/checks'
import { isSetLevel, pieceOf, showsNothing, type Level, type SetLevel, type TakeBody } from '@rubato/core/document'
import { useLocalStorage } from '@vueuse/core'
import type { Rectangle } from '@rubato/core/geometry'
import { drawingBounds } from '@rubato/core/ink'
import { defineStore } from 'pinia'
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'
import { serialShown } from '~/workers/artSender'
import type { NeededBy, SurveyAsk } from '~/workers/messages'
import { useDeskStore } from './desk'
import { useFilmStore } from './film'
import { useSetsStore } from './sets'
import { useSurveyStore } from './survey'

/** Other shots of a set are brought in so many at a time. */
const SHOTS_AT_ONCE = 20

/** What the moves of all shots need of the chosen levels' art. It is worked out while somebody looks, as quickly as it can be, and writes nothing. */
export const useNeededStore = defineStore('needed', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const sets = useSetsStore()
  const survey = useSurveyStore()
  /** Whether it lies around the art in Table and Draw. */
  const shown = useLocalStorage('rubato.needed', true)
  /** Of the frame, at each side, %. */
  const marginPercent = useLocalStorage('rubato.neededMargin', NEED_MARGIN.usual * 100)
  const margin = computed(() => Math.min(NEED_MARGIN.most, Math.max(0, (Number(marginPercent.value) || 0) / 100)))
  const needs = shallowRef<ReadonlyMap<string, ArtNeed>>(new Map())
  /** What the needs are of: levels that are not among them are never seen. */
  const answered = shallowRef<readonly string[]>([])
  const trouble = ref<string | null>(null)
  /** While other shots of a set are brought in. */
  const loading = shallowRef<{ readonly done: number; readonly total: number } | null>(null)

  let isOut = false
  let isStale = false
  const lookers = ref(0)
  /** Works it out for as long as the calling component is there, where `on` says so. */
  function look(on: () => boolean = () => true) {
    let counted = 0
    const stop = watch(on, (isOn) => {
      lookers.value += Number(isOn) - counted
      counted = Number(isOn)
    }, { immediate: true })
    onScopeDispose(() => {
      stop()
      lookers.value -= counted
    })
  }

  const needsArt = (level: Level) => !showsNothing(level) && level.kind !== 'reference' && level.standIn !== true
  const drawingsOf = (take: TakeBody, levelId: string) => [...new Set(Object.values(take.cells).flatMap((cell) => (cell.levelId === levelId && cell.drawingId !== null ? [cell.drawingId] : [])))]
  /** The chosen levels; of a set its pieces. */
  const chosen = computed<readonly Level[]>(() => {
    const { take } = desk
    if (take === null) return []
    return desk.chosenLevelIds.flatMap((id) => {
      const level = take.levels[id]
      if (level === undefined) return []
      if (isSetLevel(level)) return Object.values(take.levels).filter((each) => pieceOf(each.id)?.setLevelId === id && needsArt(each))
      return needsArt(level) ? [level] : []
    })
  })
  /** The set that they are pieces of, if they are. */
  const setId = computed(() => {
    const of = chosen.value.map(({ id }) => pieceOf(id)?.setLevelId).find((id) => id !== undefined)
    return of === undefined ? null : ((desk.take?.levels[of] as SetLevel | undefined)?.setId ?? null)
  })
  function boundsOf(drawingId: string): Rectangle | null {
    const drawing = film.drawingOf(drawingId)
    return drawing === null ? null : drawingBounds(drawing)
  }
  const of = computed<readonly NeededBy[]>(() => (desk.take === null ? [] : chosen.value.map((level) => ({ id: level.id, drawings: drawingsOf(desk.take!, level.id).map((id) => ({ id, bounds: boundsOf(id), owes: owesOf(level) })) }))))
  /** The takes that show them: the one that is open, and of a set the circled ones that stand in it. */
  const takeIds = computed<readonly string[]>(() => {
    if (desk.takeId === null) return []
    if (setId.value === null) return [desk.takeId]
    const users = sets.usersOf(setId.value)
    return [desk.takeId, ...film.filmStage.shots.flatMap(({ shot }) => (shot.id !== desk.shotId && users.has(shot.circledTakeId) ? [shot.circledTakeId] : []))]
  })

  /** Bodies as they were when they were here: they may be let go again. */
  const kept = new Map<string, TakeBody>()
  const sent = new Map<string, number>()
  let sentFor = ''

  function ask() {
    if (lookers.value === 0 || film.optics === null) return
    if (isOut) {
      isStale = true
      return
    }
    if (of.value.length === 0) {
      needs.value = new Map()
      answered.value = []
      return
    }
    const drawingIds = new Set(of.value.flatMap((each) => each.drawings.map(({ id }) => id)))
    // Bodies hang on which drawings are asked for, not on what is known of those: a stroke sends none again.
    const asked = JSON.stringify([film.optics, [...drawingIds].sort()])
    if (asked !== sentFor) sent.clear()
    sentFor = asked
    type Asked = Extract<SurveyAsk, { readonly kind: 'need' }>['takes'][number]
    const takes = takeIds.value.flatMap((takeId): Asked[] => {
      const body = film.takeOf(takeId) ?? kept.get(takeId)
      if (body === undefined) return []
      kept.set(takeId, body)
      const beyond = film.filmStage.beyondOf(takeId)
      const serial = serialShown(body, beyond)
      if (sent.get(takeId) === serial) return [{ takeId, serial, take: null, beyond }]
      sent.set(takeId, serial)
      return [{ takeId, serial, take: takeForDrawings(body, drawingIds), beyond }]
    })
    // The worker knows what it was asked of last, and no more.
    for (const takeId of [...sent.keys()]) if (!takeIds.value.includes(takeId)) sent.delete(takeId)
    const asking = of.value.map(({ id }) => id)
    isOut = true
    survey
      .ask({ kind: 'need', of: of.value, margin: margin.value, takes }, 'need')
      .then(
        (answer) => {
          trouble.value = null
          needs.value = new Map(answer.needs.flatMap((need, i) => (need === null ? [] : [[asking[i]!, need] as const])))
          answered.value = asking
        },
        (why: Error) => {
          // What was sent is not known any more.
          sentFor = ''
          trouble.value = `What art is needed could not be worked out (${why.message}). It is tried again with the next change.`
        },
      )
      .finally(() => {
        isOut = false
        if (!isStale) return
        isStale = false
        ask()
      })
  }

  watch([() => lookers.value > 0, of, margin, takeIds, () => desk.take, () => film.film.outline.transitions, () => film.optics, loading], ask)
  watch([() => film.projectId, () => film.lookingAt?.version], () => kept.clear())
  watch(
    [() => lookers.value > 0, setId, () => (setId.value === null ? '' : [...sets.usersOf(setId.value)].join())],
    async ([on, id]) => {
      if (!on || id === null) return
      await sets.count()
      const missing = takeIds.value.filter((takeId) => film.takeOf(takeId) === null && !kept.has(takeId))
      for (let at = 0; at < missing.length && setId.value === id; at += SHOTS_AT_ONCE) {
        loading.value = { done: at, total: missing.length }
        const some = missing.slice(at, at + SHOTS_AT_ONCE)
        try {
          await film.ensure('take', some)
        } catch (error) {
          trouble.value = `Other shots of the set could not be loaded, and are not in what is needed. ${(error as Error).message}`
          break
        }
        for (const takeId of some) if (film.takeOf(takeId) !== null) kept.set(takeId, film.takeOf(takeId)!)
      }
      loading.value = null
    },
    { immediate: true },
  )

  /** Of all shots that show what is chosen, as far as they are known: the open one first. */
  const bodies = () => takeIds.value.flatMap((takeId) => ((take) => (take === undefined ? [] : [{ takeId, take }]))(film.takeOf(takeId) ?? kept.get(takeId)))

  return { of, bodies, shown, marginPercent, margin, needs, answered, trouble, loading, chosen, setId, takeIds, look }
})
