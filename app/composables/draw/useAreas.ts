import { backFigure, fillArea } from '@rubato/core/edits'
import type { Point2 } from '@rubato/core/geometry'
import { applyAffine, type Affine } from '@rubato/core/ink'
import { placedLevel } from '@rubato/core/stage'
import { computed, shallowRef } from 'vue'
import { areaJobs } from '~/clients/areaJobs'
import type { Surface } from '~/composables/draw/surface'
import { useArt } from '~/composables/view/useArt'
import type { Ground, usePen } from '~/composables/draw/usePen'
import { useSheet } from '~/composables/draw/useSheet'
import { useDeskStore } from '~/stores/desk'
import { useFaceOnStore } from '~/stores/faceOn'
import { useFilmStore } from '~/stores/film'
import { usePenStore } from '~/stores/pen'
import { wordArea } from '~/text/areas'
import { contextOf, RIM_PX, type ArtRaster } from '~/viewport/artRaster'
import { createCanvasCompositor } from '~/viewport/canvasCompositor'
import { canvasOfArt } from '~/viewport/composition'
import { inverseOf } from '~/viewport/viewBox'
import type { AreaAsk, AreaFound } from '~/workers/messages'

/** A drawing is looked at on no more px than this. */
const MOST_PX = 2_600_000
/** How different a tone may be and still be the same, of 255. */
const TOLERANCE = 48
const TELL_AFTER_MS = 250

export interface AreaWork {
  readonly what: string
  readonly cancel: () => void
}

const work = shallowRef<AreaWork | null>(null)

type Pixels = Pick<AreaAsk, 'pixels' | 'widthPx' | 'heightPx'> & { readonly toArt: Affine; readonly pxPerFw: number }

