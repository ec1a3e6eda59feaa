/**
 * What is drawn on a canvas aside and only drawn again when something it is made of has changed: what moves with every
 * frame is drawn over it.
 */
export function createKeptLayer() {
  const canvas = document.createElement('canvas')
  let key: readonly unknown[] = []
  /** `of` is what the layer is made of; `draw` gets a clear canvas of that size, in CSS px. It is put at 0, `top`. */
  return (context: CanvasRenderingContext2D, size: { readonly width: number; readonly height: number; readonly ratio: number; readonly top?: number }, of: readonly unknown[], draw: (aside: CanvasRenderingContext2D) => void) => {
    const { ratio, top = 0 } = size
    const [width, height] = [Math.round(size.width * ratio), Math.round(size.height * ratio)]
    if (width === 0 || height === 0) return
    const now = [width, height, ...of]
    if (now.length !== key.length || now.some((each, i) => each !== key[i])) {
      key = now
      Object.assign(canvas, { width, height })
      const aside = canvas.getContext('2d')!
      aside.setTransform(ratio, 0, 0, ratio, 0, -top * ratio)
      draw(aside)
    }
    context.drawImage(canvas, 0, top, width / ratio, height / ratio)
  }
}
