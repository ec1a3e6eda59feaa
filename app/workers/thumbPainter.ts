import { compareOrdered, type Drawing, type Mark, type TakeBody } from '@rubato/core/document'
import { createTakeStage, type TakeStage } from '@rubato/core/stage'
import type { Optics } from '@rubato/core/camera'
import { ArtLibrary } from '../viewport/artLibrary'
import { createCanvasCompositor } from '../viewport/canvasCompositor'
import type { Compositor } from '../viewport/compositor'
import { compose, wholeFrame } from '../viewport/composition'
import { createPictureCache } from '../viewport/pictureCache'
import { createGlCompositor } from '../viewport/glCompositor'

const RASTER_BUDGET_BYTES = 48 * 1024 * 1024
const PICTURE_BUDGET_BYTES = 32 * 1024 * 1024

export interface ThumbPainter {
  /** A frame of a take, `widthPx` wide; reference levels are left out. */
  paint(take: TakeBody, frame: number, widthPx: number): Promise<OffscreenCanvas>
  putDrawing(id: string, drawing: Drawing): void
  /** The same drawing without some marks and with others. */
  changeDrawing(id: string, dropped: readonly string[], put: readonly Mark[]): void
  forgetDrawings(): void
}

/** Paints single frames for boards and print, with the placed pictures at the size they are seen. */
export function createThumbPainter(optics: Optics, baseWidthPx: number, pictureBase: string): ThumbPainter {
  const drawings = new Map<string, Drawing>()
  const stages = new WeakMap<TakeBody, TakeStage>()
  let library: ArtLibrary | null = null
  const pictures = createPictureCache(
    (hash, side) => `${pictureBase}${hash}${side === null ? '' : `?side=${side}`}`,
    (hash) => library?.forgetPicture(hash),
    PICTURE_BUDGET_BYTES,
  )
  library = new ArtLibrary(baseWidthPx, pictures.lookup, { budgetBytes: RASTER_BUDGET_BYTES })
  const art = library
  // The GPU is woken only for turned levels: single small frames are sooner done without.
  let flat: Compositor | null = null
  let gl: Compositor | null = null
  return {
    async paint(take, frame, widthPx) {
      const stage = stages.get(take) ?? createTakeStage(take, optics)
      stages.set(take, stage)
      const box = wholeFrame(widthPx, Math.round(widthPx / optics.aspect))
      let composition = compose(stage.at(frame), box, art, (id) => drawings.get(id) ?? null, false)
      // A picture that can't be had is left out; the panel is still worth seeing.
      for (let tries = 0; pictures.waiting && tries < 4; tries++) {
        await pictures.settled()
        composition = compose(stage.at(frame), box, art, (id) => drawings.get(id) ?? null, false)
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
    forgetDrawings: () => drawings.clear(),
  }
}
