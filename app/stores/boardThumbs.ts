import { placedPanels } from '@rubato/core/document'
import { frameSignature, shownInTake, shownSignature } from '@rubato/core/stage'
import { defineStore } from 'pinia'
import { shallowReactive } from 'vue'
import { pictureBase } from '~/api/client'
import { createWorkerLine, type WorkerLine } from '~/clients/workerLine'
import { createArtSender, serialOf } from '~/workers/artSender'
import type { ThumbAnswer, ThumbAsk } from '~/workers/messages'
import { useFilmStore } from './film'

interface Thumb {
  /** What the picture shows, by what it is made of. */
  signature: string
  bitmap: ImageBitmap
}

interface Asked {
  readonly number: number
  readonly signature: string
}

/** Some screens full: a card keeps what it shows itself. */
const BUDGET_BYTES = 10 * 1024 * 1024
/** Drawings that the painter keeps while there is something to paint, and when there is not. */
const ART_BYTES = 12 * 1024 * 1024
const RESTING_ART_BYTES = 1024 * 1024
const REST_AFTER_MS = 2000
/** One shot's, so that a stroke in a drawing of thousands is told by itself. */
const NEWEST_DRAWINGS = 4
/** Pictures that come one after the other are shown together, so often. */
const TOGETHER_MS = 200
/** Asked for and not answered yet; the rest waits, so that what is seen last is drawn first. */
const AT_ONCE = 3

const sizeOf = (bitmap: ImageBitmap) => bitmap.width * bitmap.height * 4

