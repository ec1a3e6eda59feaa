import { placedPanels } from '@rubato/core/document'
import { edgeRange, retime, trimEnd, type PanelPlace } from '@rubato/core/edits'
import { secondsOfFrames } from '@rubato/core/time'
import type { ComputedRef, ShallowRef } from 'vue'
import { useBoardActions } from '~/composables/boards/useBoardActions'
import { usePlayback } from '~/composables/playback/usePlayback'
import { isSoundHit, useSoundGestures, type Trial } from '~/composables/sound/useSoundGestures'
import { useSoundPlayerStore } from '~/stores/soundPlayer'
import { signed, useBeadGestures } from '~/composables/strip/useBeadGestures'
import { useCutGestures } from '~/composables/strip/useCutGestures'
import { useSpanGestures } from '~/composables/strip/useSpanGestures'
import { useTiming } from '~/composables/strip/useTiming'
import { followDrag } from '~/gestures/drag'
import { useBoardsStore } from '~/stores/boards'
import { useDeskStore } from '~/stores/desk'
import type { Gesture } from '~/stores/editing'
import { useFilmStore } from '~/stores/film'
import { useSoundStore } from '~/stores/sound'
import { useTimingStore } from '~/stores/timing'
import { panelDropAt, shotDropAt, type PanelDrop, type ShotDrop } from '~/timeline/dropPlaces'
import { hitStrip, type StripHit } from '~/timeline/hitStrip'
import { snapPlaces, snapped } from '~/timeline/snap'
import { frameOfX, type StripScale } from '~/timeline/stripScale'
import type { StripScene } from '~/timeline/stripScene'

interface Wiring {
  readonly scale: ComputedRef<StripScale>
  readonly scene: ComputedRef<StripScene>
  readonly live: ShallowRef<StripScene['live']>
  readonly drop: ShallowRef<StripScene['drop']>
  readonly snapFrame: ShallowRef<number | null>
  readonly local: (event: { clientX: number; clientY: number }) => { readonly x: number; readonly y: number }
  /** Keeps the scale as it is while something is dragged: the film's length changes under it. */
  readonly holdScale: () => void
}

const howOf = (event: MouseEvent) => (event.shiftKey ? 'range' : event.ctrlKey || event.metaKey ? 'toggle' : 'only')

