import { liveSpans } from '@rubato/core/document'
import { dissolveCut, moveCut } from '@rubato/core/edits'
import { usePlayback } from '~/composables/playback/usePlayback'
import { signed, type StripLent } from '~/composables/strip/useBeadGestures'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { snapPlaces } from '~/timeline/snap'

/** Camera cuts are dragged in time, and their dissolves by either end. */
export function useCutGestures({ scale, scene, live, dragTrial, snapTo }: StripLent) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { stop } = usePlayback()
  const newId = () => crypto.randomUUID()

  function choose(shotId: string, fromFrame: number) {
    const shot = film.filmStage.placeOf(shotId)!
    // A cut is looked at where it is; of what is live before the playhead already, it stays.
    if (shotId !== desk.shotId || desk.stage?.live.spans.findLast(({ from }) => from <= desk.shotFrame)?.from !== fromFrame) desk.goTo(shot.startFrame + fromFrame)
    desk.selectedCutFrame = fromFrame
  }

  function dragCut(event: PointerEvent, shotId: string, fromFrame: number) {
    stop()
    const shot = film.filmStage.placeOf(shotId)!
    const takeId = shot.shot.circledTakeId
    const places = snapPlaces(scene.value, { playhead: desk.playhead, not: shot.startFrame + fromFrame })
    // It stays between its neighbours, so it is always the same one in their order.
    const index = liveSpans(film.takeOf(takeId)!).findIndex(({ from }) => from === fromFrame)
    let at = fromFrame
    dragTrial(event, 'camera cut', {
      begin: () => choose(shotId, fromFrame),
      move: (gesture, { dx, event: step }) => {
        const to = snapTo(shot.startFrame + fromFrame + dx / scale.value.pxPerFrame, places, step) - shot.startFrame
        if (!gesture.update((f) => moveCut(f.takes[takeId]!, takeId, fromFrame, to, newId))) return
        at = liveSpans(film.takeOf(takeId)!)[index]?.from ?? fromFrame
        live.value = { frame: shot.startFrame + at, row: 'cuts', text: `frame ${at}${signed(at - fromFrame)}` }
      },
      over: () => (desk.selectedCutFrame = at),
      cancelled: () => (desk.selectedCutFrame = fromFrame),
      click: () => choose(shotId, fromFrame),
    })
  }

  /** Either end alike: half of it lies on each side of the cut. */
  function dragDissolve(event: PointerEvent, shotId: string, fromFrame: number, end: 'from' | 'to') {
    stop()
    const shot = film.filmStage.placeOf(shotId)!
    const takeId = shot.shot.circledTakeId
    const start = liveSpans(film.takeOf(takeId)!).find(({ from }) => from === fromFrame)!.dissolveFrames
    dragTrial(event, 'camera dissolve', {
      begin: () => choose(shotId, fromFrame),
      move: (gesture, { dx }) => {
        const frames = Math.max(0, Math.round(start + ((end === 'to' ? 2 : -2) * dx) / scale.value.pxPerFrame))
        if (gesture.update((f) => dissolveCut(f.takes[takeId]!, takeId, fromFrame, frames, newId))) live.value = { frame: shot.startFrame + fromFrame, row: 'cuts', text: frames === 0 ? 'cut' : `dissolve  ${frames} f${signed(frames - start)}` }
      },
      click: () => choose(shotId, fromFrame),
    })
  }

  return { chooseCut: choose, dragCut, dragDissolve }
}
