import { inOrder, isSetLevel, pieceOf, setDrawings, setsIn, type SetLevel } from '@rubato/core/document'
import { duplicateSet, hidePieces, makeSet, ownPieces, pasteSetUp as pasteInto, putSet, removeSet, renameSet } from '@rubato/core/edits'
import { useLevels } from '~/composables/levels/useLevels'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useSetsStore } from '~/stores/sets'

const newId = () => crypto.randomUUID()

/** What an artist does with sets, in any view. */
export function useSets() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const sets = useSetsStore()
  const levels = useLevels()

  const look = () => ({ frame: desk.shotFrame, camera: desk.pose! })
  const names = () => new Set(inOrder(film.outline.sets).map(({ name }) => name))

  /** Works in a set, through its level in this shot; who else sees it is asked for meanwhile. */
  function open(levelId: string) {
    const level = desk.take?.levels[levelId]
    if (level === undefined || !isSetLevel(level)) return film.refuse('Choose a set in the depth rack first, or put one into the shot.')
    if (film.film.sets?.[level.setId] === undefined) return film.refuse('The set is still being loaded. Try again in a moment.')
    desk.levelTrial = null
    desk.openedSetId = level.id
    void sets.count()
  }
  function close() {
    const on = desk.openedSet?.id ?? null
    const inside = desk.chosenLevelIds.some((id) => pieceOf(id) !== null)
    desk.levelTrial = null
    desk.openedSetId = null
    if (on !== null && inside) desk.chooseLevel(on)
  }
  /** The set that is chosen, or whose piece is, is opened; one that is open is closed. */
  function toggle() {
    if (desk.openedSet !== null) return close()
    const only = desk.take === null ? [] : setsIn(desk.take)
    open(desk.selectedLevel !== null && isSetLevel(desk.selectedLevel) ? desk.selectedLevel.id : only.length === 1 ? only[0]!.id : '')
  }

  function make() {
    const [takeId, projectId, ids] = [desk.takeId, film.projectId, desk.chosenLevelIds]
    if (takeId === null || projectId === null || desk.pose === null) return
    if (ids.length === 0) return film.refuse('No level is selected. Choose those that are to be a set in the depth rack (Ctrl for several).')
    if (desk.openedSet !== null) return film.refuse('A set is open, and its pieces can’t be a set of their own. Close it first.')
    const made = { set: newId(), level: newId() }
    const name = levels.freshName('Set', names())
    const here = look()
    if (!film.perform(`make a set of ${ids.length === 1 ? (desk.selectedLevel?.name ?? 'a level') : `${ids.length} levels`}`, (f) => makeSet(f, projectId, takeId, ids, made, name, here))) return
    desk.chooseLevel(made.level)
    void sets.count()
  }

  /** Puts a set into the shot at the playhead, where it stands in others. */
  async function put(setId: string): Promise<boolean> {
    const [takeId, set] = [desk.takeId, film.outline.sets[setId]]
    if (takeId === null || set === undefined) return false
    const loaded = await load(setId)
    if (!loaded || desk.takeId !== takeId) return false
    const id = newId()
    const done = film.perform(`put ${set.name}`, (f) => putSet(f, takeId, setId, id))
    if (done) desk.chooseLevel(id)
    return done
  }

  /** A set with all that it shows; false where it can't be had, and the reason is told. */
  async function load(setId: string): Promise<boolean> {
    try {
      await film.ensure('set', [setId])
      const body = film.film.sets?.[setId]
      if (body === undefined) throw new Error('The server does not have it any more.')
      await film.ensure('drawing', setDrawings(body))
      return true
    } catch (error) {
      film.refuse(`The set could not be loaded. ${(error as Error).message}`)
      return false
    }
  }

  const chosenPieces = () => desk.chosenLevelIds.flatMap((id) => ((of) => (of !== null && of.setLevelId === desk.openedSet?.id ? [of.pieceId] : []))(pieceOf(id)))
  const nameOf = (ids: readonly string[]) => (ids.length === 1 ? (desk.selectedLevel?.name ?? 'a piece') : `${ids.length} pieces`)

  /** Pieces become this shot's own. */
  function own(ids = chosenPieces()) {
    const [takeId, on] = [desk.takeId, desk.openedSet]
    if (takeId === null || on === null || ids.length === 0) return film.refuse('Open a set and choose a piece of it first.')
    const here = look()
    const name = nameOf(ids)
    const made: string[] = []
    const makeOwn = (f: typeof film.film) => {
      const result = ownPieces(f, takeId, on.id, ids, here, newId)
      made.splice(0, made.length, ...(result.levelIds ?? []))
      return result
    }
    // Its own levels stand in the shot, so they are not made in the set.
    desk.openedSetId = null
    if (!film.perform(`make ${name} this shot’s own`, makeOwn)) return void (desk.openedSetId = on.id)
    desk.chooseLevel(made[0]!)
    desk.alsoLevelIds = made.slice(1)
  }

  function hide(ids: readonly string[], hidden: boolean, name = nameOf(ids)) {
    const [takeId, on] = [desk.takeId, desk.openedSet]
    if (takeId === null || on === null || ids.length === 0) return
    film.perform(`${hidden ? 'hide' : 'show'} ${name} here`, (f) => hidePieces(f.takes[takeId]!, takeId, on.id, ids, hidden))
  }

  /** The shot has a set of its own from now on, like the one it stood in. */
  async function ownWhole(level: SetLevel) {
    const [takeId, projectId] = [desk.takeId, film.projectId]
    if (takeId === null || projectId === null || !(await load(level.setId))) return
    const name = levels.freshName(film.outline.sets[level.setId]?.name ?? level.name, names())
    const id = newId()
    desk.openedSetId = null
    film.perform(`make ${name} this shot’s own set`, (f) => duplicateSet(f, projectId, level.setId, id, name, newId, { takeId, setLevelId: level.id }))
  }
  async function duplicate(setId: string) {
    const projectId = film.projectId
    if (projectId === null || !(await load(setId))) return
    const name = levels.freshName(film.outline.sets[setId]?.name ?? 'Set', names())
    const id = newId()
    if (film.perform(`duplicate ${film.outline.sets[setId]?.name ?? 'set'}`, (f) => duplicateSet(f, projectId, setId, id, name, newId, null))) sets.shownId = id
  }
  function rename(setId: string, name: string) {
    const projectId = film.projectId
    if (projectId !== null && name.trim() !== '') film.perform(`rename ${film.outline.sets[setId]?.name ?? 'set'}`, (f) => renameSet(f.outline, projectId, setId, name))
  }
  async function remove(setId: string) {
    const projectId = film.projectId
    if (projectId === null) return
    await sets.count()
    // A take that is not circled stands in it too.
    film.perform(`delete ${film.outline.sets[setId]?.name ?? 'set'}`, (f) => removeSet(f.outline, projectId, setId, sets.usersOf(setId).size))
  }

  /** The sets of this shot as they stand, and the framing that is seen, to be pasted into another shot. */
  function copySetUp() {
    const [take, pose, placed] = [desk.take, desk.pose, desk.placedShot]
    if (take === null || pose === null || placed === null) return
    const standing = setsIn(take)
    if (standing.length === 0) return film.refuse('This shot stands in no set, so there is no set-up to copy. Make a set of its levels first, or copy the framing alone (Ctrl C).')
    sets.copied = { from: placed.shot.label, levels: standing.map((level) => ({ level, stands: desk.standOf(level.id) })), pose }
  }
  /** Puts the sets in that are not here yet, as they stood, and looks from where it was looked from: one step. */
  async function pasteSetUp() {
    const [takeId, cameraId, setUp] = [desk.takeId, desk.cameraAtWorkId, sets.copied]
    if (setUp === null) return film.refuse('No set-up has been copied yet. Copy one in a shot that stands in a set first.')
    if (takeId === null || cameraId === null) return
    for (const { level } of setUp.levels) if (!(await load(level.setId))) return
    if (desk.takeId !== takeId) return
    desk.trial = null
    const frame = desk.shotFrame
    film.perform(`paste the set-up of shot ${setUp.from}`, (f) => pasteInto(f, takeId, cameraId, frame, setUp, newId))
  }

  return { open, close, toggle, make, put, load, own, hide, ownWhole, duplicate, rename, remove, copySetUp, pasteSetUp }
}
