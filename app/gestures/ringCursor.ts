/** Browsers show no larger cursors. */
const LARGEST_PX = 120

/**
 * A cursor that is as large as what would be drawn: the system moves it, so it costs the page nothing. Larger brushes
 * have a cross.
 */
export function ringCursor(sizePx: number): string {
  if (sizePx > LARGEST_PX) return 'crosshair'
  // Whole px, so that dragging a size makes few cursors.
  const size = Math.max(3, Math.round(sizePx))
  const side = size + 6
  const middle = side / 2
  const ring = (colour: string, radius: number) => `<circle cx="${middle}" cy="${middle}" r="${radius}" fill="none" stroke="${colour}"/>`
  const dot = size > 14 ? `<circle cx="${middle}" cy="${middle}" r="0.8" fill="#27241e"/>` : ''
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${side}" height="${side}">${ring('#fcfaf5', size / 2 + 1)}${ring('#27241e', size / 2)}${dot}</svg>`
  return `url("data:image/svg+xml,${encodeURIComponent(svg)}") ${Math.floor(middle)} ${Math.floor(middle)}, crosshair`
}
