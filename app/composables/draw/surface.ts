import type { Point2 } from '@rubato/core/geometry'
import type { LiveInk } from '~/viewport/liveInk'
import type { Composition, ViewBox } from '~/viewport/composition'

/** A view that can be drawn in. Places in it are CSS px. */
export interface Surface {
  readonly toFrame: (event: { clientX: number; clientY: number }) => { readonly u: number; readonly v: number }
  readonly toPane: (u: number, v: number) => Point2
  /** A frame width in the view, CSS px. */
  readonly frameWidth: () => number
  readonly viewBox: () => ViewBox
  /** What the view shows, as it was last composed. */
  readonly shown: () => Composition | null
  readonly live: () => LiveInk | null
  /** The element that follows the pointer. */
  readonly pane: () => HTMLElement | null
}
