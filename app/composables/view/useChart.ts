import { useElementSize } from '@vueuse/core'
import { onBeforeUnmount, ref, watch, type Ref, type WatchSource } from 'vue'
import { loadPlotly, type Plotly } from '~/clients/plotly'

/** What a chart shows, for the room that it has. `colour` gives one of the page's own, by its name. */
export type ChartOf = (room: { readonly width: number; readonly height: number; readonly colour: (name: string) => string }) => { readonly traces: readonly object[]; readonly layout: object }

/** A chart in an element: drawn when that has room, and anew when one of `on` changes. */
export function useChart(host: Readonly<Ref<HTMLElement | null>>, on: readonly WatchSource[], chartOf: ChartOf) {
  const { width, height } = useElementSize(host)
  const trouble = ref<string | null>(null)
  let plotly: Plotly | null = null
  let isDrawn = false

  async function draw() {
    if (host.value === null || width.value < 40) return
    try {
      plotly ??= await loadPlotly()
    } catch (error) {
      trouble.value = (error as Error).message
      return
    }
    // It may be gone meanwhile.
    if (host.value === null) return
    trouble.value = null
    const style = getComputedStyle(document.documentElement)
    const { traces, layout } = chartOf({ width: width.value, height: height.value, colour: (name) => style.getPropertyValue(name).trim() })
    await plotly.react(host.value, traces, layout, { displayModeBar: false, responsive: false })
    isDrawn = true
  }
  watch([...on, width, height], () => void draw(), { flush: 'post' })
  onBeforeUnmount(() => host.value !== null && plotly?.purge(host.value))
  /** Changes only a part of it, once it is drawn. */
  const change = (changes: object) => void (plotly !== null && host.value !== null && isDrawn && plotly.relayout(host.value, changes))
  return { trouble, change }
}
