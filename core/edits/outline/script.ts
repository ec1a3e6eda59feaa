import { shorten } from '../../document/text'
import { FIRST_ORDER, inOrder, orderKeys } from '../../document/order'
import { linkIdOf, type Passage, PANEL_LETTERS } from '../../document/records'
import { takeRef, outlineRef, EMPTY_TAKE, type Film, type Outline, type TakeBody } from '../../document/units'
import type { PlannedPanel } from '../../script/boardPlan'
import { passageWords } from '../../script/passages'
import { Draft } from '../change/draft'
import type { NewIds } from '../change/newIds'
import { made, refused, type Made } from '../change/refusal'
import { labelBetween } from '../../document/labels'
import { labelsTaken, lastLabelBefore, shotsOf } from './shots'


/** A sequence that scenes become when a script is brought in. */
export interface PlannedSequence {
  /** Null for one that is there already. */
  readonly title: string | null
  readonly id: string
  readonly sceneIds: readonly string[]
}

/**
 * Puts a script in place of the one that is there. Passages that kept their id keep their links; links of passages that
 * are gone go, the panels' words stay. Scenes become sequences as planned, new ones after the last; a lone empty
 * sequence that no one named gives way.
 */
export function setScript(outline: Outline, projectId: string, passages: readonly Passage[], plan: readonly PlannedSequence[]): Made {
  const draft = new Draft(outline)
  const sequenceOf = new Map(plan.flatMap(({ id, sceneIds }) => sceneIds.map((scene) => [scene, id] as const)))
  const known = new Set([...Object.keys(outline.sequences), ...plan.map(({ id }) => id)])
  const next = new Map(passages.map((passage) => [passage.id, { ...passage, sequenceId: passage.kind === 'scene' ? (sequenceOf.get(passage.id) ?? (known.has(passage.sequenceId ?? '') ? passage.sequenceId : null)) : null }]))
  for (const passage of next.values()) draft.put('passages', passage)
  for (const id of Object.keys(outline.passages)) if (!next.has(id)) draft.drop('passages', id)
  for (const link of Object.values(outline.links)) if (!next.has(link.passageId)) draft.drop('links', link.id)
  const there = inOrder(outline.sequences)
  const [only] = there
  const gives = there.length === 1 && only !== undefined && (only.title === '' || only.title === 'Sequence 1') && shotsOf(outline, only.id).length === 0
  const fresh = plan.filter(({ id, title }) => title !== null && outline.sequences[id] === undefined)
  const orders = draft.room('sequences', there, there.length, fresh.length)
  const taken = new Set(there.map((sequence) => sequence.label))
  if (gives && fresh.length > 0) {
    draft.drop('sequences', only.id)
    taken.delete(only.label)
  }
  let number = 0
  fresh.forEach(({ id, title }, index) => {
    do number++
    while (taken.has(String(number).padStart(2, '0')))
    draft.put('sequences', { id, order: orders[index]!, label: String(number).padStart(2, '0'), title: shorten(title!, 200), targetFrames: null })
  })
  return made(draft.edit('script', outlineRef(projectId)))
}

function link(draft: Draft<Outline>, passages: readonly Passage[], takeId: string, panelId: string) {
  for (const passage of passages) {
    const id = linkIdOf(passage.id, panelId)
    draft.put('links', { id, passageId: passage.id, takeId, panelId, words: passageWords(passage) })
  }
}

/** Makes a shot of planned panels, after a shot of the sequence or at its end (null). */
export function boardAsShot(film: Film, projectId: string, sequenceId: string, afterShotId: string | null, plan: readonly PlannedPanel[], title: string, newId: NewIds): Made {
  const { outline } = film
  if (outline.sequences[sequenceId] === undefined) return refused({ code: 'missing', what: 'sequence', id: sequenceId })
  if (plan.length === 0) return refused({ code: 'nothing-selected' })
  const shots = shotsOf(outline, sequenceId)
  const after = afterShotId === null ? shots.length - 1 : shots.findIndex((shot) => shot.id === afterShotId)
  if (afterShotId !== null && after < 0) return refused({ code: 'missing', what: 'shot', id: afterShotId })
  const taken = labelsTaken(outline)
  const label = labelBetween(shots[after]?.label ?? lastLabelBefore(outline, sequenceId), shots[after + 1]?.label ?? null, taken)
  const [shotId, takeId] = [newId(), newId()]
  const outlineDraft = new Draft(outline)
  const [order] = outlineDraft.room('shots', shots, after + 1, 1)
  outlineDraft
    .put('shots', { id: shotId, sequenceId, order: order!, label, title: shorten(title, 300), circledTakeId: takeId })
    .put('takes', { id: takeId, shotId, order: FIRST_ORDER, letter: 'A' })
  const body = new Draft<TakeBody>(EMPTY_TAKE).put('cameras', { id: newId(), order: FIRST_ORDER, letter: 'A', locked: false })
  const orders = orderKeys(plan.length)
  plan.forEach((panel, index) => {
    const id = newId()
    body.put('panels', { id, order: orders[index]!, lengthFrames: panel.lengthFrames, lengthLocked: false, action: shorten(panel.action, PANEL_LETTERS), dialogue: shorten(panel.dialogue, PANEL_LETTERS), notes: '' })
    link(outlineDraft, panel.passages, takeId, id)
  })
  return made(outlineDraft.edit('board', outlineRef(projectId)), body.edit('board', takeRef(takeId)))
}

