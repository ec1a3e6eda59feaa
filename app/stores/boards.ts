import { placedPanels, type Panel } from '@rubato/core/document'
import { isChanged } from '@rubato/core/edits'
import { USUAL_SPEAKING_RATE } from '@rubato/core/script'
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { BoardSize } from '~/boards/boardRows'
import type { BoardPanel } from '~/boards/dropPlace'
import { useDeskStore } from './desk'
import { withEachFilm } from './eachFilm'
import { useFilmStore } from './film'

export type PanelRef = BoardPanel
export type CaptionField = 'action' | 'dialogue'

const sameRef = (a: PanelRef | null, b: PanelRef | null) => a?.takeId === b?.takeId && a?.panelId === b?.panelId

/** What is chosen and shown on the boards. Nothing here is part of the film. */
export const useBoardsStore = defineStore('boards', () => {
  const film = useFilmStore()
  const desk = useDeskStore()
  const size = useLocalStorage<BoardSize>('rubato.boardSize', 'medium')
  const wordsAMinute = useLocalStorage('rubato.wordsAMinute', USUAL_SPEAKING_RATE)
  const scriptOpen = useLocalStorage('rubato.scriptOpen', true)
  /** Panels chosen, in the order they were; or shots. Never both. */
  const panels = shallowRef<readonly PanelRef[]>([])
  const shots = shallowRef<readonly string[]>([])
  const passages = shallowRef<readonly string[]>([])
  const anchor = shallowRef<PanelRef | null>(null)
  const editing = shallowRef<(PanelRef & { readonly field: CaptionField }) | null>(null)
  /** Raised to bring a panel into view. */
  const reveal = shallowRef<{ readonly ref: PanelRef; readonly number: number } | null>(null)
  const finding = ref(false)

  /** The one that arrow keys start from. */
  const current = computed(() => panels.value.at(-1) ?? null)
  const chosenKeys = computed(() => new Set(panels.value.map((each) => `${each.takeId}/${each.panelId}`)))
  const isChosen = (takeId: string, panelId: string) => chosenKeys.value.has(`${takeId}/${panelId}`)
  const panelsOf = (takeId: string): readonly Panel[] => {
    const take = film.takeOf(takeId)
    return take === null ? [] : placedPanels(take).map((entry) => entry.panel)
  }
  /** Panels that are loaded, in film order. */
  const inFilmOrder = (refs: readonly PanelRef[]): readonly PanelRef[] => {
    const wanted = new Map<string, Set<string>>()
    for (const { takeId, panelId } of refs) {
      const ids = wanted.get(takeId)
      if (ids === undefined) wanted.set(takeId, new Set([panelId]))
      else ids.add(panelId)
    }
    const { takes } = film.film
    return film.filmStage.shots.flatMap(({ shot: { circledTakeId: takeId } }) => {
      const ids = wanted.get(takeId)
      const take = takes[takeId]
      return ids === undefined || take === undefined ? [] : placedPanels(take).flatMap(({ panel }) => (ids.has(panel.id) ? [{ takeId, panelId: panel.id }] : []))
    })
  }
  /** The chosen panels take by take, each in its order. */
  const byTake = computed(() => {
    const groups = new Map<string, string[]>()
    for (const { takeId, panelId } of inFilmOrder(panels.value)) {
      const ids = groups.get(takeId)
      if (ids === undefined) groups.set(takeId, [panelId])
      else ids.push(panelId)
    }
    return groups
  })

  /** Panels for which the script says something else by now. */
  const outdated = computed(() => {
    const { outline } = film
    return new Set(Object.values(outline.links).flatMap((link) => (isChanged(outline, link) ? [`${link.takeId}/${link.panelId}`] : [])))
  })

  function goToPanel({ takeId, panelId }: PanelRef) {
    const take = film.takeOf(takeId)
    const shot = film.filmStage.placeOfTake(takeId)
    const placed = take === null ? undefined : placedPanels(take).find((entry) => entry.panel.id === panelId)
    if (shot !== null) desk.goTo(shot.startFrame + (placed?.startFrame ?? 0))
  }

  /** `how`: just this one, on or off beside the others, or all from the anchor to here. */
  function choose(ref: PanelRef, how: 'only' | 'toggle' | 'range' = 'only') {
    shots.value = []
    if (how === 'toggle') panels.value = isChosen(ref.takeId, ref.panelId) ? panels.value.filter((each) => !sameRef(each, ref)) : [...panels.value, ref]
    else if (how === 'range' && anchor.value !== null) panels.value = rangeTo(anchor.value, ref)
    else panels.value = [ref]
    if (how !== 'range') anchor.value = ref
    goToPanel(ref)
  }

  function rangeTo(from: PanelRef, to: PanelRef): readonly PanelRef[] {
    const all = film.filmStage.shots.flatMap(({ shot }) => panelsOf(shot.circledTakeId).map((panel) => ({ takeId: shot.circledTakeId, panelId: panel.id })))
    const [a, b] = [all.findIndex((each) => sameRef(each, from)), all.findIndex((each) => sameRef(each, to))]
    if (a < 0 || b < 0) return [to]
    const range = all.slice(Math.min(a, b), Math.max(a, b) + 1)
    return a <= b ? range : range.reverse()
  }

  function chooseShot(shotId: string, how: 'only' | 'toggle' | 'range' = 'only') {
    panels.value = []
    const order = film.filmStage.shots.map((placed) => placed.shot.id)
    const last = shots.value.at(-1)
    if (how === 'toggle') shots.value = shots.value.includes(shotId) ? shots.value.filter((id) => id !== shotId) : [...shots.value, shotId]
    else if (how === 'range' && last !== undefined) {
      const [a, b] = [order.indexOf(last), order.indexOf(shotId)]
      shots.value = order.slice(Math.min(a, b), Math.max(a, b) + 1)
    } else shots.value = [shotId]
    desk.goToShot(shotId)
  }

  function show(ref: PanelRef) {
    reveal.value = { ref, number: (reveal.value?.number ?? 0) + 1 }
  }

  /** The neighbour in film order; null at the film's ends and where it is not loaded yet. */
  function neighbour(from: PanelRef, step: 1 | -1): PanelRef | null {
    const list = panelsOf(from.takeId)
    const at = list.findIndex((panel) => panel.id === from.panelId)
    const beside = list[at + step]
    if (beside !== undefined) return { takeId: from.takeId, panelId: beside.id }
    const shot = film.filmStage.placeOfTake(from.takeId)
    const next = shot === null ? undefined : film.filmStage.shots[shot.index + step]
    const panel = next === undefined ? undefined : panelsOf(next.shot.circledTakeId).at(step === 1 ? 0 : -1)
    return next === undefined || panel === undefined ? null : { takeId: next.shot.circledTakeId, panelId: panel.id }
  }

  function reset() {
    panels.value = []
    shots.value = []
    passages.value = []
    anchor.value = null
    editing.value = null
    reveal.value = null
    finding.value = false
  }
  withEachFilm(reset)
  // What is gone is not chosen any more.
  watch(
    () => film.film,
    (now) => {
      const there = panels.value.filter((each) => now.takes[each.takeId] === undefined || now.takes[each.takeId]!.panels[each.panelId] !== undefined)
      if (there.length !== panels.value.length) panels.value = there
      const left = shots.value.filter((id) => now.outline.shots[id] !== undefined)
      if (left.length !== shots.value.length) shots.value = left
      const said = passages.value.filter((id) => now.outline.passages[id] !== undefined)
      if (said.length !== passages.value.length) passages.value = said
    },
  )

  return { size, wordsAMinute, scriptOpen, panels, shots, passages, anchor, editing, reveal, finding, current, isChosen, outdated, byTake, inFilmOrder, panelsOf, choose, chooseShot, goToPanel, show, neighbour, reset }
})
