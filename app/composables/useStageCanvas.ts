import { onBeforeUnmount, ref, watch, type Ref, type WatchSource } from 'vue'
import { useArt } from '~/composables/useArt'
import { usePlayback } from '~/composables/usePlayback'
import { useDeskStore } from '~/stores/desk'
import type { Compositor, Resampling } from '~/viewport/compositor'
import type { Composition } from '~/viewport/composition'
import { createStageView, type StageView } from '~/viewport/stageView'

const REST_MS = 160

/**
 * The canvases of a view that shows compositions, put into `host`. While anything moves the picture is drawn fast; when
 * it rests, once more exactly. `compose` gives null while there is nothing to show; `watched` is what it is made of.
 * While it plays, a frame that `finished` has is shown instead.
 */
export function useStageCanvas(host: Readonly<Ref<HTMLElement | null>>, compose: () => Composition | null, watched: WatchSource<unknown[]>, finished: () => ImageBitmap | null = () => null) {
  const desk = useDeskStore()
  const art = useArt()
  const { reportDraw, fromCache } = usePlayback()
  const problem = ref<string | null>(null)
  const canvases = new Map<Compositor['kind'], HTMLCanvasElement>()
  let finishedCanvas: HTMLCanvasElement | null = null
  let view: StageView | null = null
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

  /** True when a finished frame is shown. */
  function drawFinished(): boolean {
    const bitmap = desk.playing ? finished() : null
    if (finishedCanvas !== null) finishedCanvas.style.visibility = bitmap === null ? 'hidden' : 'visible'
    if (bitmap === null || host.value === null) return false
    if (finishedCanvas === null) {
      finishedCanvas = document.createElement('canvas')
      finishedCanvas.className = 'picture finished'
      host.value.append(finishedCanvas)
    }
    if (finishedCanvas.width !== bitmap.width || finishedCanvas.height !== bitmap.height) Object.assign(finishedCanvas, { width: bitmap.width, height: bitmap.height })
    finishedCanvas.getContext('2d', { alpha: false })!.drawImage(bitmap, 0, 0)
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
    const composition = compose()
    if (composition === null) return
    shown = composition
    view ??= createStageView(makeCanvas)
    const { canvas, drawn } = view.draw(composition, { frame: '#ffffff', surround: null }, resampling)
    for (const other of canvases.values()) other.style.visibility = other === canvas ? 'visible' : 'hidden'
    host.value.dataset.frame = String(desk.playhead)
    host.value.dataset.resampling = resampling
    problem.value = view.problem
    if (drawn) reportDraw(performance.now() - begun)
  }

  watch(watched, draw, { flush: 'post' })
  watch(() => [art.artVersion.value, desk.playing], draw, { flush: 'post' })
  watch(() => desk.takeId, art.beginShot)
  onBeforeUnmount(() => {
    clearTimeout(resting)
    view?.dispose()
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
