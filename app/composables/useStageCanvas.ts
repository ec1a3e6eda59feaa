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
 */
export function useStageCanvas(host: Readonly<Ref<HTMLElement | null>>, compose: () => Composition | null, watched: WatchSource<unknown[]>) {
  const desk = useDeskStore()
  const art = useArt()
  const { reportDraw } = usePlayback()
  const problem = ref<string | null>(null)
  const canvases = new Map<Compositor['kind'], HTMLCanvasElement>()
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

  function draw() {
    clearTimeout(resting)
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
