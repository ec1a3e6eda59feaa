import { placedSpans } from '@rubato/core/document'
import { placeSpan } from '@rubato/core/edits'
import { usePlayback } from '~/composables/playback/usePlayback'
import { signed, type StripLent } from '~/composables/strip/useBeadGestures'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { spanName } from '~/text/cameraWords'
import { snapPlaces } from '~/timeline/snap'

/** Spans of the camera are dragged along, and by their ends. */
export function useSpanGestures({ scale, scene, live, dragTrial, snapTo }: StripLent) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const { stop } = usePlayback()

  function dragSpan(event: PointerEvent, shotId: string, spanId: string, end: 'first' | 'last' | null) {
    stop()
    const shot = film.filmStage.placeOf(shotId)!
    const takeId = shot.shot.circledTakeId
    const take = film.takeOf(takeId)!
    const placed = placedSpans(take).find(({ span }) => span.id === spanId)!
    const { first, last, open } = placed
    const [shotEnd, length] = [shot.lengthFrames - 1, last - first]
    const edge = shot.startFrame + (end === 'last' ? last + 1 : first)
    const places = snapPlaces(scene.value, { playhead: desk.playhead, not: edge })
    const select = () => {
      if (shotId !== desk.shotId) desk.goTo(shot.startFrame + first)
      desk.selectedSpanId = spanId
    }
    dragTrial(event, `frames of ${spanName(take, placed.span)}`, {
      begin: select,
      move: (gesture, { dx, event: step }) => {
        const to = snapTo(edge + dx / scale.value.pxPerFrame, places, step) - shot.startFrame
        // Dragged onto the shot's end it ends with the shot, however long that gets.
        const next =
          end === 'last'
            ? { first, last: to - 1 >= shotEnd ? null : Math.max(first, to - 1) }
            : end === 'first'
              ? { first: Math.min(last, Math.max(0, to)), last: open ? null : last }
              : { first: Math.min(shotEnd - (open ? 0 : length), Math.max(0, to)), last: open ? null : Math.min(shotEnd - length, Math.max(0, to)) + length }
        if (!gesture.update((f) => placeSpan(f.takes[takeId]!, takeId, spanId, next.first, next.last))) return
        const told = end === 'last' ? (next.last === null ? 'to the shot’s end' : `to ${next.last}${signed(next.last - last)}`) : `from ${next.first}${signed(next.first - first)}`
        live.value = { frame: shot.startFrame + (end === 'last' ? (next.last ?? shotEnd) : next.first), row: 'work', text: told }
      },
      click: select,
    })
  }

  return { dragSpan }
}
