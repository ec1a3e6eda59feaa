import { carriersOf, type Carrier, type Level } from '@rubato/core/document'
import type { Facing } from '@rubato/core/depth'
import { carryTogether, faceLevels, fastenLevels } from '@rubato/core/edits'
import { useLevelFields } from '~/composables/levels/useLevelFields'
import { useLevels } from '~/composables/levels/useLevels'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

/** What carries levels, and how they face the camera: changed here from any view, the picture at this frame kept. */
export function useFastening() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const fields = useLevelFields()
  const levels = useLevels()

  const levelOf = (id: string): Level | null => desk.take?.levels[id] ?? null
  const many = (ids: readonly string[]) => (ids.length === 1 ? (levelOf(ids[0]!)?.name ?? '') : `${ids.length} levels`)
  /** As the levels stand, not as one of them is only tried. */
  function seen() {
    desk.levelTrial = null
    return desk.stage!.seen(desk.shotFrame, desk.pose ?? undefined)
  }

  function fasten(ids: readonly string[], carrier: Carrier | null) {
    const takeId = desk.takeId
    if (takeId === null) return false
    const here = seen()
    const to = carrier === null ? `let ${many(ids)} go` : carrier.kind === 'camera' ? `fasten ${many(ids)} to the camera` : `fasten ${many(ids)} to ${levelOf(carrier.levelId)?.name ?? ''}`
    return film.perform(to, (f) => fastenLevels(f.takes[takeId]!, takeId, ids, carrier, here))
  }
  /** To a level: what is followed of another carrier before stays chosen. */
  function fastenTo(ids: readonly string[], levelId: string) {
    const before = levelOf(ids[0] ?? '')?.carrier
    const { turn, size } = before?.kind === 'level' ? before : { turn: true, size: true }
    return fasten(ids, { kind: 'level', levelId, turn, size })
  }

  function together() {
    const [takeId, ids] = [desk.takeId, desk.chosenLevelIds]
    if (takeId === null || ids.length === 0) return film.refuse('No level is selected. Choose those that are to be carried together in the depth rack (Ctrl for several).')
    const [id, here] = [crypto.randomUUID(), seen()]
    const name = levels.freshName('Carrier')
    if (film.perform(`carry ${many(ids)} together`, (f) => carryTogether(f.takes[takeId]!, takeId, ids, id, name, here))) desk.chooseLevel(id)
  }

  function face(ids: readonly string[], facing: Facing | null) {
    const takeId = desk.takeId
    if (takeId === null) return
    const label = facing === null ? `${many(ids)} as turned` : facing === 'lens' ? `turn ${many(ids)} to the lens` : `turn ${many(ids)} upright to the lens`
    // About the middle of what is drawn, not of the set.
    const joins = facing === null ? null : fields.giveMiddles(label)
    film.perform(label, (f) => faceLevels(f.takes[takeId]!, takeId, ids, facing), joins)
  }

  /** The levels that these may be fastened to. */
  const carriersFor = (ids: readonly string[]): readonly Level[] => desk.levels.filter((each) => !ids.includes(each.id) && desk.take !== null && !carriersOf(desk.take, each).chain.some(({ id }) => ids.includes(id)))

  return { fasten, fastenTo, together, face, carriersFor }
}
