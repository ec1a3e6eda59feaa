import { draggable, dropTargetForElements, monitorForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine'
import { onBeforeUnmount, onMounted, shallowRef, type Ref } from 'vue'
import type { DropPlace } from '~/boards/dropPlace'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import { useScriptBoarding } from '~/composables/boards/useScriptBoarding'
import { useBoardsStore, type PanelRef } from '~/stores/boards'
import { useFilmStore } from '~/stores/film'

type Dragged = { readonly kind: 'panels'; readonly panels: readonly PanelRef[] } | { readonly kind: 'shots'; readonly shots: readonly string[] } | { readonly kind: 'passages'; readonly passages: readonly string[] }

const place = shallowRef<DropPlace | null>(null)
const dragging = shallowRef<Dragged | null>(null)
/** A passage dropped on the middle of a panel fills it; near its sides it makes panels there. */
const SIDE_SHARE = 0.3

const placeKey = Symbol('place')
const draggedKey = Symbol('dragged')
type Data = Record<string | symbol, unknown>

/** Dragging panels, shots and passages over the boards. One monitor, set up by the page, does what is dropped. */
export function useBoardDrag() {
  const boards = useBoardsStore()
  const film = useFilmStore()

  function attach(element: Readonly<Ref<HTMLElement | null>>, make: (element: HTMLElement) => () => void) {
    let detach = () => {}
    onMounted(() => element.value !== null && (detach = make(element.value)))
    onBeforeUnmount(() => detach())
  }
  const source = (element: HTMLElement, what: () => Dragged, handle?: HTMLElement) =>
    draggable({ element, ...(handle === undefined ? {} : { dragHandle: handle }), canDrag: () => boards.editing === null && film.lookingAt === null, getInitialData: () => ({ [draggedKey]: what() }) })
  const target = (element: HTMLElement, takes: readonly Dragged['kind'][], where: (x: number, y: number, box: DOMRect, kind: Dragged['kind']) => DropPlace) =>
    dropTargetForElements({
      element,
      canDrop: ({ source: from }) => takes.includes((from.data as Data)[draggedKey] === undefined ? ('none' as never) : ((from.data as Data)[draggedKey] as Dragged).kind),
      getData: ({ input, source: from }) => ({ [placeKey]: where(input.clientX, input.clientY, element.getBoundingClientRect(), ((from.data as Data)[draggedKey] as Dragged).kind) }),
    })

  function panelCard(element: Readonly<Ref<HTMLElement | null>>, ref: () => PanelRef) {
    attach(element, (card) =>
      combine(
        source(card, () => ({ kind: 'panels', panels: boards.isChosen(ref().takeId, ref().panelId) ? boards.panels : [ref()] })),
        target(card, ['panels', 'passages'], (x, _, box, kind) => {
          const share = (x - box.left) / box.width
          if (kind === 'passages' && share > SIDE_SHARE && share < 1 - SIDE_SHARE) return { kind: 'into', ref: ref() }
          return { kind: 'beside', ref: ref(), side: share < 0.5 ? 'before' : 'after' }
        }),
      ),
    )
  }
  const shotEnd = (element: Readonly<Ref<HTMLElement | null>>, takeId: () => string) => attach(element, (tile) => target(tile, ['panels', 'passages'], () => ({ kind: 'end', takeId: takeId() })))
  const shotHead = (element: Readonly<Ref<HTMLElement | null>>, shotId: () => string) =>
    attach(element, (head) =>
      combine(
        source(head, () => ({ kind: 'shots', shots: boards.shots.includes(shotId()) ? boards.shots : [shotId()] })),
        target(head, ['shots', 'passages'], (_, y, box) => ({ kind: 'shot', shotId: shotId(), side: y < box.top + box.height / 2 ? 'before' : 'after' })),
      ),
    )
  const sequence = (element: Readonly<Ref<HTMLElement | null>>, sequenceId: () => string) => attach(element, (row) => target(row, ['shots', 'passages'], () => ({ kind: 'sequence', sequenceId: sequenceId() })))
  const passage = (element: Readonly<Ref<HTMLElement | null>>, id: () => string) =>
    attach(element, (row) => source(row, () => ({ kind: 'passages', passages: boards.passages.includes(id()) ? boards.passages : [id()] })))

  /** For the page, once: follows what is dragged and does what is let go. */
  function follow() {
    const actions = useBoardActions()
    const script = useScriptBoarding()
    let end = () => {}
    onMounted(() => {
      end = monitorForElements({
        canMonitor: ({ source: from }) => (from.data as Data)[draggedKey] !== undefined,
        onDragStart: ({ source: from }) => (dragging.value = (from.data as Data)[draggedKey] as Dragged),
        onDrag: ({ location }) => (place.value = (location.current.dropTargets[0]?.data as Data | undefined)?.[placeKey] as DropPlace | undefined ?? null),
        onDrop: ({ source: from, location }) => {
          const what = (from.data as Data)[draggedKey] as Dragged
          const where = (location.current.dropTargets[0]?.data as Data | undefined)?.[placeKey] as DropPlace | undefined
          place.value = null
          dragging.value = null
          if (where !== undefined) drop(what, where)
        },
      })
    })
    onBeforeUnmount(() => end())

    function drop(what: Dragged, where: DropPlace) {
      if (what.kind === 'shots') {
        if (where.kind === 'sequence') actions.moveShotsTo(what.shots, where.sequenceId, null)
        if (where.kind !== 'shot') return
        const shot = film.film.outline.shots[where.shotId]
        if (shot !== undefined) actions.moveShotsTo(what.shots, shot.sequenceId, where.side === 'before' ? shot.id : shotAfter(shot.id))
      } else if (what.kind === 'panels') {
        if (where.kind === 'end') actions.moveTo(what.panels, where.takeId, null)
        if (where.kind === 'beside') actions.moveTo(what.panels, where.ref.takeId, where.side === 'before' ? where.ref.panelId : panelAfter(where.ref))
      } else script.drop(what.passages, where)
    }
  }

  function panelAfter({ takeId, panelId }: PanelRef): string | null {
    const list = boards.panelsOf(takeId)
    return list[list.findIndex((panel) => panel.id === panelId) + 1]?.id ?? null
  }
  function shotAfter(shotId: string): string | null {
    const at = film.filmStage.placeOf(shotId)?.index ?? -1
    const next = film.filmStage.shots[at + 1]?.shot
    return next !== undefined && next.sequenceId === film.film.outline.shots[shotId]?.sequenceId ? next.id : null
  }

  return { place, dragging, panelCard, shotEnd, shotHead, sequence, passage, follow }
}
