import { isSetLevel, setsIn, type SetLevel } from '@rubato/core/document'
import type { SetUp } from '@rubato/core/edits'
import type { PlacedShot } from '@rubato/core/stage'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { SetUsers } from '#shared/projects'
import { api } from '~/api/client'
import { useDeskStore } from './desk'
import { withEachFilm } from './eachFilm'
import { useFilmStore } from './film'

/** A shot that stands in a set, and the level that it does so by where that is known. */
export interface SetShot {
  readonly placed: PlacedShot
  readonly level: SetLevel | null
}

/** What a shot's set-up is: the sets as they stand in it, and one camera's framing. */
export interface CopiedSetUp extends SetUp {
  readonly from: string
}

/** Which shots stand in which sets. The server counts them; of shots that are loaded it is known here. */
export const useSetsStore = defineStore('sets', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const counted = shallowRef<SetUsers>({})
  const trouble = ref<string | null>(null)
  /** The set that the page shows. */
  const shownId = ref<string | null>(null)
  const copied = shallowRef<CopiedSetUp | null>(null)
  let asked = 0

  async function count() {
    const id = film.projectId
    if (id === null || film.lookingAt !== null) return
    const mine = ++asked
    try {
      const found = await api.setUsers(id)
      if (mine === asked && film.projectId === id) counted.value = found
      trouble.value = null
    } catch (error) {
      if (mine === asked) trouble.value = (error as Error).message
    }
  }
  withEachFilm(() => {
    counted.value = {}
    trouble.value = null
    shownId.value = null
    copied.value = null
  })

  /** The takes that stand in each set, also those that are not circled. */
  const users = computed<ReadonlyMap<string, ReadonlySet<string>>>(() => {
    const { takes } = film.film
    const found = new Map<string, Set<string>>()
    const put = (setId: string, takeId: string) => found.get(setId)?.add(takeId) ?? found.set(setId, new Set([takeId]))
    for (const [setId, ids] of Object.entries(counted.value)) for (const id of ids) if (takes[id] === undefined && film.outline.takes[id] !== undefined) put(setId, id)
    for (const [id, take] of Object.entries(takes)) if (film.outline.takes[id] !== undefined) for (const { setId } of setsIn(take)) put(setId, id)
    return found
  })
  const usersOf = (setId: string): ReadonlySet<string> => users.value.get(setId) ?? NOBODY

  /** The shots whose circled take stands in a set, in film order. */
  function shotsOf(setId: string): readonly SetShot[] {
    const takeIds = usersOf(setId)
    return film.filmStage.shots.flatMap((placed): SetShot[] => {
      const { circledTakeId } = placed.shot
      if (!takeIds.has(circledTakeId)) return []
      const level = Object.values(film.film.takes[circledTakeId]?.levels ?? {}).find((each) => isSetLevel(each) && each.setId === setId)
      return [{ placed, level: (level as SetLevel | undefined) ?? null }]
    })
  }

  const openedName = computed(() => (desk.openedSet === null ? '' : (film.outline.sets[desk.openedSet.setId]?.name ?? desk.openedSet.name)))

  return { counted, trouble, shownId, copied, count, usersOf, shotsOf, openedName }
})
const NOBODY: ReadonlySet<string> = new Set()