/** Filling areas and backing figures: pixels are read here, and everything else is done in a worker. */
export function useAreas(surface: Surface, pen: ReturnType<typeof usePen>) {
  const film = useFilmStore()
  const desk = useDeskStore()
  const ink = usePenStore()
  const faceOn = useFaceOnStore()
  const art = useArt()
  const { picture } = useSheet()

  function pixelsOf(raster: ArtRaster): Pixels {
    const { width, height } = raster.canvas
    const scale = Math.min(1, Math.sqrt(MOST_PX / (width * height)))
    const [widthPx, heightPx] = [Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale))]
    const [perX, perY] = [width / widthPx / raster.pxPerFw, height / heightPx / raster.pxPerFw]
    const rim = RIM_PX / raster.pxPerFw
    const toArt = { a: perX, b: 0, c: 0, d: -perY, e: raster.left - rim, f: raster.top + rim }
    let context = contextOf(raster.canvas)
    if (scale < 1) {
      context = new OffscreenCanvas(widthPx, heightPx).getContext('2d', { willReadFrequently: true })!
      context.imageSmoothingQuality = 'medium'
      context.drawImage(raster.canvas as CanvasImageSource, 0, 0, widthPx, heightPx)
    }
    return { pixels: context.getImageData(0, 0, widthPx, heightPx).data.buffer, widthPx, heightPx, toArt, pxPerFw: 1 / perX }
  }

  /** The level's own drawing, whole, as finely as the view shows it or as there is room for. */
  function ownPixels(ground: Ground): Pixels | null {
    const drawing = pen.drawingHere()
    const placed = placedLevel(faceOn.frame, ground.level.id)
    if (drawing === null || placed === null || placed.drawingId === null) return null
    const library = art.library()
    let octave = library.octaveFor(drawing, surface.viewBox().frameWidthPx * ground.grows)
    while (octave > -6 && !library.fits(drawing, octave)) octave--
    const raster = library.raster(placed.drawingId, drawing, octave)
    if (raster === null) return null
    library.continue(Infinity)
    return pixelsOf(raster)
  }

  /** What the view shows, without ghosts and paper. */
  function seenPixels(ground: Ground): Pixels | null {
    const stage = faceOn.frame
    const placed = placedLevel(stage, ground.level.id)
    if (stage === null || placed === null || !placed.square) return null
    const view = surface.viewBox()
    const back = inverseOf(canvasOfArt(stage, placed, view))
    if (back === null) return null
    const compositor = createCanvasCompositor(new OffscreenCanvas(1, 1))
    compositor.draw(picture(stage, view), { frame: '#ffffff', surround: null }, 'fast')
    const { width: widthPx, height: heightPx } = compositor.canvas
    return { pixels: contextOf(compositor.canvas).getImageData(0, 0, widthPx, heightPx).data.buffer, widthPx, heightPx, toArt: back, pxPerFw: view.frameWidthPx * ground.grows }
  }

  /** Null where the artist has cancelled it. */
  async function ask(what: string, request: AreaAsk): Promise<AreaFound | null> {
    const gate = new AbortController()
    const told = setTimeout(() => (work.value = { what, cancel: () => gate.abort() }), TELL_AFTER_MS)
    try {
      return await areaJobs.run(request, { transfer: [request.pixels], signal: gate.signal })
    } catch (error) {
      if (gate.signal.aborted) return null
      throw error
    } finally {
      clearTimeout(told)
      work.value = null
    }
  }

  const toFw = (outlines: readonly (readonly number[])[], toArt: Affine) =>
    outlines.map((outline) => {
      const out: number[] = []
      for (let i = 0; i + 1 < outline.length; i += 2) {
        const { x, y } = applyAffine(toArt, { x: outline[i]!, y: outline[i + 1]! })
        out.push(Math.round(x * 1e6) / 1e6, Math.round(y * 1e6) / 1e6)
      }
      return out
    })

  async function run(label: string, make: (ground: Ground) => { readonly seen: Pixels; readonly request: AreaAsk } | null, then: (ground: Ground, outlines: number[][]) => void) {
    if (work.value !== null) return
    const ground = pen.ground()
    if (ground === null) return
    const made = make(ground)
    if (made === null) return
    const before = pen.drawingHere()
    try {
      const answer = await ask(label, made.request)
      if (answer === null) return
      if (answer.kind !== 'found') return film.refuse(wordArea(answer))
      if (pen.drawingHere() !== before || desk.selectedLevelId !== ground.level.id) return film.refuse('The drawing was changed meanwhile, so nothing was filled. Try again.')
      const outlines = toFw(answer.outlines, made.seen.toArt)
      if (outlines.length > 0) then(ground, outlines)
    } catch (error) {
      film.refuse(`${label} was not done: ${(error as Error).message}. Try again.`)
    }
  }

  /** Fills the area around a place on the level. */
  function fill(event: PointerEvent) {
    let at: Point2 | null = null
    return run(
      'Filling',
      (ground) => {
        at = pen.artAt(ground, event)
        const seen = (ink.fillSeen ? seenPixels(ground) : null) ?? ownPixels(ground)
        if (at === null || seen === null) {
          film.refuse(`${ground.level.name} shows nothing here, so there is no area to fill. Draw its outline first.`)
          return null
        }
        const back = inverseOf(seen.toArt)
        if (back === null) return null
        const px = applyAffine(back, at)
        if (px.x < 0 || px.y < 0 || px.x >= seen.widthPx || px.y >= seen.heightPx) {
          film.refuse(wordArea({ kind: 'refused', refusal: { code: 'runs-out', xPx: 0, yPx: 0 } }))
          return null
        }
        const gapPx = (ink.gapPx / film.project!.widthPx / ground.grows) * seen.pxPerFw
        const { pixels, widthPx, heightPx } = seen
        return { seen, request: { kind: 'fill', pixels, widthPx, heightPx, xPx: Math.floor(px.x), yPx: Math.floor(px.y), gapPx, tolerance: TOLERANCE } }
      },
      (ground, outlines) => {
        const place = pen.placeOf(ground)
        const mark = { id: crypto.randomUUID(), outlines, colour: ink.brush.colour, opacity: ink.brush.opacity }
        film.perform(`fill on ${ground.level.name}`, (f) => fillArea(place(f), at!, mark))
      },
    )
  }

  /** Puts paper white behind the figure, within its silhouette. */
  function back() {
    return run(
      'Backing the figure',
      (ground) => {
        const seen = ownPixels(ground)
        if (seen === null) {
          film.refuse(`${ground.level.name} shows nothing here, so there is no figure to back. Draw it first.`)
          return null
        }
        const { pixels, widthPx, heightPx } = seen
        return { seen, request: { kind: 'back', pixels, widthPx, heightPx, gapPx: (ink.gapPx / film.project!.widthPx / ground.grows) * seen.pxPerFw } }
      },
      (ground, outlines) => {
        const place = pen.placeOf(ground)
        film.perform(`back ${ground.level.name}`, (f) => backFigure(place(f), { id: crypto.randomUUID(), outlines, colour: '#ffffff', opacity: 1 }))
      },
    )
  }

  return { fill, back, work: computed(() => work.value) }
}