/** What the pointer does on the strip. */
export function useStripGestures({ scale, scene, live, drop, snapFrame, local, holdScale }: Wiring) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const boards = useBoardsStore()
  const timing = useTimingStore()
  const { stop } = usePlayback()
  const sound = useSoundStore()
  const player = useSoundPlayerStore()
  const { giverAfter, reachAfter, moveMarkTo } = useTiming()
  const actions = useBoardActions()
  const projectId = () => film.project!.id
  const frameAt = (event: { clientX: number; clientY: number }) => frameOfX(scale.value, local(event).x)
  const lengthText = (frames: number) => `${frames} f  ${secondsOfFrames(frames, film.project!.rate).toFixed(2)} s`

  function onDown(event: PointerEvent) {
    if (event.button !== 0) return
    const { x, y } = local(event)
    const hit = hitStrip(scene.value, scale.value, x, y)
    if (hit === null) return
    if (hit.kind !== 'mark') timing.selectedMarkId = null
    if (isSoundHit(hit)) {
      desk.chooseNoKeys()
      return soundGestures.onDown(event, hit)
    }
    if (hit.kind !== 'ruler' && hit.kind !== 'range-end') sound.chooseNothing()
    if (hit.kind === 'panel-end') return dragPanelEnd(event, hit)
    if (hit.kind === 'shot-end') return dragShotEnd(event, hit.shotId)
    if (hit.kind === 'bead') return dragBead(event, hit.shotId, hit.framingId)
    if (hit.kind === 'level-key') return dragLevelKeys(event, hit.shotId, hit.ids)
    if (hit.kind === 'cut') return chooseCut(hit.shotId, hit.fromFrame)
    if (hit.kind === 'cut-edge') return dragCut(event, hit.shotId, hit.fromFrame)
    if (hit.kind === 'dissolve-end') return dragDissolve(event, hit.shotId, hit.fromFrame, hit.end)
    if (hit.kind === 'span') return dragSpan(event, hit.shotId, hit.spanId, null)
    if (hit.kind === 'span-end') return dragSpan(event, hit.shotId, hit.spanId, hit.end)
    if (hit.kind === 'mark') return dragMark(event, hit.markId, hit.frame)
    if (hit.kind === 'range-end') return dragRangeEnd(event, hit.which)
    stop()
    if (hit.kind === 'panel') return dragPanels(event, hit)
    if (hit.kind === 'shot') return dragShots(event, hit.shotId)
    scrub(event)
  }

  function scrub(event: PointerEvent) {
    desk.chooseNoKeys()
    const to = (step: PointerEvent) => {
      desk.goTo(Math.floor(frameAt(step)))
      player.scrubTo(desk.playhead)
    }
    const before = desk.playhead
    player.open()
    to(event)
    followDrag(event, { move: ({ event: step }) => to(step), end: () => undefined, cancel: () => desk.goTo(before) }, 0)
  }

  /** A frame as it is dragged to: snapped, unless Ctrl or ⌘ suspends that. */
  function snapTo(frame: number, places: readonly number[], event: PointerEvent, whole = true): number {
    const wanted = timing.snap && !event.ctrlKey && !event.metaKey ? snapped(frame, places, scale.value.pxPerFrame, whole) : { frame: Math.round(frame), to: null }
    snapFrame.value = wanted.to
    return wanted.frame
  }

  const untold = () => {
    live.value = null
    snapFrame.value = null
  }

  /** Drags something that is tried from where it was, and kept when it is let go. */
  function dragTrial(event: PointerEvent, label: string, { begin, move, over, cancelled, click }: Trial) {
    let gesture: Gesture | null = null
    const close = (how: 'commit' | 'abandon') => {
      gesture?.[how]()
      untold()
      over?.()
    }
    followDrag(event, {
      begin: () => {
        begin?.()
        gesture = film.beginGesture(label)
      },
      move: (step) => move(gesture!, step),
      end: () => close('commit'),
      cancel: () => {
        close('abandon')
        cancelled?.()
      },
      click,
    })
  }

  /**
   * Drags an end in time. `lengthAt` tries what the end's place gives, and answers with a length to tell, or null where
   * it is refused.
   */
  function dragEnd(event: PointerEvent, label: string, edge: number, row: 'panels' | 'shots', tryAt: (by: number, gesture: Gesture) => { readonly frame: number; readonly text: string } | null, click: () => void) {
    stop()
    const { pxPerFrame } = scale.value
    const before = desk.playhead
    const still = snapPlaces(scene.value, { playhead: before, not: edge, upTo: edge })
    const all = snapPlaces(scene.value, { playhead: before, not: edge })
    holdScale()
    let tried = { to: NaN, mode: timing.modeNow, film: film.film }
    dragTrial(event, label, {
      move: (gesture, { dx, event: step }) => {
        timing.reversed = step.altKey
        const to = snapTo(edge + dx / pxPerFrame, timing.modeNow === 'push' ? still : all, step)
        // Most of a hand's moves are within a frame. What was loaded since may be what gives the time.
        if (tried.to === to && tried.mode === timing.modeNow && tried.film === film.film) return
        const told = tryAt(to - edge, gesture)
        if (told !== null) live.value = { ...told, row }
        tried = { to, mode: timing.modeNow, film: film.film }
      },
      over: () => {
        timing.reversed = false
        desk.goTo(before)
      },
      click,
    })
  }

  function dragPanelEnd(event: PointerEvent, { shotId, takeId, panelId }: Extract<StripHit, { kind: 'panel-end' }>) {
    const placed = film.filmStage.placeOf(shotId)!
    const { panel, startFrame, index } = placedPanels(film.takeOf(takeId)!).find((entry) => entry.panel.id === panelId)!
    const start = placed.startFrame + startFrame
    void reachAfter(takeId)
    const base = film.film
    const giverOf = (mode: 'push' | 'steal') => (mode === 'steal' ? giverAfter({ takeId, panelId }) : null)
    dragEnd(
      event,
      `length of panel ${index + 1}`,
      start + panel.lengthFrames,
      'panels',
      (by, gesture) => {
        const mode = timing.modeNow
        const giver = giverOf(mode)
        // As it was before the drag: its length now is what the trial left it.
        const giving = giver === null ? null : ((base.takes[giver.takeId] ?? film.takeOf(giver.takeId))?.panels[giver.panelId] ?? null)
        const range = edgeRange(panel, giving, mode)
        const clamped = Math.min(range.most, Math.max(range.least, by))
        // A fermata, or nobody to give, is worth saying; the end of what there is to give is seen.
        const wanted = range.least === range.most ? by : clamped
        const lengthFrames = panel.lengthFrames + wanted
        if (!gesture.update((f) => retime(f, projectId(), [{ lengths: [{ takeId, panelId, lengthFrames }], giver }], mode))) return null
        return { frame: start + lengthFrames, text: `${mode === 'steal' ? 'Steal' : 'Push'}  ${lengthText(lengthFrames)}${signed(wanted)}` }
      },
      () => {
        boards.choose({ takeId, panelId }, howOf(event))
        desk.goTo(start + panel.lengthFrames - 1)
      },
    )
  }

  function dragShotEnd(event: PointerEvent, shotId: string) {
    const placed = film.filmStage.placeOf(shotId)!
    const takeId = placed.shot.circledTakeId
    const body = film.takeOf(takeId)
    if (body === null) return film.refuse(`Shot ${placed.shot.label} is still being loaded. Try again in a moment.`)
    void reachAfter(takeId)
    const panels = placedPanels(body).map(({ panel }) => ({ takeId, panelId: panel.id, lengthFrames: panel.lengthFrames, lengthLocked: panel.lengthLocked }))
    const shortest = panels.reduce((sum, panel) => sum + (panel.lengthLocked ? panel.lengthFrames : 1), 0)
    dragEnd(
      event,
      `length of shot ${placed.shot.label}`,
      placed.startFrame + placed.lengthFrames,
      'shots',
      (by, gesture) => {
        const mode = timing.modeNow
        const giver = mode === 'steal' ? giverAfter({ takeId, panelId: panels.at(-1)!.panelId }) : null
        const wanted = Math.max(by, shortest - placed.lengthFrames)
        const trimmed = trimEnd(panels, wanted)
        if (!gesture.update((f) => (trimmed.ok ? retime(f, projectId(), [{ lengths: trimmed.lengths, giver }], mode) : trimmed))) return null
        return { frame: placed.startFrame + placed.lengthFrames + wanted, text: `${mode === 'steal' ? 'Steal' : 'Push'}  ${lengthText(placed.lengthFrames + wanted)}${signed(wanted)}` }
      },
      () => boards.chooseShot(shotId, howOf(event)),
    )
  }

  function dragPanels(event: PointerEvent, hit: Extract<StripHit, { kind: 'panel' }>) {
    const place: PanelPlace = { takeId: hit.takeId, panelId: hit.panelId }
    desk.chooseNoKeys()
    let to: PanelDrop | null = null
    followDrag(event, {
      begin: () => {
        if (!boards.isChosen(place.takeId, place.panelId)) boards.choose(place)
      },
      move: ({ event: step }) => {
        to = panelDropAt(scene.value, frameAt(step))
        drop.value = to === null ? null : { frame: to.frame, row: 'panels' }
        const count = boards.panels.length
        live.value = to === null ? null : { frame: frameAt(step), row: 'panels', text: count === 1 ? 'Move panel' : `Move ${count} panels` }
      },
      end: () => {
        drop.value = null
        live.value = null
        if (to !== null) actions.moveTo(boards.panels, to.takeId, to.beforeId)
      },
      cancel: () => {
        drop.value = null
        live.value = null
      },
      click: () => boards.choose(place, howOf(event)),
    })
  }

  function dragShots(event: PointerEvent, shotId: string) {
    desk.chooseNoKeys()
    let to: ShotDrop | null = null
    followDrag(event, {
      begin: () => {
        if (!boards.shots.includes(shotId)) boards.chooseShot(shotId)
      },
      move: ({ event: step }) => {
        to = shotDropAt(scene.value, frameAt(step))
        drop.value = to === null ? null : { frame: to.frame, row: 'shots' }
        live.value = to === null ? null : { frame: frameAt(step), row: 'shots', text: boards.shots.length === 1 ? 'Move shot' : `Move ${boards.shots.length} shots` }
      },
      end: () => {
        drop.value = null
        live.value = null
        if (to !== null) putShots(to)
      },
      cancel: () => {
        drop.value = null
        live.value = null
      },
      click: () => boards.chooseShot(shotId, howOf(event)),
    })
  }

  function putShots({ sequenceShotId, after }: ShotDrop) {
    const { shots } = film.filmStage
    const at = film.filmStage.placeOf(sequenceShotId)
    if (at === null) return
    const { sequenceId } = at.shot
    const next = shots[at.index + 1]?.shot
    const before = after ? (next?.sequenceId === sequenceId ? next.id : null) : sequenceShotId
    actions.moveShotsTo(boards.shots, sequenceId, before)
  }

  function dragMark(event: PointerEvent, markId: string, start: number) {
    timing.selectedMarkId = markId
    const places = snapPlaces(scene.value, { playhead: desk.playhead, not: start })
    dragTrial(event, 'move mark', {
      move: (gesture, { dx, event: step }) => {
        const to = Math.min(desk.lengthFrames - 1, Math.max(0, snapTo(start + dx / scale.value.pxPerFrame, places, step)))
        if (gesture.update((f) => moveMarkTo(f, markId, to))) live.value = { frame: to, row: 'ruler', text: `${timing.moment(to)}${signed(to - start)}` }
      },
      click: () => {
        stop()
        desk.goTo(start)
      },
    })
  }

  function dragRangeEnd(event: PointerEvent, which: 'in' | 'out') {
    const before = timing.range!
    const start = which === 'in' ? before.start : before.end
    const places = snapPlaces(scene.value, { playhead: desk.playhead, not: start })
    const set = (frame: number) => timing.setEnd(which, which === 'in' ? frame : frame - 1)
    followDrag(event, {
      move: ({ dx, event: step }) => {
        const to = snapTo(start + dx / scale.value.pxPerFrame, places, step)
        const kept = which === 'in' ? Math.min(Math.max(0, to), before.end - 1) : Math.min(Math.max(before.start + 1, to), desk.lengthFrames)
        set(kept)
        live.value = { frame: kept, row: 'ruler', text: `${which}  ${timing.moment(which === 'in' ? kept : kept - 1)}` }
      },
      end: untold,
      cancel: () => {
        set(start)
        untold()
      },
      click: () => desk.goTo(which === 'in' ? start : start - 1),
    })
  }

  const { dragBead, dragLevelKeys } = useBeadGestures({ scale, scene, live, snapFrame, dragTrial, snapTo })
  const { chooseCut, dragCut, dragDissolve } = useCutGestures({ scale, scene, live, dragTrial, snapTo })
  const { dragSpan } = useSpanGestures({ scale, scene, live, dragTrial, snapTo })
  const soundGestures = useSoundGestures({ scale, scene, live, snapFrame, local, dragTrial, snapTo })

  const hitAt = (event: { clientX: number; clientY: number }) => {
    const { x, y } = local(event)
    return hitStrip(scene.value, scale.value, x, y)
  }

  return { onDown, hitAt }
}
