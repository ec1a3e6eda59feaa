import type { Drawing, Mark, TakeBody } from '@rubato/core/document'
import type { Beyond } from '@rubato/core/stage'
import { unitBytes } from '../viewport/unitBytes'

/** Drawings as a painting worker is told of them: whole once, then only what changed. */
export type DrawingMessage =
  | { readonly kind: 'drawing'; readonly id: string; readonly drawing: Drawing }
  | { readonly kind: 'drawing-change'; readonly id: string; readonly dropped: readonly string[]; readonly put: readonly Mark[] }
  | { readonly kind: 'forget'; readonly ids: readonly string[] }

const serials = new WeakMap<object, number>()
let nextSerial = 1

/** A number for this very value: a changed one has another. */
export function serialOf(value: object): number {
  let serial = serials.get(value)
  if (serial === undefined) serials.set(value, (serial = nextSerial++))
  return serial
}

const shownSerials = new WeakMap<TakeBody, Map<string, number>>()
/** The same for a take with what is shown of it past its ends. */
export function serialShown(take: TakeBody, { before, after }: Beyond): number {
  const key = `${before} ${after}`
  const own = shownSerials.get(take) ?? new Map<string, number>()
  shownSerials.set(take, own)
  const known = own.get(key) ?? nextSerial++
  own.set(key, known)
  return known
}

/** Remembers which drawings a worker has. */
export function createArtSender(send: (message: DrawingMessage) => void) {
  // In the order they were last wanted.
  const sent = new Map<string, Drawing>()
  let bytes = 0
  return {
    send(id: string, drawing: Drawing) {
      const before = sent.get(id)
      sent.delete(id)
      sent.set(id, drawing)
      if (before === drawing) return
      bytes += unitBytes(drawing) - (before === undefined ? 0 : unitBytes(before))
      if (before === undefined) return send({ kind: 'drawing', id, drawing })
      // A drawing of thousands of marks is not sent again for one of them.
      const [old, now] = [new Set(before.marks), new Set(drawing.marks)]
      send({ kind: 'drawing-change', id, dropped: before.marks.filter((mark) => !now.has(mark)).map((mark) => mark.id), put: drawing.marks.filter((mark) => !old.has(mark)) })
    },
    /** Has the worker forget those wanted longest ago until the rest are within `budgetBytes`; the `newest` so many stay. */
    keepWithin(budgetBytes: number, newest: number) {
      const gone: string[] = []
      for (const [id, drawing] of sent) {
        if (bytes <= budgetBytes || sent.size - gone.length <= newest) break
        bytes -= unitBytes(drawing)
        gone.push(id)
      }
      for (const id of gone) sent.delete(id)
      if (gone.length > 0) send({ kind: 'forget', ids: gone })
    },
    /** For a worker that begins anew. */
    reset() {
      sent.clear()
      bytes = 0
    },
  }
}
