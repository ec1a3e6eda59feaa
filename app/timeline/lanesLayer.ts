import { drawLanes } from './drawLanes'
import type { StripInk } from './stripInk'
import { STRIP_HEIGHT_PX } from './stripRows'
import type { StripScale } from './stripScale'
import type { StripScene } from './stripScene'

/**
 * The lanes, drawn on a canvas aside while nothing in them changes: hundreds of waves are not drawn again because the
 * playhead has come to another panel.
 */
export function createLanesLayer() {
  const canvas = document.createElement('canvas')
  let key: readonly unknown[] = []
  return (context: CanvasRenderingContext2D, scale: StripScale, scene: StripScene, ink: StripInk, ratio: number) => {
    const heightPx = scene.lanes.reduce((sum, lane) => sum + lane.height, 0)
    const [width, height] = [Math.round(scale.widthPx * ratio), Math.round(heightPx * ratio)]
    if (width === 0 || height === 0) return
    const now = [scene.lanes, scene.proposals, scale.pxPerFrame, scale.firstFrame, ink, width, height]
    if (key.length === 0 || now.some((each, i) => each !== key[i])) {
      key = now
      Object.assign(canvas, { width, height })
      const aside = canvas.getContext('2d')!
      aside.setTransform(ratio, 0, 0, ratio, 0, -STRIP_HEIGHT_PX * ratio)
      drawLanes(aside, scale, scene, ink)
    }
    context.drawImage(canvas, 0, STRIP_HEIGHT_PX, width / ratio, height / ratio)
  }
}
