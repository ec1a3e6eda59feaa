export type DragAxis = 'x' | 'y' | 'depth'
/** Held while something is dragged, it goes that way alone. */
const AXIS_KEYS: Readonly<Record<string, DragAxis>> = { x: 'x', y: 'y', z: 'depth' }

export interface DragStep {
  /** From where the drag began, in CSS px. */
  readonly dx: number
  readonly dy: number
  readonly event: PointerEvent
  /** The direction that is held: X, Y, or Z for depth. */
  readonly axis: DragAxis | null
}

export interface DragHandlers {
  /** Called once the pointer has moved `slopPx`; a press that never does is a click. */
  readonly begin?: () => void
  readonly move: (step: DragStep) => void
  readonly end: (step: DragStep) => void
  /** Escape, or the pointer or the view was taken away: everything goes back. */
  readonly cancel: () => void
  readonly click?: (event: PointerEvent) => void
}

const DRAG_SLOP_PX = 3

/** Follows a pressed pointer until it is let go, taken away, or what it was pressed on is no longer there. */
export function followDrag(down: PointerEvent, handlers: DragHandlers, slopPx = DRAG_SLOP_PX): void {
  const target = down.currentTarget as HTMLElement
  const { pointerId, clientX, clientY } = down
  let begun = slopPx === 0
  if (begun) handlers.begin?.()
  target.setPointerCapture(pointerId)
  let axis: DragAxis | null = null
  let last = down
  let over = false
  const stepOf = (event: PointerEvent): DragStep => ({ dx: event.clientX - clientX, dy: event.clientY - clientY, event: (last = event), axis })

  const onMove = (event: PointerEvent) => {
    if (event.pointerId !== pointerId) return
    const step = stepOf(event)
    if (!begun) {
      if (Math.hypot(step.dx, step.dy) < slopPx) return
      begun = true
      handlers.begin?.()
    }
    handlers.move(step)
  }
  const onUp = (event: PointerEvent) => {
    if (event.pointerId !== pointerId) return
    release()
    if (begun) handlers.end(stepOf(event))
    else handlers.click?.(event)
  }
  function giveUp() {
    if (over) return
    release()
    if (begun) handlers.cancel()
  }
  const onCancel = (event: PointerEvent) => {
    if (event.pointerId === pointerId) giveUp()
  }
  // A view that goes takes its events along: nothing else would ever end the drag.
  const watch = () => {
    if (over) return
    if (target.isConnected) requestAnimationFrame(watch)
    else giveUp()
  }
  const onKey = (event: KeyboardEvent) => {
    // Commands stay commands.
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const held = AXIS_KEYS[event.key.toLowerCase()]
    if (held === undefined && event.key !== 'Escape') return
    event.preventDefault()
    event.stopPropagation()
    if (held === undefined) giveUp()
    else if (axis !== held) {
      axis = held
      if (begun) handlers.move(stepOf(last))
    }
  }
  const onKeyUp = (event: KeyboardEvent) => {
    if (axis === null || AXIS_KEYS[event.key.toLowerCase()] !== axis) return
    axis = null
    if (begun) handlers.move(stepOf(last))
  }
  function release() {
    over = true
    target.removeEventListener('pointermove', onMove)
    target.removeEventListener('pointerup', onUp)
    target.removeEventListener('pointercancel', onCancel)
    document.removeEventListener('lostpointercapture', onCancel)
    window.removeEventListener('keydown', onKey, true)
    window.removeEventListener('keyup', onKeyUp, true)
    if (target.hasPointerCapture(pointerId)) target.releasePointerCapture(pointerId)
  }
  target.addEventListener('pointermove', onMove)
  target.addEventListener('pointerup', onUp)
  target.addEventListener('pointercancel', onCancel)
  // Bubbles from the target; where that is gone it comes to the document itself.
  document.addEventListener('lostpointercapture', onCancel)
  window.addEventListener('keydown', onKey, true)
  window.addEventListener('keyup', onKeyUp, true)
  requestAnimationFrame(watch)
}
