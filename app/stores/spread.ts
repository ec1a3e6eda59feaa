import { lensOf } from '@rubato/core/camera'
import { depthsFromFeet, horizonOf, spreadOrder, type SeenLevel, type SpreadOrder, type SpreadRule } from '@rubato/core/depth'
import { carrierOf, type SeenLevels } from '@rubato/core/document'
import { nearFirst, sendLevels, spreadLevels } from '@rubato/core/edits'
import { defineStore } from 'pinia'
import { reactive, ref, shallowRef, watch } from 'vue'
import { useDeskStore } from './desk'
import type { Gesture } from './editing'
import { useFilmStore } from './film'
import { useRackStore } from './rack'

/** Between two depths, or as things drawn on level ground stand under a horizon. */
export type SpreadBy = 'ends' | 'ground'

/**
 * Levels that are being given depths in one step. All is tried on the film as it stood when that began, so that every view
 * shows it, and is one change once it is taken.
 */
export const useSpreadStore = defineStore('spread', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const rack = useRackStore()
  const open = ref(false)
  /** In the order that they were chosen. */
  const ids = shallowRef<readonly string[]>([])
  const form = reactive({ by: 'ends' as SpreadBy, near: -0.5, far: 6, rule: 'ratio' as SpreadRule, order: 'lie' as SpreadOrder, turned: false, horizon: 0, farthest: 12 })
  let gesture: Gesture | null = null
  let stood: { readonly takeId: string; readonly seen: SeenLevels; readonly lie: readonly SeenLevel[]; readonly free: ReadonlySet<string> } | null = null

  function begin(by: SpreadBy = 'ends') {
    const [take, stage, takeId] = [desk.take, desk.stage, desk.takeId]
    if (take === null || stage === null || takeId === null) return
    if (open.value) close()
    // A version is to look at: it says so, and nothing opens.
    if (film.lookingAt !== null) return void film.perform('spread levels', () => ({ ok: true, edits: [] }))
    desk.levelTrial = null
    const seen = stage.seen(desk.shotFrame, desk.pose ?? undefined)
    const nearer = nearFirst(take, seen).filter(({ kind }) => kind !== 'reference')
    const free = nearer.filter(({ locked }) => !locked)
    const outlines = new Map(rack.drawn.map((level) => [level.id, level]))
    const lie = nearer.map(({ id }) => outlines.get(id) ?? { id, z: 0, outline: [{ x: 0, y: 0 }] })
    stood = { takeId, seen, lie, free: new Set(free.map(({ id }) => id)) }
    const chosen = desk.chosenLevelIds.filter((id) => stood!.free.has(id))
    // What hangs on a level goes along with it, unless it was chosen itself.
    const standing = free.filter((level) => carrierOf(take, level)?.kind !== 'level').map(({ id }) => id)
    // What nothing is drawn on, is out of sight or goes on below the frame does not say where it stands.
    const halfHeight = film.optics === null ? Infinity : 1 / (2 * film.optics.aspect)
    const hasFoot = (id: string) => Math.min(...(outlines.get(id)?.outline ?? [{ y: -Infinity }]).map(({ y }) => y)) > -halfHeight
    ids.value = by === 'ground' ? (chosen.length > 1 ? chosen.filter((id) => outlines.has(id)) : standing.filter(hasFoot)) : chosen.length > 1 ? chosen : standing
    const depths = ids.value.map((id) => seen.standOf(id).place.depth)
    const near = depths.length === 0 ? 0 : Math.min(...depths)
    Object.assign(form, { by, order: 'lie', turned: false, near, far: Math.max(near + 0.5, ...depths), farthest: 12 })
    if (film.optics !== null) {
      const { k } = lensOf(seen.camera, film.optics)
      form.horizon = Math.max(-0.9 * halfHeight, Math.min(0.9 * halfHeight, horizonOf(k, seen.camera.tiltDegrees)))
    }
    gesture = film.beginGesture(by === 'ends' ? 'spread levels' : 'depths from the drawing')
    open.value = true
    tryIt()
  }

  /** Near first, as they are to be. */
  function order(): readonly string[] {
    if (stood === null) return []
    const lie = stood.lie.filter(({ id }) => ids.value.includes(id))
    const told = spreadOrder(lie, ids.value, form.order)
    return form.turned ? [...told].reverse() : told
  }

  function tryIt() {
    if (gesture === null || stood === null) return
    const { takeId, seen, lie } = stood
    if (ids.value.length === 0) return void gesture.update(() => ({ ok: true, edits: [] }))
    if (form.by === 'ends') {
      const told = order()
      return void gesture.update((f) => spreadLevels(f.takes[takeId]!, takeId, told, form.near, form.far, form.rule, seen))
    }
    const standing = lie.filter(({ id }) => ids.value.includes(id))
    const depths = depthsFromFeet(standing.map(({ id, z, outline }) => ({ id, z, v: Math.min(...outline.map(({ y }) => y)) })), form.horizon, form.farthest)
    const times = new Map(standing.flatMap(({ id, z }) => (depths.get(id) === z ? [] : [[id, { times: depths.get(id)! / z }] as const])))
    gesture.update((f) => (times.size === 0 ? { ok: true, edits: [] } : sendLevels(f.takes[takeId]!, takeId, times, seen)))
  }
  watch([form, ids], () => open.value && tryIt(), { deep: true })

  function toggle(id: string) {
    if (stood?.free.has(id) !== true || (form.by === 'ground' && !rack.drawn.some((level) => level.id === id))) return
    ids.value = ids.value.includes(id) ? ids.value.filter((other) => other !== id) : [...ids.value, id]
  }
  const canJoin = (id: string) => stood?.free.has(id) === true

  function end(how: 'commit' | 'abandon') {
    const ending = gesture
    gesture = null
    stood = null
    open.value = false
    ending?.[how]()
  }
  const close = () => end('abandon')
  const take = () => end('commit')
  // Anything else that is done keeps what is tried here.
  watch(() => film.gestureOpen, (now) => !now && gesture !== null && end('commit'), { flush: 'sync' })
  watch(() => desk.takeId, () => open.value && close())

  return { open, ids, form, begin, toggle, canJoin, close, take }
})
