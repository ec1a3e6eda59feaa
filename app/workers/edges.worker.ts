import { createEdgeChecker, type EdgeChecker } from './edgeChecker'
import type { EdgesAnswer, EdgesAsk } from './messages'

const say = (answer: EdgesAnswer) => postMessage(answer)

let checker: EdgeChecker | null = null
/** The newest that is wanted of each key. */
const newest = new Map<string, number>()
let queue = Promise.resolve()

async function check({ key, number, take, beyond }: Extract<EdgesAsk, { readonly kind: 'check' }>): Promise<void> {
  const isOver = () => newest.get(key) !== number
  if (isOver() || checker === null) return
  const begun = performance.now()
  try {
    const found = await checker.check(key, take, beyond, isOver, (done, total) => say({ kind: 'progress', key, number, done, total }))
    if (found !== null) say({ kind: 'found', key, number, ...found, tookMs: performance.now() - begun })
  } catch (error) {
    say({ kind: 'failed', key, number, what: (error as Error).message })
  }
}

function mend({ key, number, take, beyond, finding, of }: Extract<EdgesAsk, { readonly kind: 'mend' }>): void {
  try {
    say({ kind: 'mended', key, number, mend: checker?.mend(take, beyond, finding, of) ?? null })
  } catch (error) {
    say({ kind: 'failed', key, number, what: (error as Error).message })
  }
}

self.onmessage = ({ data: ask }: MessageEvent<EdgesAsk>) => {
  // Known at once, so that what is under way ends.
  if (ask.kind === 'check') newest.set(ask.key, ask.number)
  else if (ask.kind === 'cancel') newest.delete(ask.key)
  // Between two checks and not in one: a drawing must not change under it.
  queue = queue.then(() => {
    if (ask.kind === 'begin') {
      checker?.end()
      checker = createEdgeChecker(ask.optics, ask.baseWidthPx, ask.pictureBase)
    } else if (ask.kind === 'drawing') checker?.putDrawing(ask.id, ask.drawing)
    else if (ask.kind === 'drawing-change') checker?.changeDrawing(ask.id, ask.dropped, ask.put)
    else if (ask.kind === 'forget') checker?.forgetDrawings(ask.ids)
    else if (ask.kind === 'mend') mend(ask)
    else if (ask.kind === 'check') return check(ask)
  })
}
