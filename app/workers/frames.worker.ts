import { createFrameStore, type FrameJob, type FrameStore } from './frameStore'
import type { FramesAnswer, FramesAsk } from './messages'
import { createThumbPainter, type ThumbPainter } from './thumbPainter'
import type { ViewBox } from '../viewport/viewBox'

const say = (answer: FramesAnswer, transfer: Transferable[] = []) => postMessage(answer, { transfer })

/** Less than two shots of a dozen levels take would raster them anew for every frame of a dissolve; what is kept goes when all frames are made. */
const RASTER_BUDGET_BYTES = 128 * 1024 * 1024
/** Pictures are kept as PNG files: whole, a tenth of their pixels’ size, and sooner packed and unpacked than other kinds. */
const PICTURE_TYPE = 'image/png'
const TELL_EVERY_MS = 200
/** Packed at once beside the one that is painted. */
const MOST_PACKING = 2

let painter: ThumbPainter | null = null
/** Those of films before, that may be painting still. */
let before: ThumbPainter[] = []
let store: FrameStore | null = null
let view: ViewBox | null = null
let paused = false
let working = false
let painted = 0
/** Raised when what is being made is not wanted any more. */
let generation = 0
let toldAt = 0
let changedTakes = new Set<string>()

function tell(done: boolean) {
  toldAt = performance.now()
  for (const takeId of changedTakes) {
    const coverage = store!.coverage(takeId)
    if (coverage !== null) say({ kind: 'coverage', takeId, ...coverage }, [coverage.ready.buffer as ArrayBuffer])
  }
  changedTakes = new Set()
  say({ kind: 'state', bytes: store!.bytes, pictures: store!.pictures, painted, full: store!.full, done })
}

/** Paints a frame; `packed` resolves when it is kept. */
async function make(job: FrameJob, of: ViewBox): Promise<{ readonly packed: Promise<void> }> {
  const mine = generation
  const canvas = await painter!.paintShown(job.shown, of)
  const packing = canvas.convertToBlob({ type: PICTURE_TYPE })
  const packed = packing.then((blob) => {
    if (mine !== generation) return
    painted++
    if (store!.keep(job, blob)) changedTakes.add(job.takeId)
  })
  return { packed }
}

function endBefore() {
  for (const each of before) each.end()
  before = []
}

/** Messages come in between two frames. */
const breathe = () => new Promise<void>((resolve) => setTimeout(resolve, 0))

async function work() {
  if (working) return
  working = true
  const packing = new Set<Promise<void>>()
  try {
    while (!paused && store !== null && view !== null) {
      const job = store.next()
      if (job === null) break
      const { packed } = await make(job, view)
      endBefore()
      packing.add(packed)
      void packed.finally(() => packing.delete(packed)).catch(() => undefined)
      if (packing.size >= MOST_PACKING) await Promise.race(packing)
      if (performance.now() - toldAt > TELL_EVERY_MS) tell(false)
      await breathe()
    }
    await Promise.all(packing)
    if (!paused) painter?.rest()
    if (store !== null) tell(!paused)
  } catch (error) {
    say({ kind: 'failed', what: (error as Error).message })
    paused = true
  } finally {
    working = false
    endBefore()
  }
  // It may have been let go on, or something else wanted, while the last pictures were packed.
  if (!paused && store?.pending === true && view !== null) void work()
}

function answer(ask: FramesAsk) {
  if (ask.kind === 'begin') {
    generation++
    if (painter !== null) before.push(painter)
    if (!working) endBefore()
    painter = createThumbPainter(ask.optics, ask.baseWidthPx, ask.pictureBase, RASTER_BUDGET_BYTES)
    const { drawingOf } = painter
    store = createFrameStore(ask.optics, ask.budgetBytes, drawingOf)
    painted = 0
  } else if (ask.kind === 'drawing') {
    if (painter!.drawingOf(ask.id) !== null) store!.drawingChanged()
    painter!.putDrawing(ask.id, ask.drawing)
  } else if (ask.kind === 'drawing-change') {
    painter!.changeDrawing(ask.id, ask.dropped, ask.put)
    store!.drawingChanged()
  }
  else if (ask.kind === 'forget') {
    painter!.forgetDrawings(ask.ids)
    store!.drawingChanged()
  }
  else if (ask.kind === 'take') store!.putTake(ask.takeId, ask.serial, ask.take)
  else if (ask.kind === 'mix') store!.putMix(ask.mixId, ask.serial, ask.at)
  else if (ask.kind === 'view') {
    generation++
    view = ask.view
    store?.clear()
  } else if (ask.kind === 'plan') {
    store!.plan(ask.parts)
    changedTakes = new Set(store!.takeIds)
    tell(false)
    void work()
  } else if (ask.kind === 'pause') {
    paused = ask.paused
    if (!paused) void work()
  } else say({ kind: 'frame', takeId: ask.takeId, serial: ask.serial, frame: ask.frame, picture: store?.pictureOf(ask.takeId, ask.serial, ask.frame) ?? null })
}

self.onmessage = ({ data }: MessageEvent<FramesAsk>) => answer(data)
