import type { Optics } from '@rubato/core/camera'
import { findEdges, viewEdges, viewsAt, type ArtOutline, type Finding, type ViewEdges } from '@rubato/core/checks'
import { compareOrdered, type Drawing, type Mark, type TakeBody } from '@rubato/core/document'
import { leastMend, type Mend, type MendKind } from '@rubato/core/edits'
import { drawingBounds } from '@rubato/core/ink'
import { createTakeStage, frameSignature, type Beyond } from '@rubato/core/stage'
import { heightOf, widthOf } from '@rubato/core/geometry'
import { LRUCache } from 'lru-cache'
import { ArtLibrary } from '../viewport/artLibrary'
import { forgetOutlines } from '../viewport/paint'
import { createPictureCache } from '../viewport/pictureCache'
import { outlineOfRaster } from './artOutline'

/** A drawing is looked at no finer than so many px of it. */
const MOST_PX = 2_500_000
const RASTER_BUDGET_BYTES = 32 * 1024 * 1024
/** Frames are looked at for so long before others are heard. */
const SLICE_MS = 12
/** What frames of takes were seen to be is remembered so far: of what was looked at last, always. */
const SEEN_BYTES = 12 * 1024 * 1024
const MOST_TAKES = 12
/** What a level's reach takes, about. */
const REACH_BYTES = 200
const NOBODY: ReadonlySet<string> = new Set()

export interface EdgeChecker {
  /** For good; when nothing is being checked. */
  end(): void
  putDrawing(id: string, drawing: Drawing): void
  changeDrawing(id: string, dropped: readonly string[], put: readonly Mark[]): void
  forgetDrawings(ids: readonly string[]): void
  /** The least that closes what was found in a take that was checked. */
  mend(take: TakeBody, beyond: Beyond, finding: Finding, of: MendKind): Mend | null
  /** What is wrong in a take; null where `isOver` said that nobody wants it any more. Frames that are as they were are not looked at again. */
  check(key: string, take: TakeBody, beyond: Beyond, isOver: () => boolean, tell: (done: number, total: number) => void): Promise<{ readonly findings: readonly Finding[]; readonly frames: number; readonly again: number; readonly anyArt: boolean } | null>
}

/** By picture of a sequence; null where it is no sequence. */
type OutlinesOfDrawing = Map<number | null, { readonly version: number; readonly outline: ArtOutline | null }>

/** Looks for where art ends, shot by shot, and remembers what each frame was. */
export function createEdgeChecker(optics: Optics, baseWidthPx: number, pictureBase: string): EdgeChecker {
  const drawings = new Map<string, { drawing: Drawing; version: number }>()
  const outlines = new Map<string, OutlinesOfDrawing>()
  const outlineOf = (id: string, pictureIndex: number | null) => outlines.get(id)?.get(pictureIndex)?.outline ?? null
  const known = new LRUCache<string, ReadonlyMap<string, ViewEdges>>({
    max: MOST_TAKES,
    maxSize: SEEN_BYTES,
    sizeCalculation: (seen) => Math.min(SEEN_BYTES, [...seen.values()].reduce((sum, { bare, reaches }) => sum + bare.byteLength + (1 + reaches.size) * REACH_BYTES, 1)),
  })
  let versions = 0
  let library: ArtLibrary | null = null
  const pictures = createPictureCache(
    (hash, side) => `${pictureBase}${hash}${side === null ? '' : `?side=${side}`}`,
    (hash) => library?.forgetPicture(hash),
  )
  library = new ArtLibrary(baseWidthPx, pictures.lookup, { budgetBytes: RASTER_BUDGET_BYTES })
  const art = library
  const put = (id: string, drawing: Drawing) => void drawings.set(id, { drawing, version: ++versions })

  /** Of a drawing, or of one picture of a sequence. */
  async function outlineFor(id: string, pictureIndex: number | null): Promise<void> {
    const own = drawings.get(id)
    if (own === undefined || outlines.get(id)?.get(pictureIndex)?.version === own.version) return
    const name = nameOf(id, pictureIndex)
    const mark = pictureIndex === null ? null : own.drawing.marks[pictureIndex]
    const drawing = mark === null ? own.drawing : { marks: mark === undefined ? [] : [mark] }
    const bounds = drawingBounds(drawing)
    let outline: ArtOutline | null = null
    if (bounds !== null) {
      const px = widthOf(bounds) * heightOf(bounds) * baseWidthPx ** 2
      const octave = Math.min(0, Math.floor(Math.log2(MOST_PX / px) / 2))
      let raster = art.raster(name, drawing, octave)
      for (let tries = 0; pictures.waiting && tries < 4; tries++) {
        await pictures.settled()
        raster = art.raster(name, drawing, octave)
      }
      outline = raster === null ? null : outlineOfRaster(raster)
      art.forgetDrawings([name])
      art.freeAll()
    }
    const ofDrawing: OutlinesOfDrawing = outlines.get(id) ?? new Map()
    outlines.set(id, ofDrawing.set(pictureIndex, { version: own.version, outline }))
  }

  async function check(key: string, take: TakeBody, beyond: Beyond, isOver: () => boolean, tell: (done: number, total: number) => void) {
    const stage = createTakeStage(take, optics, beyond)
    const { first, last } = stage.shown
    const total = last - first + 1
    const before = known.get(key)
    const now = new Map<string, ViewEdges>()
    const frames: ViewEdges[][] = []
    let again = 0
    let until = performance.now() + SLICE_MS
    for (let frame = first; frame <= last; frame++) {
      if (performance.now() > until) {
        tell(frame - first, total)
        await new Promise((resolve) => setTimeout(resolve))
        if (isOver()) return null
        until = performance.now() + SLICE_MS
      }
      const views: ViewEdges[] = []
      for (const view of viewsAt(stage, frame)) {
        const signature = `${view.cameraId} ${frameSignature(view, (id) => `${id}:${drawings.get(id)?.version ?? 0}`, NOBODY)}`
        let edges = now.get(signature) ?? before?.get(signature)
        if (edges === undefined) {
          for (const { drawingId, pictureIndex } of view.levels) if (drawingId !== null) await outlineFor(drawingId, pictureIndex)
          edges = viewEdges(view, { outlineOf })
          again++
        }
        now.set(signature, edges)
        views.push(edges)
      }
      frames.push(views)
    }
    known.set(key, now)
    // Outlines are all that is needed of them.
    pictures.empty()
    return { findings: findEdges(stage, frames, { widthPx: baseWidthPx }), frames: total, again, anyArt: frames.some((views) => views.some(({ reaches }) => reaches.size > 0)) }
  }

  return {
    end() {
      for (const { drawing } of drawings.values()) forgetOutlines(drawing.marks)
      art.empty()
      pictures.empty()
    },
    putDrawing: put,
    changeDrawing(id, dropped, marks) {
      const own = drawings.get(id)
      if (own === undefined) return
      const gone = new Set(dropped)
      put(id, { marks: [...own.drawing.marks.filter((mark) => !gone.has(mark.id)), ...marks].sort(compareOrdered) })
    },
    forgetDrawings(ids) {
      // Outlines stay: a shot that was looked at is mended without its drawings being told again.
      for (const id of ids) drawings.delete(id)
    },
    check,
    mend: (take, beyond, finding, of) => leastMend(take, finding, of, optics, { widthPx: baseWidthPx, outlineOf }, beyond),
  }
}

const nameOf = (id: string, pictureIndex: number | null) => (pictureIndex === null ? id : `${id}#${pictureIndex}`)
