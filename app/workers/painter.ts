import { createTakeStage, opticsOf, type ShotFrame, type StageFrame } from '@rubato/core/stage'
import { timecodeOfFrame } from '@rubato/core/time'
import { ArtLibrary } from '../viewport/artLibrary'
import { createCanvasCompositor } from '../viewport/canvasCompositor'
import { compose, samePicture, wholeFrame, type Composition } from '../viewport/composition'
import { createGlCompositor } from '../viewport/glCompositor'
import { createPictureCache } from '../viewport/pictureCache'
import { mixPictures } from '../viewport/mixPictures'
import { anyBurnIn, burnText, drawBurnIn, loadBurnFonts, type BurnText } from './burnIn'
import type { MovieRequest } from './messages'
import { moviePicture, moviePixels } from './moviePlan'

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
  const stages = new Map(shots.map(({ placed, body }) => [placed.shot.id, createTakeStage(body, optics)]))
  const canvas = new OffscreenCanvas(widthPx, heightPx)
  // One backend for the whole of an export: a change of backend must not show as a change of picture.
  const turned = [...stages.values()].some((stage) => anyTurned(stage.lengthFrames, (frame) => stage.at(frame)))
  const compositor = turned ? createGlCompositor(canvas) : createCanvasCompositor(canvas)
  const readable = () => new OffscreenCanvas(widthPx, heightPx).getContext('2d', { willReadFrequently: true })!
  const reader = turned ? readable() : null
  const burns = anyBurnIn(request.burnIn)
  if (burns) await loadBurnFonts()
  /** What is put together of several pictures, or written into; and what it is put together from. */
  let made: OffscreenCanvasRenderingContext2D | null = null
  let held: OffscreenCanvasRenderingContext2D | null = null
  let scratch: OffscreenCanvasRenderingContext2D | null = null

  const composed = ({ placed, frame }: ShotFrame): Composition => compose(stages.get(placed.shot.id)!.at(frame), wholeFrame(widthPx, heightPx), art, (id) => drawings[id] ?? null, false)
  /** A frame with all its placed pictures: composing asks for those that are not there, each at the size wanted. */
  const whole = async (of: ShotFrame): Promise<Composition> => {
    for (;;) {
      const composition = composed(of)
      if (!pictures.waiting) return composition
      const failed = await pictures.settled()
      if (failed.length > 0) throw new Error(`${failed.length === 1 ? 'A placed picture' : `${failed.length} placed pictures`} could not be loaded. Is the server running? Try again.`)
    }
  }
  const written = (filmFrame: number): BurnText | null => {
    if (!burns) return null
    // In a transition it is the shot whose time it is.
    const shot = shots.findLast(({ placed }) => placed.startFrame <= filmFrame) ?? shots[0]!
    const timecode = timecodeOfFrame(filmFrame + (project.startTimecodeFrames ?? 0), project.rate, project.dropFrame ?? false)
    return burnText(request.burnIn, timecode, shot.placed.shot.label, shot.body, filmFrame - shot.placed.startFrame)
  }

  interface Described {
    readonly compositions: readonly Composition[]
    readonly mix: Extract<ReturnType<typeof moviePicture>, { kind: 'mix' }> | null
    readonly text: BurnText | null
  }
  const describe = async (index: number): Promise<Described> => {
    const frame = request.span.start + index
    const picture = moviePicture(request, frame)
    if (picture.kind === 'shot') return { compositions: [await whole(picture.of)], mix: null, text: written(frame) }
    const compositions: Composition[] = []
    for (const of of [picture.before, picture.after]) if (of !== null) compositions.push(await whole(of))
    return { compositions, mix: picture, text: written(frame) }
  }
  const same = (a: Described, b: Described) => a.mix === null && b.mix === null && samePicture(a.compositions[0]!.signature, b.compositions[0]!.signature) && JSON.stringify(a.text) === JSON.stringify(b.text)
  const draw = (composition: Composition): OffscreenCanvas => {
    if (compositor.draw(composition, { frame: '#ffffff', surround: null }, 'exact')) reader?.drawImage(canvas, 0, 0)
    return canvas
  }
  /** The context that holds the frame when it is drawn. */
  const put = ({ compositions, mix, text }: Described): OffscreenCanvasRenderingContext2D => {
    if (mix === null && text === null) {
      draw(compositions[0]!)
      return reader ?? (canvas.getContext('2d') as OffscreenCanvasRenderingContext2D)
    }
    made ??= readable()
    if (mix === null) made.drawImage(draw(compositions[0]!), 0, 0)
    else {
      let before: OffscreenCanvas | null = null
      if (mix.before !== null) {
        held ??= readable()
        held.clearRect(0, 0, widthPx, heightPx)
        held.drawImage(draw(compositions[0]!), 0, 0)
        before = held.canvas
      }
      const after = mix.after === null ? null : draw(compositions.at(-1)!)
      mixPictures(made, before, after, mix.at.transition, mix.share, { left: 0, top: 0, width: widthPx, height: heightPx }, () => (scratch ??= readable()))
    }
    if (text !== null) drawBurnIn(made, widthPx, heightPx, text)
    return made
  }

  let last: { readonly index: number; readonly described: Described } | null = null
  return {
    async paint(index) {
      const described = await describe(index)
      const missing = described.compositions.find((composition) => composition.missing.length > 0)
      if (missing !== undefined) throw new Error(`A drawing is missing (${missing.missing[0]}). Open its shot once, then try again.`)
      const before = index === 0 ? null : last?.index === index - 1 ? last.described : await describe(index - 1)
      last = { index, described }
      if (before !== null && same(before, described)) return null
      const context = put(described)
      if (request.format !== 'png') return context.getImageData(0, 0, widthPx, heightPx).data.buffer
      const blob = await context.canvas.convertToBlob({ type: 'image/png' })
      return blob.arrayBuffer()
    },
  }
}

function anyTurned(frames: number, at: (frame: number) => StageFrame): boolean {
  for (let frame = 0; frame < frames; frame++) if (at(frame).levels.some((placed) => !placed.square)) return true
  return false
}
