import type { Transition } from '@rubato/core/document'

type Context = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D
type Picture = CanvasImageSource

/** The picture's frame within what is drawn, px: a wipe's edge crosses just that. */
export interface FrameBox {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

/** How much of the colour lies over the shot that is seen, and which shot that is. */
export function colourOver({ at }: Pick<Transition, 'at'>, share: number): { readonly of: 'before' | 'after'; readonly strength: number } {
  if (at === 'start') return { of: 'after', strength: 1 - share }
  if (at === 'end') return { of: 'before', strength: share }
  return share < 0.5 ? { of: 'before', strength: 2 * share } : { of: 'after', strength: 2 * (1 - share) }
}

/**
 * Where a wipe's soft edge begins and ends, px along its direction from the frame's middle: all before `from` is the shot
 * that comes, all after `to` the one that goes. At share 0 and 1 the edge, with all of its softness, is out of the frame.
 */
export function wipeEdge({ angleDegrees, softness }: Pick<Transition, 'angleDegrees' | 'softness'>, share: number, frame: Pick<FrameBox, 'width' | 'height'>): { readonly dx: number; readonly dy: number; readonly from: number; readonly to: number } {
  const angle = (angleDegrees * Math.PI) / 180
  // Up is up on the screen, where y grows downwards.
  const [dx, dy] = [Math.cos(angle), -Math.sin(angle)]
  const half = (Math.abs(dx) * frame.width + Math.abs(dy) * frame.height) / 2
  // A hard edge is a pixel wide, so that it has no steps.
  const soft = Math.max(1, 2 * half * softness)
  const middle = -half - soft / 2 + share * (2 * half + soft)
  return { dx, dy, from: middle - soft / 2, to: middle + soft / 2 }
}

/** Draws what a transition shows of two finished pictures, each as large as the context's canvas. `scratch` is one of that size. */
export function mixPictures(context: Context, before: Picture | null, after: Picture | null, transition: Pick<Transition, 'at' | 'kind' | 'angleDegrees' | 'softness' | 'colour'>, share: number, frame: FrameBox, scratch: () => Context): void {
  const { width, height } = context.canvas
  const fill = (picture: Picture | null, strength: number) => {
    if (picture === null || strength <= 0) return
    context.globalAlpha = strength
    context.drawImage(picture, 0, 0, width, height)
    context.globalAlpha = 1
  }
  context.globalCompositeOperation = 'source-over'
  context.clearRect(0, 0, width, height)
  if (transition.kind === 'colour' || before === null || after === null) {
    const { of, strength } = colourOver(transition, share)
    fill(of === 'before' ? before : after, 1)
    context.globalAlpha = strength
    context.fillStyle = transition.colour
    context.fillRect(0, 0, width, height)
    context.globalAlpha = 1
    return
  }
  fill(before, 1)
  if (transition.kind === 'dissolve') return fill(after, share)
  const { dx, dy, from, to } = wipeEdge(transition, share, frame)
  const [x, y] = [frame.left + frame.width / 2, frame.top + frame.height / 2]
  const other = scratch()
  other.globalCompositeOperation = 'copy'
  const mask = other.createLinearGradient(x + dx * from, y + dy * from, x + dx * to, y + dy * to)
  mask.addColorStop(0, 'rgb(0 0 0 / 1)')
  mask.addColorStop(1, 'rgb(0 0 0 / 0)')
  other.fillStyle = mask
  other.fillRect(0, 0, width, height)
  other.globalCompositeOperation = 'source-in'
  other.drawImage(after, 0, 0, width, height)
  other.globalCompositeOperation = 'source-over'
  context.drawImage(other.canvas, 0, 0)
}
