import { inOrder, type Passage, shorten } from '@rubato/core/document'
import { boardAsPanels, boardAsShot, fillPanel, inTurn, shotsOf } from '@rubato/core/edits'
import { byScene, canBeBoarded, planPanels } from '@rubato/core/script'
import { computed } from 'vue'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import type { DropPlace } from '~/boards/dropPlace'
import { useBoardsStore, type PanelRef } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import type { Make } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'

const newId = () => crypto.randomUUID()

/** Makes shots and panels of passages of the script. */
export function useScriptBoarding() {
  const film = useFilmStore()
  const boards = useBoardsStore()
  const desk = useDeskStore()
  const actions = useBoardActions()
  const script = computed(() => inOrder(film.outline.passages))
  /** Passages that a panel shows, and the panels that do. */
  const boarded = computed(() => {
    const found = new Map<string, PanelRef[]>()
    for (const { passageId, takeId, panelId } of Object.values(film.outline.links)) found.set(passageId, [...(found.get(passageId) ?? []), { takeId, panelId }])
    return found
  })
  const notYet = computed(() => script.value.filter((passage) => canBeBoarded(passage) && !boarded.value.has(passage.id)))

  const passagesOf = (ids: readonly string[]): readonly Passage[] => {
    const wanted = new Set(ids)
    return script.value.filter((passage) => wanted.has(passage.id) && canBeBoarded(passage))
  }
  const plan = (passages: readonly Passage[]) => planPanels(passages, boards.wordsAMinute, film.project!.rate, film.project!.defaultPanelFrames)
  const known = () => new Set(film.filmStage.shots.map((placed) => placed.shot.id))

  function nothing(passages: readonly Passage[]): boolean {
    if (film.project === null) return true
    if (passages.length > 0) return false
    film.refuse('Choose action or dialogue in the script first; headings and notes make no panels.')
    return true
  }

  function sequenceFor(scene: Passage | null): string {
    const own = scene?.sequenceId ?? null
    if (own !== null && film.outline.sequences[own] !== undefined) return own
    return desk.placedShot?.shot.sequenceId ?? inOrder(film.outline.sequences)[0]!.id
  }

  /** A shot of what is chosen in each scene: after the shot that shows what comes before it, else at its sequence's end. */
  function asShots(ids: readonly string[] = boards.passages, at: { readonly sequenceId: string; readonly afterShotId: string | null } | null = null) {
    const passages = passagesOf(ids)
    if (nothing(passages)) return
    const groups = byScene(script.value, new Set(passages.map((passage) => passage.id)))
    const before = known()
    const steps = groups.map(({ scene, passages: chosen }): Make => (now) => {
      const sequenceId = at?.sequenceId ?? sequenceFor(scene)
      const after = at !== null ? at.afterShotId : shotBefore(sequenceId, chosen[0]!)
      return boardAsShot(now, film.project!.id, sequenceId, after, plan(chosen), shorten(scene?.text ?? '', 300), newId)
    })
    // Placed at one spot, the later ones must come after the earlier.
    const done = film.perform(groups.length === 1 ? 'board a shot' : `board ${groups.length} shots`, (f) => inTurn(f, at === null ? steps : [...steps].reverse()))
    if (!done) return
    const made = film.filmStage.shots.filter((placed) => !before.has(placed.shot.id))
    const first = made[0]
    const panel = first === undefined ? undefined : boards.panelsOf(first.shot.circledTakeId)[0]
    if (first !== undefined && panel !== undefined) actions.choose([{ takeId: first.shot.circledTakeId, panelId: panel.id }])
    boards.passages = nextFrom(passages.at(-1)!)
  }

  /** The shot of a sequence that shows the nearest passage before one; null for the sequence's end. */
  function shotBefore(sequenceId: string, passage: Passage): string | null {
    const inSequence = new Set(shotsOf(film.outline, sequenceId).map((shot) => shot.id))
    for (const earlier of script.value.slice(0, script.value.findIndex((each) => each.id === passage.id)).reverse()) {
      const places = (boarded.value.get(earlier.id) ?? []).flatMap(({ takeId }) => film.outline.takes[takeId]?.shotId ?? []).filter((id) => inSequence.has(id))
      if (places.length > 0) return places.map((id) => film.filmStage.placeOf(id)!).sort((a, b) => b.index - a.index)[0]!.shot.id
    }
    return null
  }

  /** After boarding, the next passage that is not yet boarded is under the hand. */
  function nextFrom(passage: Passage): readonly string[] {
    const at = script.value.findIndex((each) => each.id === passage.id)
    const next = script.value.slice(at + 1).find((each) => canBeBoarded(each) && !boarded.value.has(each.id))
    return next === undefined ? [] : [next.id]
  }

  function asPanels(ids: readonly string[] = boards.passages, takeId: string | null = boards.current?.takeId ?? desk.takeId, afterPanelId: string | null = boards.current?.panelId ?? null) {
    const passages = passagesOf(ids)
    if (nothing(passages)) return
    if (takeId === null || film.takeOf(takeId) === null) return film.refuse('Choose the panel after which the new ones are to stand.')
    const before = new Set(boards.panelsOf(takeId).map((panel) => panel.id))
    const planned = plan(passages)
    if (!film.perform(planned.length === 1 ? 'board a panel' : `board ${planned.length} panels`, (f) => boardAsPanels(f, film.project!.id, takeId, afterPanelId, planned, newId))) return
    actions.choose(boards.panelsOf(takeId).filter((panel) => !before.has(panel.id)).map((panel) => ({ takeId, panelId: panel.id })))
    boards.passages = nextFrom(passages.at(-1)!)
  }

  function fill(ids: readonly string[] = boards.passages, ref: PanelRef | null = boards.current) {
    const passages = passagesOf(ids)
    if (nothing(passages)) return
    if (ref === null) return film.refuse('Choose the panel that is to have these words.')
    if (film.perform('fill panel from the script', (f) => fillPanel(f, film.project!.id, ref.takeId, ref.panelId, passages))) boards.passages = nextFrom(passages.at(-1)!)
  }

  function drop(ids: readonly string[], where: DropPlace) {
    if (where.kind === 'into') return fill(ids, where.ref)
    if (where.kind === 'end') return asPanels(ids, where.takeId, null)
    if (where.kind === 'sequence') return asShots(ids, { sequenceId: where.sequenceId, afterShotId: null })
    if (where.kind === 'shot') {
      const shot = film.outline.shots[where.shotId]
      if (shot === undefined) return
      const there = shotsOf(film.outline, shot.sequenceId)
      const before = there[there.findIndex((each) => each.id === shot.id) - 1]
      // Before a sequence's first shot nothing stands that it could come after.
      if (where.side === 'before' && before === undefined) {
        const known = new Set(there.map((each) => each.id))
        asShots(ids, { sequenceId: shot.sequenceId, afterShotId: shot.id })
        const made = shotsOf(film.outline, shot.sequenceId).filter((each) => !known.has(each.id)).map((each) => each.id)
        return actions.moveShotsTo(made, shot.sequenceId, shot.id)
      }
      return asShots(ids, { sequenceId: shot.sequenceId, afterShotId: where.side === 'after' ? shot.id : before!.id })
    }
    const list = boards.panelsOf(where.ref.takeId)
    const at = list.findIndex((panel) => panel.id === where.ref.panelId)
    if (where.side === 'after' || at > 0) return asPanels(ids, where.ref.takeId, where.side === 'after' ? where.ref.panelId : list[at - 1]!.id)
    asPanels(ids, where.ref.takeId, where.ref.panelId)
    actions.moveTo(boards.panels, where.ref.takeId, where.ref.panelId)
  }

  return { script, boarded, notYet, asShots, asPanels, fill, drop }
}
