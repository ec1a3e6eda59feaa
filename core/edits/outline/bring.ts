import { newLevel } from '../../document/newLevel'
import { shorten } from '../../document/text'
import { FIRST_ORDER, inOrder } from '../../document/order'
import { cellIdOf, type Level, type Picture } from '../../document/records'
import { drawingRef, takeRef, outlineRef, EMPTY_DRAWING, EMPTY_TAKE, type Film, type TakeBody } from '../../document/units'
import { Draft } from '../change/draft'
import type { Edit } from '../change/edit'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { labelBetween } from '../../document/labels'
import { putOnTop, type NewMark } from '../ink/drawings'
import { labelsTaken, lastLabelBefore, shotsOf } from './shots'
import { layOut, showings, type Showing, type ShownIn } from '../take/showing'

/** A picture that has been taken in, with its place in fw: what becomes a drawing of its own. */
export interface BroughtLayer {
  readonly name: string
  /** A picture, or marks to be drawn on. */
  readonly picture: Pick<Picture, 'assetHash' | 'widthPx' | 'heightPx' | 'x' | 'y' | 'widthFw'> | readonly NewMark[]
  readonly opacity: number
  readonly visible: boolean
}

/** One file: its layers, nearest first. A plain picture has one. */
export interface BroughtBoard {
  readonly name: string
  readonly layers: readonly BroughtLayer[]
}

const isMarks = (picture: BroughtLayer['picture']): picture is readonly NewMark[] => Array.isArray(picture)

function drawingEdit(id: string, layer: BroughtLayer, newId: NewIds): Edit {
  if (isMarks(layer.picture)) return putOnTop(EMPTY_DRAWING, new Draft(EMPTY_DRAWING), layer.picture).edit('bring', drawingRef(id))
  const markId = newId()
  return { kind: 'bring', unit: drawingRef(id), changes: { marks: { [markId]: { before: null, after: { id: markId, order: FIRST_ORDER, kind: 'picture', ...layer.picture } } } } }
}

const levelOf = (id: string, order: string, layer: BroughtLayer): Level => newLevel({ id, order, name: shorten(layer.name, 120) || 'Picture', kind: isMarks(layer.picture) ? 'drawn' : 'placed', opacity: layer.opacity, visible: layer.visible })

/** Levels of layers, each a new level over those that are there, showing its picture from a panel on. */
export function bringAsLevels(take: TakeBody, takeId: string, panelId: string, layers: readonly BroughtLayer[], newId: NewIds): Made {
  if (take.panels[panelId] === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  const draft = new Draft(take)
  const orders = draft.room('levels', inOrder(take.levels), 0, layers.length)
  const drawings: Edit[] = []
  layers.forEach((layer, i) => {
    const [levelId, drawingId] = [newId(), newId()]
    draft.put('levels', levelOf(levelId, orders[i]!, layer))
    const id = cellIdOf(levelId, panelId)
    draft.put('cells', { id, levelId, panelId, drawingId })
    drawings.push(drawingEdit(drawingId, layer, newId))
  })
  return made(draft.edit('bring', takeRef(takeId)), ...drawings)
}

/** The levels that boards need, by layer name in the order they are met; a layer is hidden where it is in all of them. */
function levelsFor(boards: readonly BroughtBoard[], newId: NewIds) {
  const found = new Map<string, { readonly id: string; readonly layer: BroughtLayer; visible: boolean }>()
  for (const { layers } of boards) {
    for (const layer of layers) {
      const known = found.get(layer.name)
      if (known === undefined) found.set(layer.name, { id: newId(), layer, visible: layer.visible })
      else known.visible ||= layer.visible
    }
  }
  return found
}

/** A panel a board, as a new shot after another of its sequence or at its end (null). Layers of one name make one level. */
export function bringAsShot(film: Film, projectId: string, sequenceId: string, afterShotId: string | null, boards: readonly BroughtBoard[], lengthFrames: number, newId: NewIds): Made {
  const { outline } = film
  if (outline.sequences[sequenceId] === undefined) return refused({ code: 'missing', what: 'sequence', id: sequenceId })
  const shots = shotsOf(outline, sequenceId)
  const after = afterShotId === null ? shots.length - 1 : shots.findIndex((shot) => shot.id === afterShotId)
  if (afterShotId !== null && after < 0) return refused({ code: 'missing', what: 'shot', id: afterShotId })
  const taken = labelsTaken(outline)
  const [shotId, takeId] = [newId(), newId()]
  const outlineDraft = new Draft(outline)
  const [order] = outlineDraft.room('shots', shots, after + 1, 1)
  const outlineEdit = outlineDraft
    .put('shots', { id: shotId, sequenceId, order: order!, label: labelBetween(shots[after]?.label ?? lastLabelBefore(outline, sequenceId), shots[after + 1]?.label ?? null, taken), title: '', circledTakeId: takeId })
    .put('takes', { id: takeId, shotId, order: FIRST_ORDER, letter: 'A' })
    .edit('bring', outlineRef(projectId))
  const panels = putBoards(new Draft<TakeBody>(EMPTY_TAKE).put('cameras', { id: newId(), order: FIRST_ORDER, letter: 'A', locked: false }), EMPTY_TAKE, null, boards, lengthFrames, newId)
  return made(outlineEdit, panels.draft.edit('bring', takeRef(takeId)), ...panels.drawings)
}

/** A panel a board after one of a take, or at its end (null). The shot's other levels show nothing in them, and go on after. */
export function bringAsPanels(take: TakeBody, takeId: string, afterPanelId: string | null, boards: readonly BroughtBoard[], lengthFrames: number, newId: NewIds): Made {
  if (afterPanelId !== null && take.panels[afterPanelId] === undefined) return refused({ code: 'missing', what: 'panel', id: afterPanelId })
  const { draft, drawings } = putBoards(new Draft(take), take, afterPanelId, boards, lengthFrames, newId)
  return made(draft.edit('bring', takeRef(takeId)), ...drawings)
}

function putBoards(draft: Draft<TakeBody>, take: TakeBody, afterPanelId: string | null, boards: readonly BroughtBoard[], lengthFrames: number, newId: NewIds) {
  const there = inOrder(take.panels)
  const after = afterPanelId === null ? there.length - 1 : there.findIndex((panel) => panel.id === afterPanelId)
  const orders = draft.room('panels', there, after + 1, boards.length)
  const levels = levelsFor(boards, newId)
  const levelOrders = draft.room('levels', inOrder(take.levels), 0, levels.size)
  ;[...levels.values()].forEach(({ id, layer, visible }, i) => draft.put('levels', levelOf(id, levelOrders[i]!, { ...layer, visible })))
  const drawings: Edit[] = []
  const shown = new Map<string, Showing>(showings(take))
  const made = boards.map((board, i) => {
    const id = newId()
    draft.put('panels', { id, order: orders[i]!, lengthFrames, lengthLocked: false, action: '', dialogue: '', notes: '' })
    const shows = new Map<string, ShownIn>()
    for (const layer of board.layers) {
      const level = levels.get(layer.name)!
      // Hidden in this one only: it is not shown here.
      if (!layer.visible && level.visible) continue
      const drawingId = newId()
      shows.set(level.id, { first: drawingId, then: [] })
      drawings.push(drawingEdit(drawingId, layer, newId))
    }
    shown.set(id, shows)
    return id
  })
  const order = there.map((panel) => panel.id)
  order.splice(after + 1, 0, ...made)
  layOut(draft, take, [...Object.values(take.levels), ...levels.values()], order, (panelId, levelId) => shown.get(panelId)?.get(levelId))
  return { draft, drawings }
}
