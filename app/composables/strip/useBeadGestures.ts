import { cameraKeys, frameOfAnchor, keyIn } from '@rubato/core/document'
import { moveKey, retimeAcross, retimeKeys } from '@rubato/core/edits'
import type { ComputedRef, ShallowRef } from 'vue'
import { usePlayback } from '~/composables/playback/usePlayback'
import type { Trial } from '~/composables/sound/useSoundGestures'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { snapPlaces } from '~/timeline/snap'
import type { StripScale } from '~/timeline/stripScale'
import type { StripScene } from '~/timeline/stripScene'

/** What the strip lends to those who drag something on it. */
export interface StripLent {
  readonly scale: ComputedRef<StripScale>
  readonly scene: ComputedRef<StripScene>
  readonly live: ShallowRef<StripScene['live']>
  readonly dragTrial: (event: PointerEvent, label: string, trial: Trial) => void
  readonly snapTo: (frame: number, places: readonly number[], event: PointerEvent) => number
}

interface Lent extends StripLent {
  readonly snapFrame: ShallowRef<number | null>
}

export const signed = (frames: number) => (frames === 0 ? '' : `  ${frames > 0 ? '+' : '−'}${Math.abs(frames)}`)

/** Beads are dragged in time: one between its neighbours, chosen ones together, and with Alt scaled about the playhead. */
export function useBeadGestures({ scale, scene, live, snapFrame, dragTrial, snapTo }: Lent) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { stop } = usePlayback()

  function dragBead(event: PointerEvent, shotId: string, framingId: string) {
    stop()
    const placed = film.filmStage.placeOf(shotId)!
    const takeId = placed.shot.circledTakeId
    const stage = film.stageOf(takeId)!
    const cameraId = stage.take.framings[framingId]!.cameraId
    const index = stage.framings(cameraId).findIndex((entry) => entry.framing.id === framingId)
    const start = stage.framings(cameraId)[index]!.frame
    const places = snapPlaces(scene.value, { playhead: desk.playhead, not: placed.startFrame + start })
    const select = () => {
      desk.goTo(placed.startFrame + start)
      desk.selectedFramingIds = event.shiftKey || event.ctrlKey ? toggled(framingId) : [framingId]
    }
    const chosen = desk.selectedFramingIds
    if (placed.shot.id === desk.shotId && (event.altKey || (chosen.length > 1 && chosen.includes(framingId)))) {
      return dragBeads(event, { takeId, cameraId, ids: chosen.includes(framingId) ? chosen : [framingId], startFrame: placed.startFrame, start, framingId }, select)
    }
    dragTrial(event, `time of framing ${index + 1}`, {
      begin: select,
      move: (gesture, { dx, event: step }) => {
        const wanted = snapTo(placed.startFrame + start + dx / scale.value.pxPerFrame, places, step) - placed.startFrame
        if (!gesture.update((f) => moveKey(f.takes[takeId]!, takeId, framingId, wanted))) return
        const now = film.stageOf(takeId)!.framings(cameraId)[index]!.frame
        if (now !== wanted) snapFrame.value = null
        live.value = { frame: placed.startFrame + now, row: 'camera', text: `frame ${now}${signed(now - start)}` }
        desk.playhead = placed.startFrame + now
      },
      cancelled: () => desk.goTo(placed.startFrame + start),
      click: select,
    })
  }

  /** Keys of a level go together, those of one frame as one; with Alt their times are scaled about the playhead. */
  function dragLevelKeys(event: PointerEvent, shotId: string, under: readonly string[]) {
    stop()
    const placed = film.filmStage.placeOf(shotId)!
    const takeId = placed.shot.circledTakeId
    const frameOf = () => {
      const [take, found] = [film.takeOf(takeId)!, keyIn(film.takeOf(takeId)!, under[0]!)!]
      return frameOfAnchor(take, found.record)
    }
    const start = frameOf()
    const isChosen = desk.selectedKeyIds.some((id) => under.includes(id))
    const ids = isChosen ? desk.selectedKeyIds : under
    const aboutFrame = desk.shotFrame
    const scales = event.altKey && start !== aboutFrame
    const places = snapPlaces(scene.value, { playhead: desk.playhead, not: placed.startFrame + start })
    const choose = () => {
      const many = event.shiftKey || event.ctrlKey || event.metaKey
      desk.selectedFramingIds = []
      desk.selectedKeyIds = !many ? under : isChosen ? desk.selectedKeyIds.filter((id) => !under.includes(id)) : [...desk.selectedKeyIds, ...under]
      if (!many) desk.goTo(placed.startFrame + start)
    }
    dragTrial(event, scales ? 'scale keys in time' : 'time of keys', {
      begin: () => !isChosen && choose(),
      move: (gesture, { dx, event: step }) => {
        const wanted = scales ? Math.round(start + dx / scale.value.pxPerFrame) : snapTo(placed.startFrame + start + dx / scale.value.pxPerFrame, places, step) - placed.startFrame
        const factor = (wanted - aboutFrame) / (start - aboutFrame)
        if (!gesture.update((f) => retimeAcross(f.takes[takeId]!, takeId, ids, scales ? { kind: 'scale', aboutFrame, factor } : { kind: 'shift', byFrames: wanted - start }))) return
        const now = frameOf()
        if (now !== wanted) snapFrame.value = null
        live.value = { frame: placed.startFrame + now, row: 'level', text: scales ? `${Math.round(factor * 100)} % about frame ${aboutFrame}` : `frame ${now}${signed(now - start)}` }
      },
      click: choose,
    })
  }

  /** Chosen beads go together; with Alt their times are scaled about the playhead. */
  function dragBeads(event: PointerEvent, beads: { readonly takeId: string; readonly cameraId: string; readonly ids: readonly string[]; readonly startFrame: number; readonly start: number; readonly framingId: string }, select: () => void) {
    const { takeId, cameraId, ids, startFrame, start, framingId } = beads
    const aboutFrame = desk.shotFrame
    const scales = event.altKey && start !== aboutFrame
    const places = snapPlaces(scene.value, { playhead: desk.playhead, not: startFrame + start })
    dragTrial(event, scales ? 'scale framings in time' : 'time of framings', {
      begin: () => undefined,
      move: (gesture, { dx, event: step }) => {
        const wanted = scales ? Math.round(start + dx / scale.value.pxPerFrame) : snapTo(startFrame + start + dx / scale.value.pxPerFrame, places, step) - startFrame
        const factor = (wanted - aboutFrame) / (start - aboutFrame)
        if (!gesture.update((f) => retimeKeys(f.takes[takeId]!, takeId, cameraKeys(cameraId), ids, scales ? { kind: 'scale', aboutFrame, factor } : { kind: 'shift', byFrames: wanted - start }))) return
        const now = film.stageOf(takeId)!.framings(cameraId).find(({ framing }) => framing.id === framingId)!.frame
        live.value = { frame: startFrame + now, row: 'camera', text: scales ? `${Math.round(factor * 100)} % about frame ${aboutFrame}` : `frame ${now}${signed(now - start)}` }
      },
      click: select,
    })
  }

  function toggled(id: string): readonly string[] {
    return desk.selectedFramingIds.includes(id) ? desk.selectedFramingIds.filter((other) => other !== id) : [...desk.selectedFramingIds, id]
  }

  return { dragBead, dragLevelKeys }
}
