import { mapShown, viewsOf } from '@rubato/core/stage'
import { useElementSize } from '@vueuse/core'
import { computed, watch, type Ref } from 'vue'
import { useSheet } from '~/composables/draw/useSheet'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useArt } from '~/composables/view/useArt'
import { useStageCanvas, type MixedView } from '~/composables/view/useStageCanvas'
import { useAirStore } from '~/stores/air'
import { useDeskStore } from '~/stores/desk'
import { useFilmStore } from '~/stores/film'
import { useFinishedFramesStore } from '~/stores/finishedFrames'
import { useTimingStore } from '~/stores/timing'
import type { ViewBox } from '~/viewport/composition'
import { frameBoxOf } from '~/viewport/mixPictures'

/** Around the frame, CSS px: what the camera does not see is seen there. */
const MARGIN_PX = 26

/**
 * The picture through the lens: the frame's place in `pane`, and what is drawn there into `host`. `playAt`: the part of
 * full resolution that playback is finished at while the artist leaves it to the machine.
 */
export function useLensPicture(pane: Readonly<Ref<HTMLElement | null>>, host: Readonly<Ref<HTMLElement | null>>, playAt: () => number) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const air = useAirStore()
  const art = useArt()
  const timing = useTimingStore()
  const cache = useFinishedFramesStore()
  const { sheet, moods } = useSheet()
  const { quality } = usePlayback()
  const { width, height } = useElementSize(pane)

  const aspect = computed(() => film.optics?.aspect ?? 16 / 9)
  /** The frame's rectangle in the pane, CSS px. */
  const frame = computed(() => {
    const w = Math.max(40, Math.min(width.value - MARGIN_PX * 2, (height.value - MARGIN_PX * 2) * aspect.value))
    const h = w / aspect.value
    return { left: Math.round((width.value - w) / 2), top: Math.round((height.value - h) / 2), width: Math.round(w), height: Math.round(h) }
  })

  function viewBox(part: number = quality.value): ViewBox {
    const ratio = Math.min(2, window.devicePixelRatio || 1) * part
    return {
      widthPx: Math.max(1, Math.round(width.value * ratio)),
      heightPx: Math.max(1, Math.round(height.value * ratio)),
      frameLeftPx: frame.value.left * ratio,
      frameTopPx: frame.value.top * ratio,
      frameWidthPx: frame.value.width * ratio,
    }
  }

  /** What is put together where the playhead is; with the pen in hand one camera's view alone is seen, the one that is drawn in. */
  const mix = computed(() => {
    const picture = film.filmStage.shownAt(desk.playhead, film.stageOf)
    // Looking through another camera than the film does, that one is seen alone.
    return picture?.kind === 'mix' && (desk.tool !== 'pen' || desk.playing) && !desk.isLookingAside && desk.operatedHere === null ? picture : null
  })
  /** The take that is seen beside the playhead's own. */
  const otherTake = computed(() => viewsOf(mix.value).find((view) => view.takeId !== desk.takeId)?.takeId ?? null)
  watch(
    otherTake,
    (takeId) => takeId !== null && void film.ensureTakeWithArt(takeId).catch((error: Error) => film.refuse(`The other shot of this transition could not be loaded. ${error.message}`)),
    { immediate: true },
  )
  /** The views of the mix at this frame; null while one is not loaded. */
  const mixFrames = computed(() => {
    const frames = viewsOf(mix.value).map((view) => {
      // What is only being looked at is seen in the mix too.
      if (view.takeId === desk.takeId && view.cameraId === desk.cameraAtWorkId && (desk.trialHere !== null || desk.triedHere !== null)) return desk.stageFrame
      return film.stageOf(view.takeId)?.through(view.frame, view.cameraId) ?? null
    })
    return frames.includes(null) ? null : new Map(viewsOf(mix.value).map((view, i) => [view, frames[i]!]))
  })
  function mixed(): MixedView | null {
    const frames = mixFrames.value
    if (mix.value === null || frames === null || width.value === 0) return null
    const box = viewBox()
    const shown = mapShown(mix.value, (view) => {
      const stage = frames.get(view)!
      const own = view.takeId === desk.takeId
      return { composition: own ? sheet(stage, box, false, false) : art.composeFrame(stage, box, true, (placed) => (desk.playing && timing.isMuted(view.takeId, placed.level.id) ? 0 : 1)) }
    })
    return shown.kind === 'mix' ? { shown, frame: frameBoxOf(box, aspect.value) } : null
  }

  const { problem, shown } = useStageCanvas(
    host,
    () => (desk.stageFrame === null || width.value === 0 ? null : sheet(desk.stageFrame, viewBox(), false, desk.tool === 'pen' && !desk.playing)),
    () => [desk.stageFrame, mixFrames.value, film.outline.transitions, film.film.drawings, width.value, height.value, quality.value, desk.tool, ...moods()],
    () => (desk.isLookingAside || desk.operatedHere !== null || air.distances ? null : cache.finished(desk.playhead)),
    mixed,
    () => ({ frame: air.shownRange === null || desk.tool === 'pen' ? '#ffffff' : '#000000', surround: null }),
  )
  watch(
    () => [frame.value, timing.wantedQuality],
    () => width.value > 0 && cache.setView(viewBox(timing.wantedQuality === 'auto' ? playAt() : timing.wantedQuality)),
    { immediate: true },
  )
  watch(() => desk.playhead, (frame) => desk.playing && cache.advance(frame))
  watch(
    () => [desk.stage, film.film.drawings, width.value, height.value],
    () => {
      if (desk.stage !== null && width.value > 0 && !film.gestureOpen && !desk.playing) art.prepare(desk.stage, viewBox())
    },
    { flush: 'post' },
  )

  /** CSS px in the pane. */
  const local = (event: { clientX: number; clientY: number }) => {
    const box = pane.value!.getBoundingClientRect()
    return { x: event.clientX - box.left, y: event.clientY - box.top }
  }
  /** CSS px in the pane to u, v in the frame. */
  function toFrame(event: { clientX: number; clientY: number }) {
    const box = pane.value!.getBoundingClientRect()
    const f = frame.value
    return { u: (event.clientX - box.left - f.left) / f.width - 0.5, v: -((event.clientY - box.top - f.top) / f.width - 0.5 / aspect.value) }
  }

  const toPane = (u: number, v: number) => ({
    x: frame.value.left + (u + 0.5) * frame.value.width,
    y: frame.value.top + (0.5 / aspect.value - v) * frame.value.width,
  })

  return { width, height, frame, viewBox, shown, problem, local, toFrame, toPane }
}
