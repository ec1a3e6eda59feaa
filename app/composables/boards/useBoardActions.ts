import { placedPanels } from '@rubato/core/document'
import {
  addPanel,
  carryPanels,
  cutShot,
  duplicatePanels,
  duplicateShot,
  editPanel,
  inTurn,
  joinPanels,
  joinShots,
  movePanels,
  moveShots,
  removePanels,
  removeShots,
  renumberShots,
  retime,
  splitPanel,
  trayShots,
} from '@rubato/core/edits'
import type { Film } from '@rubato/core/document'
import { useShots } from '~/composables/boards/useShots'
import { useBoardsStore, type CaptionField, type PanelRef } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import type { Make } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

const newId = () => crypto.randomUUID()
const many = (count: number, one: string, several = `${one}s`) => (count === 1 ? one : `${count} ${several}`)

/** What is done to panels and shots on the boards: to those chosen, or to those named. */
export function useBoardActions() {
  const film = useFilmStore()
  const boards = useBoardsStore()
  const desk = useDeskStore()
  const shots = useShots()
  const projectId = () => film.project!.id
  const shotOfTake = (takeId: string) => film.film.outline.takes[takeId]?.shotId ?? ''

  function choose(refs: readonly PanelRef[]) {
    const last = refs.at(-1)
    if (last === undefined) return
    boards.panels = refs
    boards.shots = []
    boards.anchor = refs[0]!
    boards.goToPanel(last)
    boards.show(last)
  }

  function newPanel(after: PanelRef | null = boards.current) {
    const takeId = after?.takeId ?? desk.takeId
    const project = film.project
    if (takeId === null || project === null || film.takeOf(takeId) === null) return
    const id = newId()
    if (film.perform('new panel', (f) => addPanel(f.takes[takeId]!, takeId, id, after?.panelId ?? null, project.defaultPanelFrames))) choose([{ takeId, panelId: id }])
  }

  function newShot() {
    const current = boards.current
    const shotId = boards.shots.at(-1) ?? (current === null ? (desk.shotId ?? null) : shotOfTake(current.takeId))
    const shot = shotId === null ? undefined : film.film.outline.shots[shotId]
    const made = shots.newShot(shot === undefined ? undefined : { sequenceId: shot.sequenceId, afterShotId: shot.id })
    if (made !== null) revealShot(made)
  }

  function newShotIn(sequenceId: string) {
    const made = shots.newShot({ sequenceId, afterShotId: null })
    if (made !== null) revealShot(made)
  }

  function revealShot(shotId: string) {
    const takeId = film.film.outline.shots[shotId]?.circledTakeId
    const first = takeId === undefined ? undefined : boards.panelsOf(takeId)[0]
    if (takeId !== undefined && first !== undefined) choose([{ takeId, panelId: first.id }])
  }

  function duplicate() {
    if (boards.shots.length > 0) return void duplicateShots(boards.shots)
    const groups = boards.byTake
    if (groups.size === 0) return film.refuse('Nothing is chosen. Click a panel, or a shot’s label, first.')
    const made = new Map([...groups].map(([takeId, ids]) => [takeId, ids.map(newId)]))
    const count = [...groups.values()].flat().length
    if (film.perform(`duplicate ${many(count, 'panel')}`, (f) => inTurn(f, [...groups].map(([takeId, ids]): Make => (now) => duplicatePanels(now.takes[takeId]!, takeId, ids, made.get(takeId)!))))) {
      choose([...made].flatMap(([takeId, ids]) => ids.map((panelId) => ({ takeId, panelId }))))
    }
  }

  /** Art that is copied must be there first. */
  async function withArt(takeIds: readonly string[], work: () => void) {
    try {
      await film.ensureTakesWithArt(takeIds)
    } catch (error) {
      return film.refuse(`The art could not be loaded. ${(error as Error).message} Try again.`)
    }
    work()
  }
  const takesOf = (shotIds: readonly string[]) => shotIds.flatMap((id) => film.film.outline.shots[id]?.circledTakeId ?? [])

  const duplicateShots = (ids: readonly string[]) =>
    withArt(takesOf(ids), () => film.perform(`duplicate ${many(ids.length, 'shot')}`, (f) => inTurn(f, ids.map((id): Make => (now) => duplicateShot(now, projectId(), id, newId)))))

  async function remove() {
    if (boards.shots.length > 0) return removeTheseShots(boards.shots)
    const groups = boards.byTake
    if (groups.size === 0) return film.refuse('Nothing is chosen. Click a panel, or a shot’s label, first.')
    const first = [...groups][0]!
    const after = boards.neighbour({ takeId: first[0], panelId: first[1][0]! }, -1)
    const count = [...groups.values()].flat().length
    if (film.perform(`delete ${many(count, 'panel')}`, (f) => inTurn(f, [...groups].map(([takeId, ids]): Make => (now) => removePanels(now, projectId(), takeId, ids, newId))))) {
      if (after !== null) choose([after])
    }
  }

  async function removeTheseShots(ids: readonly string[]) {
    const label = ids.length === 1 ? `delete shot ${film.film.outline.shots[ids[0]!]?.label ?? ''}` : `delete ${ids.length} shots`
    if (!(await shots.look(ids))) return
    if (ids.length > 1 && !(await film.safeguard(`Before ${ids.length} shots were deleted`))) return
    if (film.perform(label, (f) => removeShots(f.outline, projectId(), ids))) desk.goTo(desk.playhead)
  }

  /** Kept aside, as they are. */
  function trayTheseShots(ids: readonly string[]) {
    const label = ids.length === 1 ? `shot ${film.film.outline.shots[ids[0]!]?.label ?? ''} into the tray` : `${ids.length} shots into the tray`
    if (film.perform(label, (f) => trayShots(f.outline, projectId(), ids))) desk.goTo(desk.playhead)
  }

  function split() {
    const ref = boards.current
    const panel = ref === null ? undefined : film.takeOf(ref.takeId)?.panels[ref.panelId]
    if (ref === null || panel === undefined) return film.refuse('Choose the panel to split first.')
    // At the playhead where that stands inside it, else in the middle.
    const inside = desk.takeId === ref.takeId && desk.placedPanel?.panel.id === ref.panelId ? desk.shotFrame - desk.placedPanel.startFrame : 0
    const id = newId()
    if (film.perform('split panel', (f) => splitPanel(f.takes[ref.takeId]!, ref.takeId, ref.panelId, inside > 0 ? inside : panel.lengthFrames / 2, id))) choose([{ takeId: ref.takeId, panelId: id }])
  }

  function join() {
    if (boards.shots.length > 0) return void joinTheseShots(boards.shots)
    const groups = [...boards.byTake]
    if (groups.length !== 1 || groups[0]![1].length < 2) return film.refuse('Choose two or more neighbouring panels of one shot to join them, or two or more shots.')
    const [takeId, ids] = groups[0]!
    if (film.perform(`join ${ids.length} panels`, (f) => joinPanels(f, projectId(), takeId, ids))) choose([{ takeId, panelId: ids[0]! }])
  }

  const joinTheseShots = (ids: readonly string[]) =>
    withArt(takesOf(ids), () => {
      if (film.perform(`join ${many(ids.length, 'shot')}`, (f) => joinShots(f, projectId(), ids, newId))) boards.shots = ids.filter((id) => film.film.outline.shots[id] !== undefined)
    })

  function joinWithNext(shotId: string) {
    const at = film.filmStage.placeOf(shotId)?.index ?? -1
    const next = film.filmStage.shots[at + 1]?.shot
    const shot = film.film.outline.shots[shotId]
    if (next === undefined || next.sequenceId !== shot?.sequenceId) return film.refuse('There is no shot after this one in its sequence.')
    void joinTheseShots([shotId, next.id])
  }

  /** Cuts the shot where the chosen panel begins. */
  function cut(ref: PanelRef | null = boards.current) {
    if (ref === null) return film.refuse('Choose the panel that the new shot is to begin with.')
    const shotId = shotOfTake(ref.takeId)
    void withArt([ref.takeId], () => {
      if (!film.perform('cut shot', (f) => cutShot(f, projectId(), shotId, ref.panelId, newId))) return
      const at = film.filmStage.placeOf(shotId)?.index ?? 0
      const made = film.filmStage.shots[at + 1]?.shot
      if (made !== undefined) revealShot(made.id)
    })
  }

  /** Moves panels before another panel of a take, or to its end (null). */
  function moveTo(refs: readonly PanelRef[], takeId: string, beforeId: string | null) {
    const groups = new Map<string, string[]>()
    for (const ref of boards.inFilmOrder(refs)) groups.set(ref.takeId, [...(groups.get(ref.takeId) ?? []), ref.panelId])
    const label = `move ${many(refs.length, 'panel')}`
    void withArt([...groups.keys(), takeId], () => {
      const known = new Set(Object.keys(film.takeOf(takeId)?.panels ?? {}))
      const own = groups.get(takeId) ?? []
      const done = film.perform(label, (f) =>
        inTurn(f, [
          ...(own.length === 0 ? [] : [(now: Film) => movePanels(now.takes[takeId]!, takeId, own, beforeId !== null && own.includes(beforeId) ? nextNot(now, takeId, beforeId, own) : beforeId, newId)]),
          ...[...groups].filter(([from]) => from !== takeId).map(([from, ids]): Make => (now) => carryPanels(now, projectId(), from, ids, takeId, beforeId !== null && own.includes(beforeId) ? nextNot(now, takeId, beforeId, own) : beforeId, newId)),
        ]),
      )
      const came = Object.keys(film.takeOf(takeId)?.panels ?? {}).filter((id) => !known.has(id))
      if (done) choose(boards.inFilmOrder([...own, ...came].map((panelId) => ({ takeId, panelId }))))
    })
  }

  /** The first panel after `beforeId` that is not itself moving. */
  function nextNot(now: Film, takeId: string, beforeId: string, moving: readonly string[]): string | null {
    const panels = placedPanels(now.takes[takeId]!).map((entry) => entry.panel.id)
    return panels.slice(panels.indexOf(beforeId)).find((id) => !moving.includes(id)) ?? null
  }

  function moveShotsTo(ids: readonly string[], sequenceId: string, beforeId: string | null) {
    const order = film.filmStage.shots.map((placed) => placed.shot)
    const before = beforeId !== null && ids.includes(beforeId) ? (order.slice(order.findIndex((shot) => shot.id === beforeId)).find((shot) => shot.sequenceId === sequenceId && !ids.includes(shot.id))?.id ?? null) : beforeId
    film.perform(`move ${many(ids.length, 'shot')}`, (f) => moveShots(f.outline, projectId(), ids, sequenceId, before))
  }

  async function renumber(sequenceId: string | null, first = 10) {
    if (sequenceId === null && !(await film.safeguard('Before all shots were renumbered'))) return
    film.perform('renumber shots', (f) => renumberShots(f.outline, projectId(), sequenceId, first))
  }

  function setCaption(ref: PanelRef, field: CaptionField, words: string) {
    const panel = film.takeOf(ref.takeId)?.panels[ref.panelId]
    if (panel === undefined || panel[field] === words) return
    film.perform(field, (f) => editPanel(f.takes[ref.takeId]!, ref.takeId, ref.panelId, { [field]: words }))
  }

  const setLength = (ref: PanelRef, frames: number) => film.perform('panel length', (f) => retime(f, projectId(), [{ lengths: [{ ...ref, lengthFrames: frames }], giver: null }], 'push'))

  return { newPanel, newShot, newShotIn, duplicate, duplicateShots, remove, removeTheseShots, trayTheseShots, split, join, joinTheseShots, joinWithNext, cut, moveTo, moveShotsTo, renumber, setCaption, setLength, choose }
}
