interface Finger {
  x: number
  y: number
}

export interface FingerHandlers {
  readonly slide: (dx: number, dy: number) => void
  /** About a place, client px. */
  readonly zoom: (at: Finger, factor: number) => void
  readonly turn: (degrees: number) => void
}

/** Two fingers (or one, where that is asked for) that move, zoom and turn what they touch. */
export function followFingers(element: () => HTMLElement | null, { slide, zoom, turn }: FingerHandlers) {
  const fingers = new Map<number, Finger>()
  let alone = false

  function onMove(event: PointerEvent) {
    const finger = fingers.get(event.pointerId)
    if (finger === undefined) return
    const others = [...fingers].filter(([id]) => id !== event.pointerId).map(([, other]) => other)
    const other = others[0]
    const [x, y] = [event.clientX, event.clientY]
    if (other === undefined) {
      if (alone) slide(x - finger.x, y - finger.y)
    } else {
      const before = { dx: finger.x - other.x, dy: finger.y - other.y }
      const now = { dx: x - other.x, dy: y - other.y }
      const [was, is] = [Math.hypot(before.dx, before.dy), Math.hypot(now.dx, now.dy)]
      slide((x - finger.x) / 2, (y - finger.y) / 2)
      if (was > 4 && is > 4) {
        zoom({ x: (x + other.x) / 2, y: (y + other.y) / 2 }, is / was)
        turn(((Math.atan2(now.dy, now.dx) - Math.atan2(before.dy, before.dx)) * 180) / Math.PI)
      }
    }
    finger.x = x
    finger.y = y
  }
  function onUp(event: PointerEvent) {
    if (!fingers.delete(event.pointerId)) return
    const target = element()
    if (fingers.size === 0) {
      target?.removeEventListener('pointermove', onMove)
      target?.removeEventListener('pointerup', onUp)
      target?.removeEventListener('pointercancel', onUp)
    }
  }
  return {
    /** A finger was put down; true where it is taken for moving, false where it may draw. `oneMoves`: a single one moves too. */
    down(event: PointerEvent, oneMoves: boolean): boolean {
      const target = element()
      if (target === null) return false
      if (fingers.size === 0) {
        target.addEventListener('pointermove', onMove)
        target.addEventListener('pointerup', onUp)
        target.addEventListener('pointercancel', onUp)
      }
      alone = oneMoves
      fingers.set(event.pointerId, { x: event.clientX, y: event.clientY })
      return oneMoves || fingers.size > 1
    },
  }
}
