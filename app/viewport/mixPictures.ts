import type { MixLook, Shown, ShownMix } from '@rubato/core/stage'
import { freeCanvas } from './paint'
import type { ViewBox } from './viewBox'

type Context = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D
type Picture = CanvasImageSource

/** The picture's frame within what is drawn, px: a wipe's edge crosses just that. */
export interface FrameBox {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

export const frameBoxOf = (view: ViewBox, aspect: number): FrameBox => ({ left: view.frameLeftPx, top: view.frameTopPx, width: view.frameWidthPx, height: view.frameWidthPx / aspect })

/** How much of the colour lies over the shot that is seen, and which shot that is. */
export function colourOver({ at }: Pick<MixLook, 'at'>, share: number): { readonly of: 'before' | 'after'; readonly strength: number } {
  if (at === 'start') return { of: 'after', strength: 1 - share }
  if (at === 'end') return { of: 'before', strength: share }
  return share < 0.5 ? { of: 'before', strength: 2 * share } : { of: 'after', strength: 2 * (1 - share) }
}

/**
 * Where a wipe's soft edge begins and ends, px along its direction from the frame's middle: all before `from` is the shot
 * that comes, all after `to` the one that goes. At share 0 and 1 the edge, with all of its softness, is out of the frame.
 */
export function wipeEdge({ angleDegrees, softness }: Pick<MixLook, 'angleDegrees' | 'softness'>, share: number, frame: Pick<FrameBox, 'width' | 'height'>): { readonly dx: number; readonly dy: number; readonly from: number; readonly to: number } {
  const angle = (angleDegrees * Math.PI) / 180
  // Up is up on the screen, where y grows downwards.
  const [dx, dy] = [Math.cos(angle), -Math.sin(angle)]
  const half = (Math.abs(dx) * frame.width + Math.abs(dy) * frame.height) / 2
  // A hard edge is a pixel wide, so that it has no steps.
  const soft = Math.max(1, 2 * half * softness)
  const middle = -half - soft / 2 + share * (2 * half + soft)
  return { dx, dy, from: middle - soft / 2, to: middle + soft / 2 }
}

/** Draws what a mix shows of two finished pictures, each as large as the context's canvas. `scratch` gives one of that size. */
function mixPictures(context: Context, before: Picture | null, after: Picture | null, look: MixLook, share: number, frame: FrameBox, scratch: () => Context): void {
  const { width, height } = context.canvas
  const fill = (picture: Picture | null, strength: number) => {
    if (picture === null || strength <= 0) return
    context.globalAlpha = strength
    context.drawImage(picture, 0, 0, width, height)
    context.globalAlpha = 1
  }
  context.globalCompositeOperation = 'source-over'
  context.clearRect(0, 0, width, height)
  if (look.kind === 'colour' || before === null || after === null) {
    const { of, strength } = colourOver(look, share)
    fill(of === 'before' ? before : after, 1)
    context.globalAlpha = strength
    context.fillStyle = look.colour
    context.fillRect(0, 0, width, height)
    context.globalAlpha = 1
    return
  }
  fill(before, 1)
  if (look.kind === 'dissolve') return fill(after, share)
  const { dx, dy, from, to } = wipeEdge(look, share, frame)
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

/** Canvases of one size, used again for each mix. */
export interface MixTable {
  /** Of so many px; all that were given before are free again. */
  begin(widthPx: number, heightPx: number): void
  next(): Context
  /** Gives its canvases' memory back. */
  end(): void
}

export function createMixTable(make: () => Context): MixTable {
  const contexts: Context[] = []
  let used = 0
  let size = { width: 1, height: 1 }
  return {
    begin(width, height) {
      used = 0
      size = { width, height }
    },
    next() {
      const context = (contexts[used++] ??= make())
      if (context.canvas.width !== size.width || context.canvas.height !== size.height) Object.assign(context.canvas, size)
      return context
    },
    end() {
      for (const { canvas } of contexts.splice(0)) freeCanvas(canvas)
    },
  }
}

/** Puts a mix together, and before it those that it is made of. `pictureOf` has the finished picture of a view. */
export function mixShown<V>({ look, share, before, after }: ShownMix<V>, pictureOf: (view: V) => Picture, frame: FrameBox, into: Context, table: MixTable): void {
  const side = (of: Shown<V> | null): Picture | null => {
    if (of === null) return null
    if (of.kind === 'view') return pictureOf(of)
    const context = table.next()
    mixShown(of, pictureOf, frame, context, table)
    return context.canvas
  }
  mixPictures(into, side(before), side(after), look, share, frame, () => table.next())
}
