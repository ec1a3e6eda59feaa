import { inOrder, orderAt } from '../document/order'
import { placedPanels, shownCell } from '../document/panels'
import { cellIdOf, type Panel } from '../document/records'
import type { TakeBody } from '../document/units'
import { Draft, withFields } from './draft'
import { made, refused, type Made } from './refusal'

export type PanelWords = Partial<Pick<Panel, 'action' | 'dialogue' | 'notes' | 'lengthLocked' | 'targetFrames'>>

/** Changes what a panel says or how long it is meant to be, or puts its fermata on or off. */
export function editPanel(take: TakeBody, takeId: string, panelId: string, words: PanelWords): Made {
  const panel = take.panels[panelId]
  if (panel === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  return made(new Draft(take).put('panels', withFields(panel, words)).edit('panel-words', { kind: 'take', id: takeId }))
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
  const panel: Panel = {
    id: newId,
    order: orderAt(panels, after + 1),
    lengthFrames,
    lengthLocked: false,
    action: copyWords ? (source?.action ?? '') : '',
    dialogue: copyWords ? (source?.dialogue ?? '') : '',
    notes: copyWords ? (source?.notes ?? '') : '',
  }
  return made(new Draft(take).put('panels', panel).edit('panel-add', { kind: 'take', id: takeId }))
}

/**
 * Takes a panel and its time out. A drawing that a later panel holds passes to that panel, so no level vanishes. Keys
 * in it go, unless a camera would be left with none: then its last one moves to the nearest frame that stays.
 */
export function removePanel(take: TakeBody, takeId: string, panelId: string): Made {
  const placed = placedPanels(take)
  const index = placed.findIndex((entry) => entry.panel.id === panelId)
  if (index < 0) return refused({ code: 'missing', what: 'panel', id: panelId })
  if (placed.length === 1) return refused({ code: 'last-panel' })
  const next = placed[index + 1]?.panel ?? null
  const neighbour = next ?? placed[index - 1]!.panel
  const draft = new Draft(take).drop('panels', panelId)
  for (const level of Object.values(take.levels)) {
    const own = take.cells[cellIdOf(level.id, panelId)]
    if (own === undefined) continue
    draft.drop('cells', own.id)
    if (next === null || take.cells[cellIdOf(level.id, next.id)] !== undefined) {
      const onlyOne = next === null && shownCell(take, level, index - 1) === null
      if (onlyOne) draft.put('cells', { ...own, id: cellIdOf(level.id, neighbour.id), panelId: neighbour.id })
      continue
    }
    draft.put('cells', { ...own, id: cellIdOf(level.id, next.id), panelId: next.id })
  }
  const anchor = { panelId: neighbour.id, offsetFrames: next === null ? neighbour.lengthFrames - 1 : 0 }
  for (const camera of Object.values(take.cameras)) {
    const framings = Object.values(take.framings).filter((framing) => framing.cameraId === camera.id)
    const going = framings.filter((framing) => framing.panelId === panelId).sort((a, b) => a.offsetFrames - b.offsetFrames)
    const keep = going.length === framings.length ? going.at(-1) : undefined
    for (const framing of going) {
      if (framing === keep) draft.put('framings', { ...framing, ...anchor })
      else draft.drop('framings', framing.id)
    }
  }
  const cuts = Object.values(take.cuts).filter((cut) => cut.panelId === panelId)
  for (const cut of cuts) draft.drop('cuts', cut.id)
  return made(draft.edit('panel-remove', { kind: 'take', id: takeId }))
}
