import type { Drawing, TakeBody } from '@rubato/core/document'
import type { PlacedTransition } from '@rubato/core/stage'
import type { ViewBox } from '~/viewport/viewBox'
import { createArtSender, serialOf } from '~/workers/artSender'
import type { FramesAnswer, FramesAsk, WantedFrames } from '~/workers/messages'
import { createWorkerLine, type WorkerLine } from './workerLine'

/** A frame of a take, of that very body; or of a transition. */
export interface FramePlace {
  readonly takeId: string
  readonly serial: number
  readonly frame: number
}

/** What is told while frames are made. */
export interface FramesHeard {
  coverage(answer: Extract<FramesAnswer, { kind: 'coverage' }>): void
  state(answer: Extract<FramesAnswer, { kind: 'state' }>): void
  failed(what: string): void
  /** All that was made is gone: the worker has stopped, or another film was begun. */
  forgotten(): void
}

const keyOf = ({ takeId, serial, frame }: FramePlace) => `${takeId}:${serial}:${frame}`

/** Finished frames, made and kept packed in a worker: what it has been sent, those that are asked of it well ahead, and those that are unpacked here just before they are due. */
export function createFinishedFrames(heard: FramesHeard) {
  let line: WorkerLine<FramesAsk> | null = null
  let begunFor = ''
  const send = (ask: FramesAsk) => line!.send(ask)
  const art = createArtSender((message) => line!.send(message))
  const sent = new Map<string, number>()
  /** Null while one is on its way, `false` where it is not finished. */
  const packed = new Map<string, Blob | null | false>()
  /** Null while one is being unpacked. */
  const decoded = new Map<string, ImageBitmap | null>()
  let due: ReadonlySet<string> = new Set()

  function release() {
    for (const bitmap of decoded.values()) bitmap?.close()
    decoded.clear()
    packed.clear()
    due = new Set()
  }

  /** Here and not in the worker, which is busy with the next frame. */
  function decode(key: string) {
    const picture = packed.get(key)
    if (!picture || decoded.has(key)) return
    decoded.set(key, null)
    createImageBitmap(picture).then(
      (bitmap) => {
        // What was let go meanwhile is not wanted any more.
        if (decoded.get(key) === null) decoded.set(key, bitmap)
        else bitmap.close()
      },
      // It is drawn as it is due.
      () => undefined,
    )
  }

  function forget() {
    sent.clear()
    art.reset()
    release()
    heard.forgotten()
  }

  function take(answer: FramesAnswer) {
    if (answer.kind === 'coverage') return heard.coverage(answer)
    if (answer.kind === 'state') return heard.state(answer)
    if (answer.kind === 'failed') return heard.failed(answer.what)
    const key = keyOf(answer)
    if (!packed.has(key)) return
    packed.set(key, answer.picture ?? false)
    if (due.has(key)) decode(key)
  }

  const start = () =>
    createWorkerLine<FramesAsk, FramesAnswer>(() => new Worker(new URL('../workers/frames.worker.ts', import.meta.url), { type: 'module' }), {
      answer: take,
      stopped() {
        // It is started anew with the next change; until then frames are drawn as they are due.
        begunFor = ''
        forget()
      },
    })

  return {
    /** What it was begun for; empty while it makes nothing. */
    get begunFor() {
      return line?.running === true ? begunFor : ''
    },
    /** Begins for a film, unless it has. */
    begin(what: string, ask: Extract<FramesAsk, { kind: 'begin' }>, view: ViewBox) {
      line ??= start()
      if (what === begunFor) return
      begunFor = what
      forget()
      send(ask)
      send({ kind: 'view', view })
    },
    setView: (view: ViewBox) => send({ kind: 'view', view }),
    pause: (paused: boolean) => send({ kind: 'pause', paused }),
    sendDrawing: (id: string, drawing: Drawing) => art.send(id, drawing),
    sendTake(takeId: string, body: TakeBody) {
      const serial = serialOf(body)
      if (sent.get(takeId) === serial) return
      sent.set(takeId, serial)
      send({ kind: 'take', takeId, serial, take: body })
    },
    sendMix(mixId: string, serial: number, at: PlacedTransition) {
      if (sent.get(mixId) === serial) return
      sent.set(mixId, serial)
      send({ kind: 'mix', mixId, serial, at })
    },
    /** What is to be made, in this order; art beyond what it shows is kept within so many bytes. */
    plan(parts: readonly WantedFrames[], drawings: number, artBytes: number) {
      // A transition that went over the end of one shot was asked for with the next.
      const wanted = new Set(parts.map((part) => part.takeId))
      for (const id of sent.keys()) if (!wanted.has(id)) sent.delete(id)
      send({ kind: 'plan', parts })
      art.keepWithin(artBytes, drawings)
      send({ kind: 'pause', paused: false })
    },
    /**
     * Asks for these, where `isReady` says that they are finished, unpacks the first so many, and lets all others go. The
     * worker answers between two frames, and one may take it longer than is left until it is due.
     */
    unpack(places: readonly FramePlace[], first: number, isReady: (place: FramePlace) => boolean) {
      const keys = places.map(keyOf)
      places.forEach((place, i) => {
        if (packed.has(keys[i]!) || !isReady(place)) return
        packed.set(keys[i]!, null)
        send({ kind: 'fetch', ...place })
      })
      const wanted = new Set(keys)
      for (const key of packed.keys()) if (!wanted.has(key)) packed.delete(key)
      due = new Set(keys.slice(0, first))
      for (const [key, bitmap] of decoded) {
        if (due.has(key)) continue
        bitmap?.close()
        decoded.delete(key)
      }
      for (const key of due) decode(key)
    },
    picture: (place: FramePlace): ImageBitmap | null => decoded.get(keyOf(place)) ?? null,
    release,
    end() {
      if (line?.running !== true) return
      line.end()
      begunFor = ''
      forget()
    },
  }
}
