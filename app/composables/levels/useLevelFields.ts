import { setPivot } from '@rubato/core/edits'
import type { Level } from '@rubato/core/document'
import type { Point2, Rectangle } from '@rubato/core/geometry'
import { drawingBounds } from '@rubato/core/ink'
import type { LevelAspect, LevelValues } from '@rubato/core/moves'
import { placedLevel } from '@rubato/core/stage'
import { useDepths, type DepthChange } from '~/composables/levels/useDepths'
import { useScrub, type FieldEvents } from '~/composables/view/useScrub'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { together, type LevelChange } from '~/stores/levelHand'

/** Where nothing is drawn there is still something to take hold of, fw. */
const EMPTY_ART = Object.freeze({ left: -0.08, right: 0.08, bottom: -0.08, top: 0.08 })

/** Numbers of the selected level in fields: what is keyed goes by the hand on levels, all else is the level's own. */
export function useLevelFields() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const scrub = useScrub()
  const depths = useDepths()
  const takeId = () => desk.takeId!

  /** A number of a keyed value. */
  function keyed(level: Level, label: string, aspect: LevelAspect, valueOf: (value: number, start: LevelValues) => Partial<LevelValues>): FieldEvents {
    let change: LevelChange | null = null
    const name = `${label} of ${level.name}`
    return {
      begin: () => (change = desk.beginLevels([level.id], [aspect], name)),
      scrub: (value) => change?.update((_, start) => valueOf(value, start)),
      commit: () => change?.end(),
      cancel: () => change?.abandon(),
      set: (value) => {
        const once = desk.beginLevels([level.id], [aspect], name, `level:${level.id}:${label}`)
        once.update((_, start) => valueOf(value, start))
        once.end()
      },
    }
  }

  /** With `own` its depth in the axes of what carries it. */
  function depth(level: Level, own = false): FieldEvents {
    let change: DepthChange | null = null
    return {
      begin: () => (change = depths.begin([level.id], `depth of ${level.name}`, null, own)),
      scrub: (value) => change?.update(value),
      commit: () => change?.end(),
      cancel: () => change?.abandon(),
      set: (value) => {
        const once = depths.begin([level.id], `depth of ${level.name}`, `depth:${level.id}`, own)
        once.update(value)
        once.end()
      },
    }
  }

  /** What is drawn on a level here; a little square where nothing is. */
  function boundsOf(levelId: string): Rectangle {
    const drawingId = placedLevel(desk.stageFrame, levelId)?.drawingId ?? null
    const drawing = drawingId === null ? null : film.drawingOf(drawingId)
    return (drawing === null ? null : drawingBounds(drawing)) ?? EMPTY_ART
  }

  /** The pivot that a level without one gets when it is first turned, sized or swung: the middle of what is drawn. Null where it has one. */
  function pivotToBe(level: Level): Point2 | null {
    const { left, right, bottom, top } = boundsOf(level.id)
    return level.pivot === undefined ? { x: (left + right) / 2, y: (bottom + top) / 2 } : null
  }

  /** Puts the pivot elsewhere in the art; the picture at this frame stays. */
  function movePivot(level: Level, pivot: Point2) {
    const [id, seen] = [takeId(), desk.stage!.seen(desk.shotFrame, desk.pose ?? undefined)]
    return (f: typeof film.film) => setPivot(f.takes[id]!, id, level.id, pivot, seen)
  }
  /**
   * Those of the chosen levels that have no pivot get it in their middle, where it is about to matter. The name under which what
   * follows undoes along with that; null where none needed one.
   */
  function giveMiddles(label: string): string | null {
    const joins = `about:${crypto.randomUUID()}`
    const lacking = desk.levels.flatMap((level) => {
      const at = !desk.chosenLevelIds.includes(level.id) || level.locked ? null : pivotToBe(level)
      return at === null || (at.x === 0 && at.y === 0) ? [] : [{ level, at }]
    })
    if (lacking.length === 0) return null
    const makes = lacking.map(({ level, at }) => movePivot(level, at))
    return film.perform(label, (f) => together(lacking.map(({ level }) => level.id), (_, i) => makes[i]!(f)), joins) ? joins : null
  }
  /** Levels without a pivot get one in their middle with what is done about it: one step, and none where it is given up. */
  function aboutMiddle<C extends { end(): void; abandon(): void }>(label: string, begin: (joins: string | null) => C): C {
    const joins = giveMiddles(label)
    const change = begin(joins)
    return joins === null ? change : { ...change, abandon: () => (change.abandon(), void film.undo()) }
  }

  const pivot = (level: Level, of: (value: number) => Point2): FieldEvents => scrub.field(`pivot of ${level.name}`, (value) => movePivot(level, of(value)), `pivot:${level.id}`)

  return { keyed, depth, boundsOf, pivotToBe, giveMiddles, aboutMiddle, pivot, movePivot }
}
