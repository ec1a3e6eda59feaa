import type { Transition } from '../document/records'

/** What one camera of a take sees at a frame of the shot, which may lie past its ends: there it is held, and what can go on goes on. */
export interface ShownView {
  readonly kind: 'view'
  readonly takeId: string
  readonly frame: number
  /** Null where the take has no camera, or is not known. */
  readonly cameraId: string | null
}

/** How one picture becomes another. At a film's start or end, or where one is null, it comes out of its colour or goes into it. */
export type MixLook = Pick<Transition, 'at' | 'kind' | 'angleDegrees' | 'softness' | 'colour'>

/** Two pictures put together; `share` is how far the first has become the second, 0…1. */
export interface ShownMix<V = ShownView> {
  readonly kind: 'mix'
  readonly look: MixLook
  readonly share: number
  readonly before: Shown<V> | null
  readonly after: Shown<V> | null
}

/** What is on the screen at one frame: a view, or a mix of two that may be mixes themselves. */
export type Shown<V = ShownView> = (V & { readonly kind: 'view' }) | ShownMix<V>

/** The views of it, from the first to the last. */
export function viewsOf<V>(shown: Shown<V> | null): readonly (V & { readonly kind: 'view' })[] {
  if (shown === null) return []
  return shown.kind === 'view' ? [shown] : [...viewsOf(shown.before), ...viewsOf(shown.after)]
}

/** The same, of other views. */
export function mapShown<V, W>(shown: Shown<V>, map: (view: V & { readonly kind: 'view' }) => W): Shown<W> {
  if (shown.kind === 'view') return { ...map(shown), kind: 'view' }
  const side = (of: Shown<V> | null) => (of === null ? null : mapShown(of, map))
  return { ...shown, before: side(shown.before), after: side(shown.after) }
}

/** What a frame is made of, as text: of two it is the same only where their pictures are, as long as that is so of their views. */
export function shownSignature<V>(shown: Shown<V> | null, ofView: (view: V & { readonly kind: 'view' }) => string): string {
  if (shown === null) return 'none'
  if (shown.kind === 'view') return ofView(shown)
  const { at, kind, angleDegrees, softness, colour } = shown.look
  return `(${[at, kind, angleDegrees, softness, colour, shown.share].join()}#${shownSignature(shown.before, ofView)}#${shownSignature(shown.after, ofView)})`
}
