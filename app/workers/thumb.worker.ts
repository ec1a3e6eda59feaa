import type { TakeBody } from '@rubato/core/document'
import type { ThumbAnswer, ThumbAsk } from './messages'
import { frameOfWidth } from '../viewport/viewBox'
import { createThumbPainter, type ThumbPainter } from './thumbPainter'

const say = (answer: ThumbAnswer, transfer: Transferable[] = []) => postMessage(answer, { transfer })
const MOST_TAKES = 60

let painter: ThumbPainter | null = null
let aspect = 16 / 9
const takes = new Map<number, TakeBody>()

async function answer(ask: ThumbAsk): Promise<void> {
  if (ask.kind === 'begin') {
    takes.clear()
    painter?.end()
    aspect = ask.optics.aspect
    painter = createThumbPainter(ask.optics, ask.baseWidthPx, ask.pictureBase)
  } else if (ask.kind === 'drawing') painter!.putDrawing(ask.id, ask.drawing)
  else if (ask.kind === 'drawing-change') painter!.changeDrawing(ask.id, ask.dropped, ask.put)
  else if (ask.kind === 'forget') painter!.forgetDrawings(ask.ids)
  else if (ask.kind === 'take') {
    takes.set(ask.serial, ask.take)
    if (takes.size > MOST_TAKES) takes.delete(takes.keys().next().value!)
  } else {
    const take = takes.get(ask.take)
    if (take === undefined) return say({ kind: 'failed', number: ask.number, what: null })
    try {
      const canvas = await painter!.paint(take, ask.frame, frameOfWidth(ask.widthPx, aspect))
      const bitmap = await createImageBitmap(canvas)
      say({ kind: 'thumb', number: ask.number, bitmap }, [bitmap])
    } catch (error) {
      say({ kind: 'failed', number: ask.number, what: (error as Error).message })
    }
  }
}

let queue = Promise.resolve()
self.onmessage = ({ data }: MessageEvent<ThumbAsk>) => {
  queue = queue.then(() => answer(data)).catch((error: Error) => say({ kind: 'failed', number: data.kind === 'paint' ? data.number : 0, what: error.message }))
}