/** Pictures of panels' first frames, painted in a worker and again only when what they show changes. */
export const useBoardThumbsStore = defineStore('boardThumbs', () => {
  let line: WorkerLine<ThumbAsk> | null = null
  let begunFor = ''
  const sentTakes = new Set<number>()
  const art = createArtSender((message) => line!.send(message))
  const thumbs = shallowReactive(new Map<string, Thumb>())
  /** Those wanted longest ago first. */
  const order = new Set<string>()
  /** The newest painting asked for, of each. */
  const asked = new Map<string, Asked>()
  const underWay = new Map<number, Asked & { readonly key: string }>()
  /** Painted, and shown with the next ones. */
  const painted = new Map<string, Thumb>()
  const wanted = new Map<string, () => void>()
  let number = 0
  let showing: ReturnType<typeof setTimeout> | undefined
  let resting: ReturnType<typeof setTimeout> | undefined
  let bytes = 0
  const told = new Set<string>()

  const film = useFilmStore()

  function begin() {
    line ??= start()
    const { project, optics } = film
    const key = `${film.projectId}:${film.lookingAt?.version}:${JSON.stringify([optics, project?.widthPx])}`
    if (key !== begunFor && project !== null && optics !== null) {
      begunFor = key
      for (const { bitmap } of [...thumbs.values(), ...painted.values()]) bitmap.close()
      for (const each of [thumbs, painted, asked, underWay, wanted, sentTakes, order]) each.clear()
      art.reset()
      bytes = 0
      send({ kind: 'begin', optics: { ...optics }, baseWidthPx: project.widthPx, pictureBase: pictureBase() })
    }
  }

  function start() {
    return createWorkerLine<ThumbAsk, ThumbAnswer>(() => new Worker(new URL('../workers/thumb.worker.ts', import.meta.url), { type: 'module' }), {
      answer: take,
      stopped() {
        // It is started anew when the next picture is wanted.
        begunFor = ''
        underWay.clear()
        asked.clear()
        trouble('Their painter had to be started anew.')
      },
    })
  }

  const send = (ask: ThumbAsk) => line!.send(ask)

  function take(answer: ThumbAnswer) {
    const of = underWay.get(answer.number)
    underWay.delete(answer.number)
    if (of === undefined) {
      // Of a film that is no longer looked at; or what was sent was not understood.
      if (answer.kind === 'thumb') answer.bitmap.close()
      else if (answer.number === 0 && answer.what !== null) trouble(answer.what)
      return
    }
    if (asked.get(of.key)?.number === of.number) asked.delete(of.key)
    if (answer.kind === 'thumb') {
      painted.get(of.key)?.bitmap.close()
      painted.set(of.key, { signature: of.signature, bitmap: answer.bitmap })
    }
    else if (answer.what === null) sentTakes.clear()
    else trouble(answer.what)
    pump()
    if (underWay.size === 0) show()
    else showing ??= setTimeout(show, TOGETHER_MS)
  }

  function show() {
    clearTimeout(showing)
    showing = undefined
    for (const [key, thumb] of painted) {
      drop(key)
      bytes += sizeOf(thumb.bitmap)
      thumbs.set(key, thumb)
      order.add(key)
    }
    for (const key of order) {
      if (bytes <= BUDGET_BYTES) break
      if (!painted.has(key)) drop(key)
    }
    painted.clear()
  }

  /** Told once for each reason: a hundred panels may fail alike. */
  function trouble(what: string) {
    if (told.has(what)) return
    told.add(what)
    film.refuse(`A small picture could not be painted: ${what} The panel itself is whole; its picture is tried again when it changes.`)
  }

  function drop(key: string) {
    const known = thumbs.get(key)
    if (known === undefined) return
    bytes -= sizeOf(known.bitmap)
    known.bitmap.close()
    thumbs.delete(key)
    order.delete(key)
  }

  function pump() {
    while (underWay.size < AT_ONCE && wanted.size > 0) {
      // Newest first: what scrolled by is no longer looked at.
      const [key, ask] = [...wanted].at(-1)!
      wanted.delete(key)
      ask()
    }
    clearTimeout(resting)
    if (underWay.size === 0) resting = setTimeout(() => line?.running === true && art.keepWithin(RESTING_ART_BYTES, NEWEST_DRAWINGS), REST_AFTER_MS)
  }

  const nameOf = (takeId: string, panelId: string, widthPx: number) => `${takeId}/${panelId}@${widthPx}`

  /** The picture there is, of now or of a moment ago. Reading it is being told of another. */
  function bitmapOf(takeId: string, panelId: string, widthPx: number): ImageBitmap | null {
    return thumbs.get(nameOf(takeId, panelId, widthPx))?.bitmap ?? null
  }

  /** The same of any frame, a dissolve's own picture too. */
  const bitmapOfFrame = (takeId: string, frame: number, widthPx: number) => thumbs.get(nameOf(takeId, `frame ${frame}`, widthPx))?.bitmap ?? null
  const wantFrame = (takeId: string, frame: number, widthPx: number): boolean => wantPicture(takeId, frame, nameOf(takeId, `frame ${frame}`, widthPx), widthPx)

  /** Has the picture painted if it is not there or shows something else by now. False while the art is not loaded. */
  function want(takeId: string, panelId: string, widthPx: number): boolean {
    const body = film.takeOf(takeId)
    const placed = body === null ? undefined : placedPanels(body).find((entry) => entry.panel.id === panelId)
    return placed !== undefined && wantPicture(takeId, placed.startFrame, nameOf(takeId, panelId, widthPx), widthPx)
  }

  function wantPicture(takeId: string, frame: number, key: string, widthPx: number): boolean {
    const body = film.takeOf(takeId)
    if (body === null || film.optics === null || film.gestureOpen) return false
    const picture = pictureOf(takeId, frame)
    if (picture === null) return false
    const { shown, signature } = picture
    begin()
    if (order.delete(key)) order.add(key)
    // What was wanted before, and not begun, is no longer what it shows.
    wanted.delete(key)
    if ((asked.get(key) ?? painted.get(key) ?? thumbs.get(key))?.signature === signature) return true
    wanted.set(key, () => {
      const now = { number: ++number, signature }
      asked.set(key, now)
      underWay.set(number, { ...now, key })
      for (const id of shown) {
        const drawing = film.drawingOf(id)
        if (drawing !== null) art.send(id, drawing)
      }
      art.keepWithin(ART_BYTES, shown.length)
      const serial = serialOf(body)
      if (!sentTakes.has(serial)) {
        if (sentTakes.size > 40) sentTakes.clear()
        sentTakes.add(serial)
        send({ kind: 'take', serial, take: body })
      }
      send({ kind: 'paint', number: now.number, take: serial, frame, widthPx })
    })
    pump()
    return true
  }

  /** The drawings that a frame shows, and what its picture is made of; null while one of them is not loaded. */
  function pictureOf(takeId: string, frame: number): { readonly shown: readonly string[]; readonly signature: string } | null {
    const stage = film.stageOf(takeId)
    if (stage === null) return null
    const shown = new Set<string>()
    let missing = false
    const nameOf = (id: string) => {
      const drawing = film.drawingOf(id)
      shown.add(id)
      missing ||= drawing === null
      return drawing === null ? '' : serialOf(drawing)
    }
    // Reference levels are in no small picture.
    const references = new Set(Object.values(stage.take.levels).flatMap((level) => (level.kind === 'reference' ? [level.id] : [])))
    const signature = shownSignature(shownInTake(takeId, frame, stage), (view) => frameSignature(stage.through(view.frame, view.cameraId), nameOf, references))
    return missing ? null : { shown: [...shown], signature }
  }

  /** What is no longer on the screen need not be painted. */
  function unwant(takeId: string, panelId: string, widthPx: number) {
    wanted.delete(nameOf(takeId, panelId, widthPx))
  }

  return { bitmapOf, bitmapOfFrame, want, wantFrame, unwant }
})