/** Puts planned panels into a shot's take, after one of its panels or at its end (null). */
export function boardAsPanels(film: Film, projectId: string, takeId: string, afterPanelId: string | null, plan: readonly PlannedPanel[], newId: NewIds): Made {
  const take = film.takes[takeId]
  if (take === undefined) return refused({ code: 'missing', what: 'shot', id: takeId })
  if (plan.length === 0) return refused({ code: 'nothing-selected' })
  const panels = inOrder(take.panels)
  const after = afterPanelId === null ? panels.length - 1 : panels.findIndex((panel) => panel.id === afterPanelId)
  if (afterPanelId !== null && after < 0) return refused({ code: 'missing', what: 'panel', id: afterPanelId })
  const outline = new Draft(film.outline)
  const body = new Draft(take)
  const orders = body.room('panels', panels, after + 1, plan.length)
  plan.forEach((panel, index) => {
    const id = newId()
    body.put('panels', { id, order: orders[index]!, lengthFrames: panel.lengthFrames, lengthLocked: false, action: shorten(panel.action, PANEL_LETTERS), dialogue: shorten(panel.dialogue, PANEL_LETTERS), notes: '' })
    link(outline, panel.passages, takeId, id)
  })
  return made(outline.edit('board', outlineRef(projectId)), body.edit('board', takeRef(takeId)))
}

const withLine = (words: string, line: string) => shorten(words.trim() === '' ? line : words.split('\n').includes(line) || words.includes(line) ? words : `${words}\n${line}`, PANEL_LETTERS)

/** Gives a panel the words of passages, below those it has, and links them. */
export function fillPanel(film: Film, projectId: string, takeId: string, panelId: string, passages: readonly Passage[]): Made {
  const panel = film.takes[takeId]?.panels[panelId]
  if (panel === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  let { action, dialogue } = panel
  for (const passage of passages) {
    if (passage.kind === 'dialogue') dialogue = withLine(dialogue, passageWords(passage))
    else action = withLine(action, passageWords(passage))
  }
  const outline = new Draft(film.outline)
  link(outline, passages, takeId, panelId)
  return made(outline.edit('fill', outlineRef(projectId)), new Draft(film.takes[takeId]!).put('panels', { ...panel, action, dialogue }).edit('fill', takeRef(takeId)))
}

/** The links of a panel whose passages say something else by now. */
export function changedLinks(outline: Outline, takeId: string, panelId: string) {
  return Object.values(outline.links).filter((each) => each.takeId === takeId && each.panelId === panelId && isChanged(outline, each))
}

export function isChanged(outline: Outline, each: { readonly passageId: string; readonly words: string }): boolean {
  const passage = outline.passages[each.passageId]
  return passage !== undefined && passageWords(passage) !== each.words
}

/** Settles changed words: the panel takes the script's (`take`), or keeps its own and is not asked again. */
export function settleWords(film: Film, projectId: string, takeId: string, panelId: string, take: boolean): Made {
  const body = film.takes[takeId]
  const panel = body?.panels[panelId]
  if (body === undefined || panel === undefined) return refused({ code: 'missing', what: 'panel', id: panelId })
  let { action, dialogue } = panel
  const outline = new Draft(film.outline)
  for (const each of changedLinks(film.outline, takeId, panelId)) {
    const passage = film.outline.passages[each.passageId]!
    const now = passageWords(passage)
    const replaced = (words: string) => (each.words !== '' && words.includes(each.words) ? shorten(words.replace(each.words, () => now), PANEL_LETTERS) : withLine(words, now))
    if (passage.kind === 'dialogue') dialogue = replaced(dialogue)
    else action = replaced(action)
    outline.put('links', { ...each, words: now })
  }
  const edits = [outline.edit('words-settled', outlineRef(projectId))]
  if (take) edits.push(new Draft(body).put('panels', { ...panel, action, dialogue }).edit('words-settled', takeRef(takeId)))
  return made(...edits)
}

/** Takes the link between panels and the script away; words stay. */
export function unlinkPanels(outline: Outline, projectId: string, takeId: string, panelIds: readonly string[]): Made {
  const gone = new Set(panelIds)
  const draft = new Draft(outline)
  for (const each of Object.values(outline.links)) if (each.takeId === takeId && gone.has(each.panelId)) draft.drop('links', each.id)
  return made(draft.edit('unlink', outlineRef(projectId)))
}
