import { placedPanels, type TakeBody } from '@rubato/core/document'
import { ref } from 'vue'
import { inIdle } from '~/composables/inIdle'
import { useArt } from '~/composables/useArt'
import { useFilmStore } from '~/stores/film'
import { samePicture, wholeFrame, type Composition } from '~/viewport/composition'
import { createStageView, type StageView } from '~/viewport/stageView'

interface Thumb {
  readonly canvas: HTMLCanvasElement
  take: TakeBody | null
  drawings: object | null
  signature: Composition['signature'] | null
  complete: boolean
  asked: boolean
}

const HEIGHT_PX = 110
/** Drawn at about the lens view's size, so that the same rasters serve both, then shrunk. */
const DRAWN_WIDTH_PX = 690
const KEPT = 250
const thumbs = new Map<string, Thumb>()
/** Raised when a thumbnail was drawn anew. */
const thumbVersion = ref(0)
let view: StageView | null = null

/** Small pictures of panels' first frames, drawn in idle time and again only when their picture changes. */
export function usePanelThumbs() {
  const film = useFilmStore()
  const { composeFrame, library } = useArt()

  /** The picture as it is now, possibly of a moment ago; null before the first. */
  function thumbOf(takeId: string, panelId: string): HTMLCanvasElement | null {
    const key = `${film.projectId}/${takeId}/${panelId}`
    let thumb = thumbs.get(key)
    if (thumb === undefined) {
      thumb = { canvas: document.createElement('canvas'), take: null, drawings: null, signature: null, complete: false, asked: false }
      thumbs.set(key, thumb)
      if (thumbs.size > KEPT) thumbs.delete(thumbs.keys().next().value!)
    }
    // While something is dragged, its thumbnails wait until it is let go.
    const stale = thumb.take !== film.takeOf(takeId) || !thumb.complete || thumb.drawings !== film.film.drawings
    if (stale && !thumb.asked && !film.gestureOpen) {
      thumb.asked = true
      inIdle(() => redraw(thumb, takeId, panelId))
    }
    return thumb.signature === null ? null : thumb.canvas
  }

  function redraw(thumb: Thumb, takeId: string, panelId: string) {
    thumb.asked = false
    const stage = film.stageOf(takeId)
    const body = film.takeOf(takeId)
    if (stage === null || body === null || film.optics === null) return
    const panel = placedPanels(body).find((entry) => entry.panel.id === panelId)
    if (panel === undefined) return
    thumb.take = body
    thumb.drawings = film.film.drawings
    const width = Math.round(HEIGHT_PX * film.optics.aspect)
    const composition = composeFrame(stage.at(panel.startFrame), wholeFrame(DRAWN_WIDTH_PX, Math.round(DRAWN_WIDTH_PX / film.optics.aspect)), false)
    thumb.complete = composition.missing.length === 0
    // Rasters that are painted in slices: it is drawn again when there is more of them.
    if (library().unfinished) {
      thumb.asked = true
      inIdle(() => redraw(thumb, takeId, panelId), 'late')
    }
    if (thumb.signature !== null && samePicture(thumb.signature, composition.signature)) return
    view ??= createStageView(() => document.createElement('canvas'))
    const { canvas } = view.draw(composition, { frame: '#ffffff', surround: null }, 'fast')
    thumb.canvas.width = width
    thumb.canvas.height = HEIGHT_PX
    const context = thumb.canvas.getContext('2d')!
    context.imageSmoothingQuality = 'high'
    context.drawImage(canvas, 0, 0, width, HEIGHT_PX)
    thumb.signature = composition.signature
    thumbVersion.value++
  }

  return { thumbOf, thumbVersion }
}
