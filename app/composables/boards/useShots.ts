import { newLevel, takeRef } from '@rubato/core/document'
import { addShot, removeShot, type Made } from '@rubato/core/edits'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'

const LOOKED_WITH_ART = 12

/** Shots made and taken out where the playhead stands, from any view. */
export function useShots() {
  const film = useFilmStore()
  const desk = useDeskStore()

  /** A shot after this one, or after `after` in a sequence (null: at its end), with a level to draw on. */
  function newShot(at?: { readonly sequenceId: string; readonly afterShotId: string | null } | Event): string | null {
    const placed = desk.placedShot
    const project = film.project
    const asked = at !== undefined && 'sequenceId' in at ? at : null
    const sequenceId = asked?.sequenceId ?? placed?.shot.sequenceId ?? Object.keys(film.film.outline.sequences)[0]
    if (project === null || sequenceId === undefined) return null
    const ids = { shot: crypto.randomUUID(), take: crypto.randomUUID(), panel: crypto.randomUUID(), camera: crypto.randomUUID() }
    const levelId = crypto.randomUUID()
    const done = film.perform('new shot', (f): Made => {
      const made = addShot(f, project.id, sequenceId, asked === null ? (placed?.shot.id ?? null) : asked.afterShotId, ids, project.defaultPanelFrames)
      if (!made.ok) return made
      const level = newLevel({ id: levelId, order: 'a1', name: 'Level 1', figure: true })
      return { ok: true, edits: [...made.edits, { kind: 'level-add', unit: takeRef(ids.take), changes: { levels: { [levelId]: { before: null, after: level } } } }] }
    })
    if (done) desk.goToShot(ids.shot)
    return done ? ids.shot : null
  }

  /** What is to be taken out is looked at first, so that what others do to it meanwhile is seen. False, and said, where it can't be. */
  async function look(shotIds: readonly string[]): Promise<boolean> {
    const wanted = new Set(shotIds)
    const takes = Object.values(film.outline.takes).filter((take) => wanted.has(take.shotId)).map((take) => take.id)
    try {
      // With art only for as many as memory holds at once.
      await (shotIds.length <= LOOKED_WITH_ART ? film.ensureTakesWithArt(takes) : film.ensure('take', takes))
      return true
    } catch (error) {
      film.refuse(`${shotIds.length === 1 ? 'The shot' : 'The shots'} could not be loaded. ${(error as Error).message} Try again.`)
      return false
    }
  }

  async function deleteShot() {
    const shot = desk.placedShot?.shot
    const project = film.project
    if (shot === undefined || project === null || !(await look([shot.id]))) return
    if (film.perform(`delete shot ${shot.label}`, (f) => removeShot(f.outline, project.id, shot.id))) desk.goTo(desk.playhead)
  }

  return { newShot, deleteShot, look }
}
