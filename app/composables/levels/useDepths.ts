import { parted, SET, wayInto } from '@rubato/core/depth'
import { sendLevels, setLevelDepth, type SentTo } from '@rubato/core/edits'
import { add } from '@rubato/core/geometry'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useRackStore } from '~/stores/rack'

/** Depths that are being changed: told for the first of the levels, which the others keep their share of distance to. */
export interface DepthChange {
  update(depth: number): boolean
  end(): void
  abandon(): void
}

/** How far levels are from the lens, changed in any view: the picture kept, or as the hand has it. */
export function useDepths() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const rack = useRackStore()
  const nameOf = (ids: readonly string[]) => (ids.length === 1 ? (desk.take?.levels[ids[0]!]?.name ?? '') : `${ids.length} levels`)
  const isFree = (id: string) => desk.take?.levels[id]?.locked === false

  /** What goes along when one level is sent elsewhere: all that are chosen with it and are not locked. */
  const along = (levelId: string): readonly string[] => (desk.chosenLevelIds.includes(levelId) ? [levelId, ...desk.chosenLevelIds.filter((id) => id !== levelId && isFree(id))] : [levelId])

  /** Begins to send levels to other depths. With `own` the depth is in the axes of what carries the one that is told. */
  function begin(levelIds: readonly string[], label = `depth of ${nameOf(levelIds)}`, joins: string | null = null, own = false): DepthChange {
    const takeId = desk.takeId!
    const lead = levelIds[0]!
    const lens = desk.read.pose?.depth ?? 0
    const keeps = desk.keepPicture ? desk.seen : null
    const stood = new Map(levelIds.map((id) => [id, { depth: desk.placeOf(id).depth, carriage: desk.carriageOf(id), fieldFw: rack.facts.get(id)?.fieldFw }]))
    const depthFor = (id: string, depth: number) => (id === lead ? depth : lens + ((stood.get(id)!.depth - lens) * (depth - lens)) / (stood.get(lead)!.depth - lens))
    const shaped = keeps === null ? desk.beginLevels([...levelIds], ['place'], label, joins) : null
    const kept = keeps === null ? null : film.beginGesture(label, joins)

    function tell() {
      const sizes = new Map(levelIds.flatMap((id) => {
        const [before, now] = [stood.get(id)!.fieldFw, rack.facts.get(id)?.fieldFw]
        return before === undefined || now === undefined || before === now ? [] : [[id, before / now] as const]
      }))
      rack.tell({ levelIds, depthOf: new Map(levelIds.map((id) => [id, desk.placeOf(id).depth])), sizes: keeps === null && sizes.size > 0 ? sizes : null })
    }
    function update(depth: number): boolean {
      if (kept !== null) {
        const made = kept.update((f) => {
          const take = f.takes[takeId]!
          return levelIds.length === 1 ? setLevelDepth(take, takeId, lead, depth, keeps!, own) : sendLevels(take, takeId, new Map(levelIds.map((id) => [id, { depth: depthFor(id, depth) }])), keeps!)
        })
        if (made) tell()
        return made
      }
      shaped!.update((id, start) => {
        const { depth: stands, carriage } = stood.get(id)!
        if (own || carriage === SET) return { place: { ...start.place, depth: depthFor(id, depth) } }
        return { place: add(start.place, wayInto(carriage, { x: 0, y: 0, depth: depthFor(id, depth) - stands })) }
      })
      tell()
      return true
    }
    return {
      update,
      end() {
        kept?.commit()
        shaped?.end()
        rack.made()
      },
      abandon() {
        kept?.abandon()
        shaped?.abandon()
        rack.tell(null)
      },
    }
  }

  /** Sends each of some levels to a distance from the lens along the depth axis, as one step. */
  function setDistance(levelIds: readonly string[], of: (distance: number) => number) {
    const takeId = desk.takeId
    if (takeId === null || levelIds.length === 0) return false
    const lens = desk.read.pose?.depth ?? 0
    const depthOf = (id: string) => Number((lens + of(desk.placeOf(id).depth - lens)).toFixed(9))
    const label = `depth of ${nameOf(levelIds)}`
    if (levelIds.length === 1 || !desk.keepPicture) {
      const joins = levelIds.length === 1 ? null : `depths:${crypto.randomUUID()}`
      for (const id of levelIds) {
        const change = begin([id], label, joins)
        if (!change.update(depthOf(id))) return change.abandon(), false
        change.end()
      }
      return true
    }
    const seen = desk.seen!
    const to = new Map(levelIds.map((id): [string, SentTo] => [id, { depth: depthOf(id) }]))
    return film.perform(label, (f) => sendLevels(f.takes[takeId]!, takeId, to, seen))
  }

  /** As the levels stand, not as one of them is only tried. */
  function seen() {
    desk.levelTrial = null
    return desk.stage!.seen(desk.shotFrame, desk.pose ?? undefined)
  }

  /** All at one depth, the picture plane, or as deep as the nearest where the lens is past that; the picture stays. */
  function flatten(levelIds: readonly string[]) {
    const takeId = desk.takeId
    if (takeId === null) return
    const here = seen()
    const lens = here.camera.depth
    const depth = lens < -0.05 ? 0 : Math.min(...levelIds.map((id) => here.standOf(id).place.depth))
    film.perform(`flatten ${nameOf(levelIds)}`, (f) => sendLevels(f.takes[takeId]!, takeId, new Map(levelIds.map((id) => [id, { depth }])), here))
  }

  /** Parts levels that can't be told apart in depth by the least that matters; the picture stays. */
  function setApart(levelIds: readonly string[]) {
    const takeId = desk.takeId
    if (takeId === null) return
    const here = seen()
    const zs = new Map(rack.drawn.map(({ id, z }) => [id, z]))
    const gone = parted(rack.drawn, levelIds)
    if (gone.size === 0) return film.refuse('These levels lie apart already.')
    film.perform(`set ${nameOf(levelIds)} apart`, (f) => sendLevels(f.takes[takeId]!, takeId, new Map([...gone].map(([id, z]) => [id, { times: z / zs.get(id)! }])), here))
  }

  return { along, begin, setDistance, flatten, setApart, nameOf }
}
