/** A slanted bead; ringed where it is selected. */
export function drawBead(context: CanvasRenderingContext2D, x: number, y: number, colour: string, ring: string | null) {
  context.beginPath()
  context.ellipse(x, y, 6.5, 4.6, -0.42, 0, Math.PI * 2)
  context.fillStyle = colour
  context.fill()
  if (ring === null) return
  context.strokeStyle = ring
  context.lineWidth = 2
  context.stroke()
}
