import { createTakeStage, opticsOf, type StageFrame } from '@rubato/core/stage'
import { ArtLibrary } from '../viewport/artLibrary'
import { createCanvasCompositor } from '../viewport/canvasCompositor'
import { compose, samePicture, wholeFrame, type Composition } from '../viewport/composition'
import { createGlCompositor } from '../viewport/glCompositor'
import { createPictureCache } from '../viewport/pictureCache'
import type { MovieRequest } from './messages'
import { framesOfShot, moviePixels } from './moviePlan'

export interface Painter {
  /** A frame, exactly drawn, as RGBA pixels or as a PNG file; null where it is the one before. */
  paint(index: number): Promise<ArrayBuffer | null>
}

const RASTER_BUDGET_BYTES = 384 * 1024 * 1024

/** Paints frames of a request; `painters` share the memory. */
export async function createPainter(request: MovieRequest, painters: number): Promise<Painter> {
  const { project, shots, drawings } = request
  const { widthPx, heightPx } = moviePixels(request)
  let library: ArtLibrary | null = null
  const pictures = createPictureCache(
    (hash, side) => `${request.pictureBase}${hash}${side === null ? '' : `?side=${side}`}`,
    (hash) => library?.forgetPicture(hash),
  )
  library = new ArtLibrary(project.widthPx, pictures.lookup, { budgetBytes: RASTER_BUDGET_BYTES / painters })
  const art = library
  const optics = opticsOf(project)
  const stages = shots.map((shot) => createTakeStage(shot.body, optics))
  const canvas = new OffscreenCanvas(widthPx, heightPx)
  // One backend for the whole of an export: a change of backend must not show as a change of picture.
  const turned = stages.some((stage) => anyTurned(stage.lengthFrames, (frame) => stage.at(frame)))
  const compositor = turned ? createGlCompositor(canvas) : createCanvasCompositor(canvas)
  const reader = turned ? new OffscreenCanvas(widthPx, heightPx).getContext('2d', { willReadFrequently: true })! : null

  const composed = (index: number): Composition => {
    let rest = index
    for (const [i, stage] of stages.entries()) {
      const { from, to } = framesOfShot(shots[i]!)
      if (rest < to - from) return compose(stage.at(from + rest), wholeFrame(widthPx, heightPx), art, (id) => drawings[id] ?? null, false)
      rest -= to - from
    }
    throw new Error(`createPainter: there is no frame ${index}`)
  }
  /** A frame with all its placed pictures: composing asks for those that are not there, each at the size wanted. */
  const whole = async (index: number): Promise<Composition> => {
    for (;;) {
      const composition = composed(index)
      if (!pictures.waiting) return composition
      const failed = await pictures.settled()
      if (failed.length > 0) throw new Error(`${failed.length === 1 ? 'A placed picture' : `${failed.length} placed pictures`} could not be loaded. Is the server running? Try again.`)
    }
  }
  let last: { readonly index: number; readonly composition: Composition } | null = null
  return {
    async paint(index) {
      const composition = await whole(index)
      if (composition.missing.length > 0) throw new Error(`A drawing is missing (${composition.missing[0]}). Open its shot once, then try again.`)
      const before = index === 0 ? null : last?.index === index - 1 ? last.composition : await whole(index - 1)
      last = { index, composition }
      if (before !== null && samePicture(before.signature, composition.signature)) return null
      if (compositor.draw(composition, { frame: '#ffffff', surround: null }, 'exact')) reader?.drawImage(canvas, 0, 0)
      const context = reader ?? (canvas.getContext('2d') as OffscreenCanvasRenderingContext2D)
      if (request.format === 'webm') return context.getImageData(0, 0, widthPx, heightPx).data.buffer
      const blob = await context.canvas.convertToBlob({ type: 'image/png' })
      return blob.arrayBuffer()
    },
  }
}

function anyTurned(frames: number, at: (frame: number) => StageFrame): boolean {
  for (let frame = 0; frame < frames; frame++) if (at(frame).levels.some((placed) => !placed.square)) return true
  return false
}
