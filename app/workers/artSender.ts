import type { Drawing, Mark } from '@rubato/core/document'

/** Drawings as a painting worker is told of them: whole once, then only what changed. */
export type DrawingMessage =
  | { readonly kind: 'drawing'; readonly id: string; readonly drawing: Drawing }
  | { readonly kind: 'drawing-change'; readonly id: string; readonly dropped: readonly string[]; readonly put: readonly Mark[] }
  | { readonly kind: 'forget' }

const serials = new WeakMap<object, number>()
let nextSerial = 1

/** A number for this very value: a changed one has another. */
export function serialOf(value: object): number {
  let serial = serials.get(value)
  if (serial === undefined) serials.set(value, (serial = nextSerial++))
  return serial
}

const MOST_DRAWINGS = 3000

/** Remembers which drawings a worker has. */
export function createArtSender(send: (message: DrawingMessage) => void) {
  const sent = new Map<string, Drawing>()
  return {
    send(id: string, drawing: Drawing) {
      const before = sent.get(id)
      if (before === drawing) return
      if (before === undefined && sent.size >= MOST_DRAWINGS) {
        sent.clear()
        send({ kind: 'forget' })
      }
      sent.set(id, drawing)
      if (before === undefined) return send({ kind: 'drawing', id, drawing })
      // A drawing of thousands of marks is not sent again for one of them.
      const [old, now] = [new Set(before.marks), new Set(drawing.marks)]
      send({ kind: 'drawing-change', id, dropped: before.marks.filter((mark) => !now.has(mark)).map((mark) => mark.id), put: drawing.marks.filter((mark) => !old.has(mark)) })
    },
    /** Before many are sent that belong together: none of them is forgotten on the way. */
    makeRoom(count: number) {
      if (sent.size + count <= MOST_DRAWINGS) return
      sent.clear()
      send({ kind: 'forget' })
    },
    /** For a worker that begins anew. */
    reset: () => sent.clear(),
  }
}
