import type { PaintAnswer, PaintAsk } from './messages'
import { createPainter, type Painter } from './painter'

const say = (answer: PaintAnswer, transfer: Transferable[] = []) => postMessage(answer, { transfer })

let painter: Painter | null = null

async function answer(ask: PaintAsk): Promise<void> {
  if (ask.kind === 'begin') {
    painter = await createPainter(ask.request, ask.painters)
    return
  }
  const data = await painter!.paint(ask.index)
  say({ kind: 'frame', index: ask.index, data }, data === null ? [] : [data])
}

let queue = Promise.resolve()
self.onmessage = ({ data }: MessageEvent<PaintAsk>) => {
  queue = queue.then(() => answer(data))
  queue.catch((error: Error) => say({ kind: 'failed', name: error.name, what: error.message }))
}
