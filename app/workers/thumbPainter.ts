import { compareOrdered, type Drawing, type Mark, type TakeBody } from '@rubato/core/document'
import { createTakeStage, type TakeStage } from '@rubato/core/stage'
import type { Optics } from '@rubato/core/camera'
import { ArtLibrary } from '../viewport/artLibrary'
import { createCanvasCompositor } from '../viewport/canvasCompositor'
import type { Compositor } from '../viewport/compositor'
import { compose, type Dimming, type ViewBox } from '../viewport/composition'
import { createPictureCache } from '../viewport/pictureCache'
import { forgetOutlines } from '../viewport/paint'
import { createGlCompositor } from '../viewport/glCompositor'

const RASTER_BUDGET_BYTES = 24 * 1024 * 1024
const PICTURE_BUDGET_BYTES = 32 * 1024 * 1024

/** What of a frame is painted: reference levels, and levels by `dimming`. By default all but references. */
export interface Shows {
  readonly reference: boolean
  readonly dimming: Dimming
}
const PICTURE_ALONE: Shows = { reference: false, dimming: () => 1 }

export interface ThumbPainter {
  /** A frame of a take in a view. */
  paint(take: TakeBody, frame: number, view: ViewBox, shows?: Shows): Promise<OffscreenCanvas>
  putDrawing(id: string, drawing: Drawing): void
  /** The same drawing without some marks and with others. */
  changeDrawing(id: string, dropped: readonly string[], put: readonly Mark[]): void
  drawingOf(id: string): Drawing | null
  forgetDrawings(ids: readonly string[]): void
  /** Gives back the memory of what was rastered; it is made again when it is wanted. */
  rest(): void
}

/** Paints single frames for boards and print, with the placed pictures at the size they are seen. */
export function createThumbPainter(optics: Optics, baseWidthPx: number, pictureBase: string, rasterBudgetBytes = RASTER_BUDGET_BYTES): ThumbPainter {
  const drawings = new Map<string, Drawing>()
  const stages = new WeakMap<TakeBody, TakeStage>()
  let library: ArtLibrary | null = null
  const pictures = createPictureCache(
    (hash, side) => `${pictureBase}${hash}${side === null ? '' : `?side=${side}`}`,
    (hash) => library?.forgetPicture(hash),
    PICTURE_BUDGET_BYTES,
  )
  library = new ArtLibrary(baseWidthPx, pictures.lookup, { budgetBytes: rasterBudgetBytes })
  const art = library
  // The GPU is woken only for turned levels: single small frames are sooner done without.
  let flat: Compositor | null = null
  let gl: Compositor | null = null
  return {
    async paint(take, frame, view, shows = PICTURE_ALONE) {
      const stage = stages.get(take) ?? createTakeStage(take, optics)
      stages.set(take, stage)
      art.freeAll()
      const composed = () => compose(stage.at(frame), view, art, (id) => drawings.get(id) ?? null, shows.reference, shows.dimming)
      let composition = composed()
      // A picture that can't be had is left out; the panel is still worth seeing.
      for (let tries = 0; pictures.waiting && tries < 4; tries++) {
        await pictures.settled()
        composition = composed()
      }
      const compositor = composition.turned ? (gl ??= createGlCompositor(new OffscreenCanvas(1, 1))) : (flat ??= createCanvasCompositor(new OffscreenCanvas(1, 1)))
      compositor.draw(composition, { frame: '#ffffff', surround: null }, 'exact')
      return compositor.canvas as OffscreenCanvas
    },
    putDrawing: (id, drawing) => void drawings.set(id, drawing),
    changeDrawing(id, dropped, put) {
      const known = drawings.get(id)
      if (known === undefined) return
      const gone = new Set(dropped)
      drawings.set(id, { marks: [...(gone.size === 0 ? known.marks : known.marks.filter((mark) => !gone.has(mark.id))), ...put].sort(compareOrdered) })
    },
    drawingOf: (id) => drawings.get(id) ?? null,
    forgetDrawings(ids) {
      for (const id of ids) {
        forgetOutlines(drawings.get(id)?.marks ?? [])
        drawings.delete(id)
      }
      art.forgetDrawings(ids)
    },
    rest: () => art.empty(),
  }
}
