import { generateNKeysBetween } from 'fractional-indexing'
import { compareOrdered, inOrder } from './order'
import { rackLevels } from './panels'
import { cellIdOf, type Cell, type Level, type Piece, type SetLevel } from './records'
import { swayingLater } from './swayShift'
import type { SetBody, TakeBody } from './units'

/** The body of a set; null where it is not loaded. */
export type SetOf = (setId: string) => SetBody | null

/** The drawings that a set's pieces show, each once. */
export const setDrawings = ({ art }: SetBody): string[] => [...new Set(Object.values(art).map(({ drawingId }) => drawingId))]

/** The pieces in rack order, near first among equals. */
export const piecesOf = ({ pieces }: SetBody): readonly Piece[] => inOrder(pieces)

export const isSetLevel = (level: Level): level is SetLevel => level.kind === 'set'

const setLevels = new WeakMap<TakeBody['levels'], readonly SetLevel[]>()

/** The sets that stand in a take, in rack order; found once for each frozen collection. */
export function setsIn(take: Pick<TakeBody, 'levels'>): readonly SetLevel[] {
  const known = setLevels.get(take.levels)
  if (known !== undefined) return known
  const found = Object.values(take.levels).filter(isSetLevel).sort(compareOrdered)
  setLevels.set(take.levels, found)
  return found
}

/** No id has it, so what stands in a take for a piece is never one of its own levels. */
const OF = '~'

/** What a piece is called in a take where its set is unfolded. */
export const pieceLevelId = (setLevelId: string, pieceId: string): string => `${setLevelId}${OF}${pieceId}`

/** Which piece of which set level a level of an unfolded take is; null for any other. */
export function pieceOf(levelId: string): { readonly setLevelId: string; readonly pieceId: string } | null {
  const at = levelId.indexOf(OF)
  return at < 0 ? null : { setLevelId: levelId.slice(0, at), pieceId: levelId.slice(at + 1) }
}

/** The level of the take itself that a level belongs to: of a piece, its set. */
export const wholeOf = (levelId: string): string => pieceOf(levelId)?.setLevelId ?? levelId

interface Unfolding {
  readonly sets: readonly (SetBody | null)[]
  readonly take: TakeBody
}
const unfoldings = new WeakMap<TakeBody, Unfolding>()

/**
 * A take with the pieces of its sets among its levels, each carried by the set's level, listed behind it, shown where it is shown: what
 * is evaluated and seen. A take without sets is itself; the same object for the same take and sets.
 */
export function unfolded(take: TakeBody, setOf: SetOf): TakeBody {
  const levels = setsIn(take)
  if (levels.length === 0) return take
  const sets = levels.map(({ setId }) => setOf(setId))
  const known = unfoldings.get(take)
  if (known !== undefined && known.sets.every((set, i) => set === sets[i])) return known.take
  const made = unfoldSome(take, levels, setOf)
  unfoldings.set(take, { sets, take: made })
  return made
}

/** The same with only some of its sets unfolded. */
export function unfoldSome(take: TakeBody, setLevelsOf: readonly SetLevel[], setOf: SetOf): TakeBody {
  const rack = rackLevels(take)
  const levels: Record<string, Level> = { ...take.levels }
  const cells: Record<string, Cell> = { ...take.cells }
  for (const on of setLevelsOf) {
    const set = setOf(on.setId)
    if (set === null) continue
    const shown = Object.values(take.cells).filter(({ levelId }) => levelId === on.id)
    // Two that stand at one key have none between them: then behind both.
    const next = rack.find(({ order }) => order > on.order)?.order ?? null
    const pieces = piecesOf(set)
    const orders = generateNKeysBetween(on.order, next, pieces.length)
    pieces.forEach((piece, i) => {
      const level = pieceAsLevel(piece, on, orders[i]!)
      levels[level.id] = level
      const drawingId = set.art[piece.id]?.drawingId ?? null
      for (const { panelId, offsetFrames, drawingId: isShown } of shown) {
        const id = cellIdOf(level.id, panelId, offsetFrames)
        cells[id] = Object.freeze({ id, levelId: level.id, panelId, ...(offsetFrames === undefined ? {} : { offsetFrames }), drawingId: isShown === null ? null : drawingId })
      }
    })
  }
  return Object.freeze({ ...take, levels: Object.freeze(levels), cells: Object.freeze(cells) })
}

/** A piece as a level of a take where its set stands. */
function pieceAsLevel(piece: Piece, on: SetLevel, order: string): Level {
  const carrier = piece.carrier?.kind === 'level' ? { ...piece.carrier, levelId: pieceLevelId(on.id, piece.carrier.levelId) } : ({ kind: 'level', levelId: on.id, turn: true, size: true } as const)
  const tint = piece.tint ?? on.tint
  const tone = piece.tone ?? on.tone
  return Object.freeze({
    ...swayingLater(piece, on.laterFrames ?? 0),
    id: pieceLevelId(on.id, piece.id),
    order,
    carrier,
    visible: piece.visible && on.visible && on.hidden?.includes(piece.id) !== true,
    locked: piece.locked || on.locked,
    ...(tint === undefined ? {} : { tint }),
    ...(tone === undefined ? {} : { tone }),
    ...(on.standIn === true ? { standIn: true } : {}),
  })
}
