import type { Optics } from '../../camera/lens'
import { inOrder } from '../../document/order'
import { anchoredIn, dropAnchored } from '../../document/anchored'
import { keyOwners, placedKeys } from '../../document/keys'
import { anchorOfFrame, placedPanels } from '../../document/panels'
import { shownAt } from '../../document/exposures'
import { cellAt, cellIdOf, type Panel } from '../../document/records'
import { takeRef, type TakeBody } from '../../document/units'
import { keyOf, keySpan, leftByJump, once, startingAt, tidyLoose, type SpanKeys } from './keySpans'
import { putKeyRecord } from './keys'
import { withoutSettle } from '../../moves/timing'
import { Draft, withFields } from '../change/draft'
import { putAllPieces, spanPieces } from './spanPieces'
import { keepLive, liveInPanels } from './liveCuts'
import { made, refused, type Made } from '../change/refusal'

export type PanelWords = Partial<Pick<Panel, 'action' | 'dialogue' | 'notes' | 'lengthLocked' | 'targetFrames'>>

/** Changes what a panel says or how long it is meant to be, or puts its fermata on or off. */
export function editPanel(take: TakeBody, takeId: string, panelId: string, words: PanelWords): Made {
  const panel = take.panels[panelId]
  if (panel === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  return made(new Draft(take).put('panels', withFields(panel, words)).edit('panel-words', takeRef(takeId)))
}

/**
 * Puts a new panel after another (at the end for null). With `copyWords` it takes the words too. Levels hold what
 * they showed, so it starts as the same picture.
 */
export function addPanel(take: TakeBody, takeId: string, newId: string, afterId: string | null, lengthFrames: number, copyWords = false): Made {
  const panels = inOrder(take.panels)
  const after = afterId === null ? panels.length - 1 : panels.findIndex((panel) => panel.id === afterId)
  if (afterId !== null && after < 0) return refused({ code: 'missing', what: 'panel', id: afterId })
  const source = panels[after]
  const draft = new Draft(take)
  const [order] = draft.room('panels', panels, after + 1, 1)
  const panel: Panel = {
    id: newId,
    order: order!,
    lengthFrames,
    lengthLocked: false,
    action: copyWords ? (source?.action ?? '') : '',
    dialogue: copyWords ? (source?.dialogue ?? '') : '',
    notes: copyWords ? (source?.notes ?? '') : '',
  }
  return made(draft.put('panels', panel).edit('panel-add', takeRef(takeId)))
}

/**
 * Takes a panel and its time out. A drawing that a later panel holds passes to that panel, so no level vanishes. Keys in
 * it go. After it every frame is as it was: what the camera shows there is kept by a framing of its own. Before it too,
 * but for a move that led into the panel or through it, which has less time now; where nothing comes after, it breaks
 * off where it was.
 */
export function removePanel(take: TakeBody, takeId: string, panelId: string, optics: Optics, newId: () => string): Made {
  const placed = placedPanels(take)
  const index = placed.findIndex((entry) => entry.panel.id === panelId)
  if (index < 0) return refused({ code: 'missing', what: 'panel', id: panelId })
  if (placed.length === 1) return refused({ code: 'last-panel' })
  const next = placed[index + 1] ?? null
  const draft = new Draft(take).drop('panels', panelId)
  const going = Object.values(take.cells).filter((cell) => cell.panelId === panelId)
  for (const cell of going) draft.drop('cells', cell.id)
  for (const levelId of next === null ? [] : new Set(going.map((cell) => cell.levelId))) {
    if (take.cells[cellIdOf(levelId, next!.panel.id)] === undefined) draft.put('cells', cellAt(levelId, next!.panel.id, 0, shownAt(take, levelId, next!.startFrame)?.drawingId ?? null))
  }
  for (const each of anchoredIn(take, (id) => id === panelId)) dropAnchored(draft, each)
  const { startFrame, panel } = placed[index]!
  const pieces = [spanPieces(take, optics, { from: 0, to: startFrame - 1, endsShot: next === null, beginsShot: true }), spanPieces(take, optics, { from: startFrame + panel.lengthFrames, to: null, endsShot: true, beginsShot: false })].flat()
  putAllPieces(draft, take, pieces, { anchorOf: (frame) => anchorOfFrame(take, frame)!, newId })
  for (const owner of keyOwners(take)) {
    const { kind } = owner
    const keys = placedKeys(take, owner)
    const leaving = keys.filter(({ record }) => record.panelId === panelId)
    if (leaving.length === 0 && next !== null) continue
    const standing = new Set<string>()
    const put = (span: SpanKeys<unknown>) => {
      for (const each of once(span, standing)) putKeyRecord(draft, kind, keyOf(each, owner, anchorOfFrame(take, each.frame)!, newId))
    }
    if (index > 0) {
      const before = keySpan(take, owner, optics, 0, startFrame - 1)
      if (next === null) put(before)
      // Where nothing was keyed before, it stood as the first of those that go says.
      else if (leaving[0] === keys[0]) put(leftByJump(before))
    }
    // It arrives where the next panel begins, and not after.
    const into = keys[keys.indexOf(leaving[0]!) - 1]?.record
    if (next !== null && into !== undefined) putKeyRecord(draft, kind, { ...into, move: { ...into.move, timing: withoutSettle(into.move.timing) } })
    if (next !== null) put(startingAt(keySpan(take, owner, optics, startFrame + panel.lengthFrames, null), next.startFrame, kind.valueOf(keys[0]!.record)))
  }
  const live = liveInPanels(take)
  keepLive(tidyLoose(draft, take), (id) => live.get(id) ?? null, newId)
  return made(draft.edit('panel-remove', takeRef(takeId)))
}
