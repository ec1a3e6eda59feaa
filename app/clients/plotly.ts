import url from 'plotly.js-basic-dist-min/plotly-basic.min.js?url'

/** What is used of the charts' library. */
export interface Plotly {
  react(host: HTMLElement, traces: readonly object[], layout: object, config?: object): Promise<unknown>
  relayout(host: HTMLElement, changes: object): Promise<unknown>
  purge(host: HTMLElement): void
}
let loading: Promise<Plotly> | null = null

/** Brought in when the first chart is shown: it is large. Fails where it can't be loaded, and is tried again the next time. */
export function loadPlotly(): Promise<Plotly> {
  loading ??= new Promise<Plotly>((done, failed) => {
    const script = document.createElement('script')
    script.src = url
    script.onload = () => done((window as unknown as { readonly Plotly: Plotly }).Plotly)
    script.onerror = () => {
      loading = null
      script.remove()
      failed(new Error('The charts could not be loaded. The connection may be lost; show them again to try once more.'))
    }
    document.head.append(script)
  })
  return loading
}
