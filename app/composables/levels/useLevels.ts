import { exposureAt, exposuresOf, isSetLevel, namedDrawings, newLevel, panelAtFrame, pieceOf, shownAt, showsNothing, wholeOf, type Film, type Level, type LevelFields, shorten } from '@rubato/core/document'
import { addLevel, blankCell, clearCell, duplicateLevel, editLevel, groupLevels, hidePieces, listBeside as placeBeside, removeLevel, renameGroup, reorderLevel } from '@rubato/core/edits'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { usePenStore } from '~/stores/pen'

/** What a level shows at the playhead; while it plays, at a frame that can be read. */
export interface Holding {
  readonly drawingId: string | null
  readonly own: boolean
  /** "drawn here", "holds panel 1", "drawing 3", "nothing here". */
  readonly words: string
}

/** Levels of the shot, made and changed from any view. */
export function useLevels() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const pen = usePenStore()
  const takeId = () => desk.takeId!

  function freshName(stem: string, taken: ReadonlySet<string> = new Set(desk.levels.map((level) => level.name))): string {
    for (let n = 1; ; n++) if (!taken.has(`${stem} ${n}`)) return `${stem} ${n}`
  }

  function add(): string | null {
    if (desk.takeId === null) return null
    const id = crypto.randomUUID()
    const like = desk.selectedLevel === null ? null : desk.levelValues(desk.selectedLevel.id)
    const [depth, scale] = [like?.place.depth ?? 0, like?.size ?? 1]
    // The first level of a shot is where its figures are drawn.
    const figure = desk.levels.length === 0 ? { figure: true } : {}
    const level = newLevel({ id, name: freshName('Level'), depth, scale, ...figure })
    if (!film.perform(`add ${level.name}`, (f) => addLevel(f.takes[takeId()]!, takeId(), level, desk.selectedLevelId ?? desk.levels[0]?.id ?? null))) return null
    desk.selectedLevelId = desk.choosable(id)
    return desk.selectedLevelId
  }

  function duplicate(level: Level) {
    const id = crypto.randomUUID()
    if (film.perform(`duplicate ${level.name}`, (f) => duplicateLevel(f.takes[takeId()]!, takeId(), level.id, id, freshName(level.name), () => crypto.randomUUID()))) desk.chooseLevel(id)
  }

  function remove(level: Level) {
    const seen = desk.stage!.seen(desk.shotFrame, desk.pose ?? undefined)
    film.perform(`delete ${level.name}`, (f) => removeLevel(f.takes[takeId()]!, takeId(), level.id, seen))
  }

  function move(level: Level, step: -1 | 1) {
    const seen = desk.stage!.seen(desk.shotFrame, desk.pose ?? undefined)
    film.perform(`${step < 0 ? 'bring' : 'send'} ${level.name} ${step < 0 ? 'nearer' : 'farther'}`, (f) => reorderLevel(f.takes[takeId()]!, takeId(), level.id, step, seen))
  }

  /** Among levels of one depth: on the nearer side of another, or on its farther one. */
  function listBeside(levelId: string, other: Level, side: 'nearer' | 'farther') {
    const seen = desk.stage!.seen(desk.shotFrame, desk.pose ?? undefined)
    film.perform(`list ${desk.take?.levels[levelId]?.name ?? ''} ${side} than ${other.name}`, (f) => placeBeside(f.takes[takeId()]!, takeId(), levelId, other.id, side, seen))
  }

  /** A piece that is there in the set is shown or hidden in this shot alone. */
  function isHere(level: Level, fields: LevelFields): boolean {
    const of = pieceOf(level.id)
    const on = of === null ? undefined : desk.take?.levels[of.setLevelId]
    return of !== null && on !== undefined && isSetLevel(on) && fields.visible !== undefined && film.film.sets?.[on.setId]?.pieces[of.pieceId]?.visible === true
  }
  function edited(f: Film, level: Level, fields: LevelFields) {
    const of = pieceOf(level.id)
    return of !== null && isHere(level, fields) ? hidePieces(f.takes[takeId()]!, takeId(), of.setLevelId, [of.pieceId], fields.visible === false) : editLevel(f.takes[takeId()]!, takeId(), level.id, fields)
  }

  /** Changes fields of a level; steps with one `gesture` are undone as one. */
  function edit(level: Level, what: string, fields: LevelFields, gesture: string | null = null) {
    return film.perform(`${what} ${level.name}${isHere(level, fields) ? ' here' : ''}`, (f) => edited(f, level, fields), gesture)
  }

  function toggle(level: Level, field: 'visible' | 'locked') {
    const word = field === 'visible' ? (level.visible ? 'hide' : 'show') : level.locked ? 'unlock' : 'lock'
    edit(level, word, { [field]: !level[field] })
  }

  function rename(level: Level, name: string) {
    const given = shorten(name.trim(), 120)
    if (given !== '' && given !== level.name) edit(level, 'rename', { name: given })
  }

  /** Shows a level alone; again, all. With `also`, besides those that are alone already. */
  function solo(ids: readonly string[], also = false) {
    const all = ids.every((id) => pen.solo.includes(id))
    if (also) pen.solo = all ? pen.solo.filter((id) => !ids.includes(id)) : [...new Set([...pen.solo, ...ids])]
    else pen.solo = all && pen.solo.length === ids.length ? [] : [...ids]
  }

  function group(ids: readonly string[], name: string) {
    const words = name === '' ? `take ${ids.length === 1 ? desk.take?.levels[ids[0]!]?.name : `${ids.length} levels`} out of the group` : `group ${name}`
    film.perform(words, (f) => groupLevels(f.takes[takeId()]!, takeId(), ids, name))
  }

  /** Puts one level with another: into its group, or both into a new one. */
  function groupWith(level: Level, other: Level) {
    const name = (other.group ?? '') !== '' ? other.group! : freshName('Group', new Set(desk.levels.map((each) => each.group ?? '')))
    group([level.id, other.id], name)
  }

  const renameWhole = (from: string, to: string) => film.perform(to.trim() === '' ? `dissolve ${from}` : `rename ${from}`, (f) => renameGroup(f.takes[takeId()]!, takeId(), from, to))

  /** One field for all levels of a group, as one step. */
  function editAll(levels: readonly Level[], what: string, fields: LevelFields) {
    film.perform(what, (f) => {
      const edits = []
      // Pieces of one set are told on one record.
      const here = levels.filter((level) => isHere(level, fields))
      const ids = here.map(({ id }) => pieceOf(id)!.pieceId)
      const made = [...(here.length === 0 ? [] : [hidePieces(f.takes[takeId()]!, takeId(), wholeOf(here[0]!.id), ids, fields.visible === false)]), ...levels.filter((level) => !here.includes(level)).map((level) => editLevel(f.takes[takeId()]!, takeId(), level.id, fields))]
      for (const each of made) {
        if (!each.ok) return each
        edits.push(...each.edits)
      }
      return { ok: true, edits }
    })
  }

  function holdingOf(level: Level): Holding {
    const { take } = desk
    const { frame } = desk.read
    const panel = take === null ? null : panelAtFrame(take, frame)
    if (showsNothing(level)) return { drawingId: null, own: false, words: level.kind === 'set' ? 'a set' : 'shows nothing' }
    const cell = take === null ? null : shownAt(take, level.id, frame)
    if (take === null || panel === null || cell === null) return { drawingId: null, own: false, words: 'nothing here' }
    const { drawingId, panelId } = cell
    const own = panelId === panel.panel.id
    const exposed = exposuresOf(take, level.id).some((each) => each.cell.offsetFrames !== undefined)
    if (exposed) {
      const { name } = namedDrawings(take, level.id).find((each) => each.drawingId === drawingId)!
      return { drawingId, own, words: own ? `drawing ${name}` : `holds drawing ${name} from f ${exposureAt(exposuresOf(take, level.id), frame)!.frame}` }
    }
    if (own) return { drawingId, own, words: 'drawn here' }
    const index = film.panelsOf(takeId()).findIndex((entry) => entry.panel.id === panelId)
    return { drawingId, own, words: `holds panel ${index + 1}` }
  }

  /** The level holds again what it showed before this panel. */
  function holdAgain(level: Level) {
    const panel = desk.placedPanel
    if (panel !== null) film.perform(`hold ${level.name} in panel ${panel.index + 1}`, (f) => clearCell(f.takes[takeId()]!, takeId(), level.id, panel.panel.id))
  }

  /** From this panel on the level shows nothing. */
  function blank(level: Level) {
    const panel = desk.placedPanel
    if (panel !== null) film.perform(`blank ${level.name} from panel ${panel.index + 1}`, (f) => blankCell(f.takes[takeId()]!, takeId(), level.id, panel.panel.id))
  }

  return { freshName, add, duplicate, remove, move, listBeside, edit, toggle, rename, solo, group, groupWith, renameWhole, editAll, holdingOf, holdAgain, blank }
}
