import { viewsOf, type ShownMix } from '@rubato/core/stage'
import { onBeforeUnmount, ref, watch, type Ref, type WatchSource } from 'vue'
import { useArt } from '~/composables/view/useArt'
import { usePlayback } from '~/composables/playback/usePlayback'
import { useDeskStore } from '~/stores/desk'
import type { Background, Compositor, Resampling } from '~/viewport/compositor'
import type { Composition } from '~/viewport/composition'
import { createMixTable, mixShown, type FrameBox } from '~/viewport/mixPictures'
import { freeCanvas } from '~/viewport/paint'
import { createStageView, type StageView } from '~/viewport/stageView'

const REST_MS = 160
const PAPER: Background = { frame: '#ffffff', surround: null }

/** Several pictures put together, as a view shows them. */
export interface MixedView {
  readonly shown: ShownMix<{ readonly composition: Composition }>
  readonly frame: FrameBox
}

/**
 * The canvases of a view that shows compositions, put into `host`. While anything moves the picture is drawn fast; when
 * it rests, once more exactly. `compose` gives null while there is nothing to show; `watched` is what it is made of.
 * While it plays, a frame that `finished` has is shown instead.
 */
export function useStageCanvas(host: Readonly<Ref<HTMLElement | null>>, compose: () => Composition | null, watched: WatchSource<unknown[]>, finished: () => ImageBitmap | null = () => null, mixed: () => MixedView | null = () => null, background: () => Background = () => PAPER) {
  const desk = useDeskStore()
  const art = useArt()
  const { reportDraw, fromCache } = usePlayback()
  const problem = ref<string | null>(null)
  const canvases = new Map<Compositor['kind'], HTMLCanvasElement>()
  let finishedCanvas: HTMLCanvasElement | null = null
  let view: StageView | null = null
  /** Of the views that a mix is put together of, in their order. */
  const sides: StageView[] = []
  const table = createMixTable(() => document.createElement('canvas').getContext('2d')!)
  let shown: Composition | null = null
  let resting: ReturnType<typeof setTimeout> | undefined

  function makeCanvas(kind: Compositor['kind']) {
    const canvas = document.createElement('canvas')
    canvas.className = 'picture'
    canvas.dataset.backend = kind
    host.value!.append(canvas)
    canvases.set(kind, canvas)
    return canvas
  }

  /** The canvas of what comes finished or is put together, over the others. */
  function overCanvas(widthPx: number, heightPx: number): CanvasRenderingContext2D {
    if (finishedCanvas === null) {
      finishedCanvas = document.createElement('canvas')
      finishedCanvas.className = 'picture finished'
      host.value!.append(finishedCanvas)
    }
    if (finishedCanvas.width !== widthPx || finishedCanvas.height !== heightPx) Object.assign(finishedCanvas, { width: widthPx, height: heightPx })
    return finishedCanvas.getContext('2d', { alpha: false })!
  }

  /** True when a finished frame is shown. */
  function drawFinished(): boolean {
    const bitmap = desk.playing ? finished() : null
    if (finishedCanvas !== null) finishedCanvas.style.visibility = bitmap === null ? 'hidden' : 'visible'
    if (bitmap === null || host.value === null) return false
    overCanvas(bitmap.width, bitmap.height).drawImage(bitmap, 0, 0)
    host.value.dataset.frame = String(desk.playhead)
    host.value.dataset.resampling = 'finished'
    fromCache.value++
    return true
  }

  function draw() {
    clearTimeout(resting)
    if (drawFinished()) return
    drawWith('fast')
    if (!desk.playing) resting = setTimeout(() => drawWith('exact'), REST_MS)
  }

  function drawWith(resampling: Resampling) {
    if (host.value === null) return
    const begun = performance.now()
    const mix = mixed()
    if (mix !== null) return drawMix(mix, resampling, begun)
    const composition = compose()
    if (composition === null) return
    if (finishedCanvas !== null) finishedCanvas.style.visibility = 'hidden'
    shown = composition
    view ??= createStageView(makeCanvas)
    const { canvas, drawn } = view.draw(composition, background(), resampling)
    for (const other of canvases.values()) other.style.visibility = other === canvas ? 'visible' : 'hidden'
    host.value.dataset.frame = String(desk.playhead)
    host.value.dataset.resampling = resampling
    problem.value = view.problem
    if (drawn) reportDraw(performance.now() - begun)
  }

  /** Each view is drawn by itself, on canvases that nobody sees, and then they are put together. */
  function drawMix({ shown: mix, frame }: MixedView, resampling: Resampling, begun: number) {
    const views = viewsOf(mix)
    const { widthPx, heightPx } = views[0]!.composition.view
    const pictures = new Map(
      views.map((each, i) => {
        sides[i] ??= createStageView(() => document.createElement('canvas'))
        return [each.composition, sides[i].draw(each.composition, background(), resampling).canvas]
      }),
    )
    table.begin(widthPx, heightPx)
    mixShown(mix, (each) => pictures.get(each.composition)!, frame, overCanvas(widthPx, heightPx), table)
    for (const other of canvases.values()) other.style.visibility = 'hidden'
    finishedCanvas!.style.visibility = 'visible'
    host.value!.dataset.frame = String(desk.playhead)
    host.value!.dataset.resampling = resampling
    reportDraw(performance.now() - begun)
  }

  watch(watched, draw, { flush: 'post' })
  watch(() => [art.artVersion.value, desk.playing], draw, { flush: 'post' })
  watch(() => desk.takeId, art.beginShot)
  onBeforeUnmount(() => {
    clearTimeout(resting)
    view?.dispose()
    for (const side of sides) side.dispose()
    table.end()
    if (finishedCanvas !== null) freeCanvas(finishedCanvas)
    finishedCanvas?.remove()
  })

  return {
    draw,
    problem,
    /** What was drawn last. */
    shown: () => shown,
    /** The canvas that is seen. */
    canvas: () => [...canvases.values()].find((each) => each.style.visibility !== 'hidden') ?? null,
  }
}
