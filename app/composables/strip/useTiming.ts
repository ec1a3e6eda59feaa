import { placedPanels } from '@rubato/core/document'
import { addRulerMark, editPanel, editRulerMark, fitLengths, inTurn, removeRulerMark, retime, type PanelPlace, type Run } from '@rubato/core/edits'
import { framesOfEntry } from '@rubato/core/time'
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useTimingStore } from '~/stores/timing'

const keyOf = (place: PanelPlace) => `${place.takeId}/${place.panelId}`

/** Quick lengths, seconds; the artist can change them. */
const QUICK_SECONDS = [0.5, 1, 1.5, 2, 3, 4] as const

/** Time given to panels: to those chosen, or to the one under the playhead. */
export function useTiming() {
  const film = useFilmStore()
  const desk = useDeskStore()
  const boards = useBoardsStore()
  const timing = useTimingStore()
  const actions = useBoardActions()
  const quickSeconds = useLocalStorage<readonly number[]>('rubato.quickLengths', [...QUICK_SECONDS])
  const projectId = () => film.project!.id

  /** The panels chosen, those of the shots chosen, or the one under the playhead; in film order. */
  const targets = computed<readonly PanelPlace[]>(() => {
    if (boards.panels.length > 0) return boards.inFilmOrder(boards.panels)
    const shots = new Set(boards.shots)
    if (shots.size > 0) return film.filmStage.shots.filter((placed) => shots.has(placed.shot.id)).flatMap(({ shot: { circledTakeId: takeId } }) => boards.panelsOf(takeId).map((panel) => ({ takeId, panelId: panel.id })))
    const panel = desk.placedPanel
    return desk.takeId === null || panel === null ? [] : [{ takeId: desk.takeId, panelId: panel.panel.id }]
  })
  const panelAt = (place: PanelPlace) => film.takeOf(place.takeId)?.panels[place.panelId] ?? null
  const targetPanels = computed(() => {
    // Read once: there may be ten thousand.
    const { takes } = film.film
    return targets.value.flatMap(({ takeId, panelId }) => {
      const panel = takes[takeId]?.panels[panelId]
      return panel === undefined ? [] : [{ takeId, panelId, lengthFrames: panel.lengthFrames, lengthLocked: panel.lengthLocked }]
    })
  })
  /** Of the shots chosen those that are not loaded: how long they are is known all the same. */
  const unloaded = computed(() => {
    if (boards.panels.length > 0 || boards.shots.length === 0) return []
    const shots = new Set(boards.shots)
    return film.filmStage.shots.filter((placed) => shots.has(placed.shot.id) && film.takeOf(placed.shot.circledTakeId) === null)
  })
  const targetFrames = computed(() => targetPanels.value.reduce((sum, panel) => sum + panel.lengthFrames, 0) + unloaded.value.reduce((sum, placed) => sum + placed.lengthFrames, 0))

  /** Loads takes; false, and said, where they can't be had. */
  async function loadAll(takeIds: readonly string[]): Promise<boolean> {
    try {
      await film.ensure('take', takeIds)
    } catch (error) {
      film.refuse(`The shots could not be loaded. ${(error as Error).message} Try again.`)
      return false
    }
    if (takeIds.every((id) => film.takeOf(id) !== null)) return true
    film.refuse('So many shots can’t be in memory at once. Choose fewer and time them in parts.')
    return false
  }
  /** Runs when all that is chosen is loaded; at once where it is. */
  function withTargets(work: () => void): void {
    const takes = unloaded.value.map((placed) => placed.shot.circledTakeId)
    if (takes.length === 0) return work()
    const chosen = boards.shots
    void loadAll(takes).then((there) => {
      if (there && boards.shots === chosen) work()
    })
  }

  /** The next panel without a fermata after one, but for those named. Null at the film's end, and where it is not loaded. */
  function giverAfter(place: PanelPlace, but: ReadonlySet<string> = new Set()): PanelPlace | null {
    for (let next = boards.neighbour(place, 1); next !== null; next = boards.neighbour(next, 1)) {
      if (!but.has(keyOf(next)) && panelAt(next)?.lengthLocked === false) return next
    }
    return null
  }

  /** Loads what a giver may be looked for in. */
  async function reachAfter(takeId: string): Promise<void> {
    const { shots } = film.filmStage
    const index = film.filmStage.placeOfTake(takeId)?.index ?? 0
    const next = shots.slice(index, index + 3).map((placed) => placed.shot.circledTakeId)
    if (next.some((id) => film.takeOf(id) === null)) await film.ensure('take', next).catch((error: Error) => film.refuse(error.message))
  }

  /** New lengths as runs of neighbours, each with the panel that gives. `lengths` are in film order. */
  function runsOf(lengths: readonly (PanelPlace & { readonly lengthFrames: number })[]): Run[] {
    const all = new Set(lengths.map(keyOf))
    const runs: (PanelPlace & { readonly lengthFrames: number })[][] = []
    for (const entry of lengths) {
      const run = runs.at(-1)
      const before = run?.at(-1)
      const next = before === undefined ? null : boards.neighbour(before, 1)
      if (run !== undefined && next !== null && keyOf(next) === keyOf(entry)) run.push(entry)
      else runs.push([entry])
    }
    return runs.map((run) => ({ lengths: run, giver: giverAfter(run.at(-1)!, all) }))
  }

  async function give(label: string, lengths: Run['lengths'], gesture: string | null = null): Promise<boolean> {
    const mode = timing.modeNow
    const last = lengths.at(-1)
    if (last === undefined) return false
    if (mode === 'steal') await reachAfter(last.takeId)
    const runs = mode === 'push' ? [{ lengths, giver: null }] : runsOf(lengths)
    return film.perform(label, (f) => retime(f, projectId(), runs, mode), gesture)
  }

  const nameOf = (places: readonly PanelPlace[]) => {
    if (places.length !== 1) return `${places.length} panels`
    const take = film.takeOf(places[0]!.takeId)
    const index = take === null ? -1 : placedPanels(take).findIndex((entry) => entry.panel.id === places[0]!.panelId)
    return `panel ${index + 1}`
  }

  /** Gives each target a length as it was typed: the same for all, or relative to its own. False when it says nothing. */
  function setEach(text: string, gesture: string | null = null): boolean {
    const rate = film.project!.rate
    if ([...targetPanels.value, ...unloaded.value].some((each) => framesOfEntry(text, rate, each.lengthFrames) === null)) return false
    withTargets(() => {
      const panels = targetPanels.value.filter((panel) => !panel.lengthLocked || targetPanels.value.length === 1)
      void give(`length of ${nameOf(targets.value)}`, panels.map((panel) => ({ ...panel, lengthFrames: framesOfEntry(text, rate, panel.lengthFrames)! })), gesture)
    })
    return true
  }

  /** Scales the targets to a length together, as typed. False when it says nothing. */
  function fitTo(text: string): boolean {
    const total = framesOfEntry(text, film.project!.rate, targetFrames.value)
    if (total === null || targetFrames.value === 0) return false
    withTargets(() => {
      const panels = targetPanels.value
      if (panels.length === 1) return void setEach(String(total))
      const fitted = fitLengths(panels, total)
      if (!fitted.ok) film.perform('fit', () => ({ ok: false, refusal: fitted.refusal }))
      else void give(`fit ${panels.length} panels`, fitted.lengths)
    })
    return true
  }

  const step = (by: number) => setEach(by > 0 ? `+${by}` : `-${-by}`, `step:${targets.value.map(keyOf).join()}`)

  const quickFrames = computed(() => quickSeconds.value.map((seconds) => Math.max(1, Math.round(seconds * desk.fps))))
  const quick = (index: number) => setEach(String(quickFrames.value[index] ?? 1))

  function toggleFermata() {
    withTargets(() => holdLength(targets.value))
  }
  function holdLength(places: readonly PanelPlace[]) {
    if (places.length === 0) return
    const locked = !places.every((place) => panelAt(place)?.lengthLocked === true)
    film.perform(locked ? `fermata on ${nameOf(places)}` : `fermata off ${nameOf(places)}`, (f) => inTurn(f, places.map((place) => (now) => editPanel(now.takes[place.takeId]!, place.takeId, place.panelId, { lengthLocked: locked }))))
  }

  /** The panel under the playhead, chosen where none that is chosen holds the playhead. */
  function atPlayhead() {
    const [takeId, panel] = [desk.takeId, desk.placedPanel]
    if (takeId === null || panel === null) return null
    return { takeId, panelId: panel.panel.id }
  }
  function splitHere() {
    const place = atPlayhead()
    if (place === null) return
    if (desk.shotFrame === desk.placedPanel!.startFrame) return film.refuse('The playhead stands on the panel’s first frame. Move it into the panel to split it there.')
    const frame = desk.playhead
    boards.panels = [place]
    boards.shots = []
    actions.split()
    desk.goTo(frame)
  }
  function joinTargets() {
    if (boards.shots.length === 0 && boards.panels.length < 2) return film.refuse('Choose two or more neighbouring panels (Shift click), or shots, to join them.')
    actions.join()
  }
  function cutHere() {
    const place = atPlayhead()
    if (place !== null) actions.cut(place)
  }

  /** Chooses all panels of the shot; where they are, of the film. */
  async function chooseAll() {
    const takeId = desk.takeId
    if (takeId === null) return
    const frame = desk.playhead
    const inShot = boards.panelsOf(takeId).map((panel) => ({ takeId, panelId: panel.id }))
    const all = boards.panels.length === inShot.length && inShot.every((place) => boards.isChosen(place.takeId, place.panelId))
    if (all) {
      const before = boards.panels
      const takes = film.filmStage.shots.map(({ shot }) => shot.circledTakeId)
      if (!(await loadAll(takes)) || boards.panels !== before) return
      boards.panels = takes.flatMap((id) => boards.panelsOf(id).map((panel) => ({ takeId: id, panelId: panel.id })))
    } else boards.panels = inShot
    boards.shots = []
    boards.anchor = boards.panels[0] ?? null
    desk.goTo(frame)
  }
  function chooseNone() {
    boards.panels = []
    boards.shots = []
    timing.selectedMarkId = null
  }
  async function removeTargets() {
    if (boards.shots.length > 0) return actions.removeTheseShots(boards.shots)
    if (boards.panels.length > 1) return actions.remove()
    film.refuse('Nothing is chosen that Delete takes out. Choose framings, or several panels or shots; one panel goes with Ctrl Shift Delete.')
  }

  function markAt(frame: number): string | null {
    const placed = film.filmStage.shotAt(frame)
    if (placed === null) return null
    const id = crypto.randomUUID()
    const mark = { id, shotId: placed.shot.id, offsetFrames: frame - placed.startFrame, name: '', meaning: timing.meaning }
    if (!film.perform('new mark', (f) => addRulerMark(f.outline, projectId(), mark))) return null
    timing.selectedMarkId = id
    return id
  }
  function moveMarkTo(f: Parameters<Parameters<typeof film.perform>[1]>[0], id: string, frame: number) {
    const placed = film.filmStage.shotAt(frame)
    return placed === null ? ({ ok: true, edits: [] } as const) : editRulerMark(f.outline, projectId(), id, { shotId: placed.shot.id, offsetFrames: Math.min(frame, placed.startFrame + placed.lengthFrames - 1) - placed.startFrame })
  }
  function removeMark(id: string) {
    if (film.perform('delete mark', (f) => removeRulerMark(f.outline, projectId(), id))) timing.selectedMarkId = null
  }
  const changeMark = (id: string, fields: Parameters<typeof editRulerMark>[3], label = 'mark') => film.perform(label, (f) => editRulerMark(f.outline, projectId(), id, fields), `mark:${id}:${label}`)
  function nextMark(direction: 1 | -1): number | null {
    const frames = timing.marks.map((each) => each.frame)
    return (direction > 0 ? frames.find((frame) => frame > desk.playhead) : frames.findLast((frame) => frame < desk.playhead)) ?? null
  }

  return { targets, targetPanels, targetFrames, unloaded, giverAfter, reachAfter, setEach, fitTo, step, quickSeconds, quickFrames, quick, toggleFermata, splitHere, joinTargets, cutHere, chooseAll, chooseNone, removeTargets, markAt, moveMarkTo, removeMark, changeMark, nextMark }
}
