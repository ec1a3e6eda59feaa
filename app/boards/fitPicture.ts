export type Fit = 'frame' | 'fill' | 'pixels'

/** Frame widths a canvas pixel: so that the whole canvas is in the frame, fills it, or is as large as the output's pixels. */
export function fwPerPx(fit: Fit, canvas: { readonly widthPx: number; readonly heightPx: number }, output: { readonly widthPx: number; readonly heightPx: number }): number {
  if (fit === 'pixels') return 1 / output.widthPx
  const across = 1 / canvas.widthPx
  const up = output.heightPx / output.widthPx / canvas.heightPx
  return fit === 'frame' ? Math.min(across, up) : Math.max(across, up)
}

/** The place, fw, of a layer that lies at (x, y) px of a canvas whose middle is the frame's. */
export function placeOf(layer: { readonly x: number; readonly y: number; readonly widthPx: number; readonly heightPx: number }, canvas: { readonly widthPx: number; readonly heightPx: number }, scale: number) {
  return {
    x: (layer.x + layer.widthPx / 2 - canvas.widthPx / 2) * scale,
    y: -(layer.y + layer.heightPx / 2 - canvas.heightPx / 2) * scale,
    widthFw: layer.widthPx * scale,
  }
}
