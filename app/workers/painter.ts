import { packLayers, type PackedLayer } from '@rubato/core/interchange'
import { createTakeStage, opticsOf, viewsOf, type StageFrame, type ShownMix, type ShownView, type TakeStage } from '@rubato/core/stage'
import { timecodeOfFrame } from '@rubato/core/time'
import { ArtLibrary } from '../viewport/artLibrary'
import { createCanvasCompositor } from '../viewport/canvasCompositor'
import { compose, composed as together, samePicture, wholeFrame, type ComposedLevel, type Composition } from '../viewport/composition'
import type { Background } from '../viewport/compositor'
import { wakeGl } from '../viewport/wakeGl'
import { AIR } from '../viewport/levelAir'
import { SILHOUETTE } from '../viewport/looks'
import { createPictureCache } from '../viewport/pictureCache'
import { createMixTable, mixShown } from '../viewport/mixPictures'
import { anyBurnIn, burnText, loadBurnFonts, type BurnText } from './burnIn'
import { drawCard, drawDressed, drawSlate, isDressed, slateLines, slateOf } from './dress'
import { formatOf } from './formats'
import type { MovieRequest } from './messages'
import { picturePixels } from '#shared/renders'
import { moviePixels, movieShown } from './moviePlan'

export interface Painter {
  /** A frame, exactly drawn, as RGBA pixels or as a PNG file; null where it is the one before. */
  paint(index: number): Promise<ArrayBuffer | null>
}

const RASTER_BUDGET_BYTES = 384 * 1024 * 1024

/** Paints frames of a request; `painters` share the memory. */
export async function createPainter(request: MovieRequest, painters: number): Promise<Painter> {
  const { project, shots, drawings } = request
  const { widthPx, heightPx } = picturePixels(request)
  const out = moviePixels(request)
  const { dress, lead, fileSpan } = request
  const depth = request.depth ?? null
  const format = formatOf(request.format)
  const framesAs = format.needs === 'frames' ? format.frame : 'pixels'
  const clear = request.clear === true || framesAs === 'layers'
  const background: Background = { frame: depth !== null ? '#000000' : clear ? null : '#ffffff', surround: null }
  let library: ArtLibrary | null = null
  const pictures = createPictureCache(
    (hash, side) => `${request.pictureBase}${hash}${side === null ? '' : `?side=${side}`}`,
    (hash) => library?.forgetPicture(hash),
  )
  library = new ArtLibrary(project.widthPx, pictures.lookup, { budgetBytes: RASTER_BUDGET_BYTES / painters })
  const art = library
  const optics = opticsOf(project)
  const stages = new Map(shots.map(({ placed, body }) => [placed.shot.circledTakeId, createTakeStage(body, optics)]))
  const stageOf = (takeId: string) => stages.get(takeId) ?? null
  const canvas = new OffscreenCanvas(widthPx, heightPx)
  // One backend for the whole of an export: a change of backend must not show as a change of picture.
  const compositor = ([...stages.values()].some(anyTurned) ? await wakeGl(canvas) : null) ?? createCanvasCompositor(canvas, clear)
  const readable = () => new OffscreenCanvas(widthPx, heightPx).getContext('2d', { willReadFrequently: true })!
  const reader = compositor.kind === 'gl' ? readable() : null
  const burns = anyBurnIn(request.burnIn)
  const dressed = burns || isDressed(dress)
  if (dressed || lead > 0) await loadBurnFonts()
  /** What is handed over, where that is not the picture alone. */
  let whole2D: OffscreenCanvasRenderingContext2D | null = null
  const outside = () => (whole2D ??= new OffscreenCanvas(out.widthPx, out.heightPx).getContext('2d', { willReadFrequently: true })!)
  let aside: OffscreenCanvasRenderingContext2D | null = null
  /** What is put together of several pictures, or written into. */
  let made: OffscreenCanvasRenderingContext2D | null = null
  const [held, mixed] = [createMixTable(readable), createMixTable(readable)]

  const looking = depth === null ? undefined : () => SILHOUETTE
  const air = depth === null ? AIR : ({ kind: 'depth', range: depth } as const)
  const composed = ({ takeId, frame, cameraId }: ShownView): Composition =>
    compose(stages.get(takeId)!.through(frame, cameraId), wholeFrame(widthPx, heightPx), art, (id) => drawings[id] ?? null, false, undefined, looking, air)
  /** A frame with all its placed pictures: composing asks for those that are not there, each at the size wanted. */
  const whole = async (of: ShownView): Promise<Composition> => {
    for (;;) {
      const composition = composed(of)
      if (!pictures.waiting) return composition
      const failed = await pictures.settled()
      if (failed.length > 0) throw new Error(`${failed.length === 1 ? 'A placed picture' : `${failed.length} placed pictures`} could not be loaded. Is the server running? Try again.`)
    }
  }
  const alone = shots.find(({ placed }) => placed.shot.id === request.alone)
  const written = (frame: number): BurnText | null => {
    if (!burns) return null
    const filmFrame = frame + (alone?.placed.startFrame ?? 0)
    // In a transition it is the shot whose time it is.
    const shot = alone ?? shots.findLast(({ placed }) => placed.startFrame <= filmFrame) ?? shots[0]!
    const timecode = timecodeOfFrame(filmFrame + (project.startTimecodeFrames ?? 0), project.rate, project.dropFrame ?? false)
    return burnText(request.burnIn, { timecode, label: shot.placed.shot.label, take: shot.letter, said: request.said }, shot.body, filmFrame - shot.placed.startFrame)
  }

  interface Described {
    readonly compositions: ReadonlyMap<ShownView, Composition>
    readonly mix: ShownMix | null
    readonly text: BurnText | null
  }
  const describe = async (index: number): Promise<Described> => {
    const frame = request.span.start + index - lead
    const shown = movieShown(request, frame, stageOf)
    const compositions = new Map<ShownView, Composition>()
    for (const view of viewsOf(shown)) compositions.set(view, await whole(view))
    return { compositions, mix: shown.kind === 'mix' ? shown : null, text: written(frame) }
  }
  const only = ({ compositions }: Described) => compositions.values().next().value!
  const same = (a: Described, b: Described) => a.mix === null && b.mix === null && samePicture(only(a).signature, only(b).signature) && JSON.stringify(a.text) === JSON.stringify(b.text)
  const draw = (composition: Composition): OffscreenCanvas => {
    if (compositor.draw(composition, background, 'exact') && reader !== null) {
      if (clear) reader.clearRect(0, 0, widthPx, heightPx)
      reader.drawImage(canvas, 0, 0)
    }
    return canvas
  }
  /** The context that holds the frame when it is drawn. */
  const put = (described: Described): OffscreenCanvasRenderingContext2D => {
    const { compositions, mix } = described
    if (mix === null) {
      draw(only(described))
      return reader ?? (canvas.getContext('2d') as OffscreenCanvasRenderingContext2D)
    }
    made ??= readable()
    if (clear) made.clearRect(0, 0, widthPx, heightPx)
    for (const table of [held, mixed]) table.begin(widthPx, heightPx)
    const pictures = new Map<ShownView, OffscreenCanvas>()
    for (const [view, composition] of compositions) {
      const kept = held.next()
      kept.clearRect(0, 0, widthPx, heightPx)
      kept.drawImage(draw(composition), 0, 0)
      pictures.set(view, kept.canvas as OffscreenCanvas)
    }
    mixShown(mix, (view) => pictures.get(view)!, { left: 0, top: 0, width: widthPx, height: heightPx }, made, mixed)
    return made
  }

  const slateShot = alone === undefined ? null : { label: alone.placed.shot.label, letter: alone.letter }
  /** What stands before the first frame: the slate, then the card. */
  const before = (index: number): OffscreenCanvasRenderingContext2D => {
    const to = outside()
    if (index < dress.slate) drawSlate(to, out, slateLines(project, slateOf(fileSpan, slateShot), fileSpan.end - fileSpan.start, out, request.said))
    else drawCard(to, out, dress.card.text)
    return to
  }
  const finished = (described: Described): OffscreenCanvasRenderingContext2D => {
    const picture = put(described)
    if (!dressed) return picture
    drawDressed(outside(), picture.canvas, out, dress, request.burnIn, described.text ?? {}, () => (aside ??= readable()), request.clear === true)
    return outside()
  }

  const layersBefore = new Map<string, { readonly signature: Composition['signature']; readonly png: Uint8Array }>()
  let last: { readonly index: number; readonly described: Described } | null = null
  return {
    async paint(index) {
      if (index < lead) return index === 0 || index === dress.slate ? handedOn(before(index)) : null
      const described = await describe(index)
      const missing = [...described.compositions.values()].find((composition) => composition.missing.length > 0)
      if (missing !== undefined) throw new Error(`A drawing is missing (${missing.missing[0]}). Open its shot once, then try again.`)
      const previous = index === lead ? null : last?.index === index - 1 ? last.described : await describe(index - 1)
      last = { index, described }
      if (previous !== null && same(previous, described)) return null
      return framesAs === 'layers' ? layersOf(request.span.start + index) : handedOn(finished(described))
    },
  }

  /** What each level, and each shadow, is by itself; one that is as it was a frame ago is not painted again. */
  async function layersOf(frame: number): Promise<ArrayBuffer> {
    const { circledTakeId } = alone!.placed.shot
    const stage = stages.get(circledTakeId)!.through(frame, stages.get(circledTakeId)!.live.at(Math.min(alone!.placed.lengthFrames - 1, Math.max(0, frame))))
    const view = wholeFrame(widthPx, heightPx)
    const seen = (of: StageFrame) => compose(of, view, art, (id) => drawings[id] ?? null, false).levels
    const all = seen(stage)
    const shadows = new Set(stage.shadows.length === 0 ? [] : seen({ ...stage, levels: [] }).map(({ levelId, raster }) => `${levelId} ${raster.version}`))
    const keyOf = ({ levelId, raster }: ComposedLevel) => (shadows.has(`${levelId} ${raster.version}`) ? `shadow ${levelId}` : `level ${levelId}`)
    const packed: PackedLayer[] = []
    for (const key of new Set(all.map(keyOf))) {
      const parts = all.filter((each) => keyOf(each) === key)
      const composition = together(view, parts)
      const id = parts[0]!.levelId
      const placed = (key.startsWith('shadow') ? stage.shadows : stage.levels).find(({ level }) => level.id === id)!
      const box = request.trim === true ? boxOf(parts) : { left: 0, top: 0, width: widthPx, height: heightPx }
      if (box === null) continue
      const before = layersBefore.get(key)
      const png = before !== undefined && samePicture(before.signature, composition.signature) ? before.png : await pngOf(composition, box)
      layersBefore.set(key, { signature: composition.signature, png })
      const [first, last] = [all.indexOf(parts[0]!), all.indexOf(parts.at(-1)!)]
      const kind = key.startsWith('shadow') ? 'shadow' : 'level'
      packed.push({ id, name: placed.level.name, kind, order: packed.length, depthFw: placed.z, opacity: placed.opacity, isCut: last - first + 1 > parts.length, box, png })
    }
    return packLayers(packed).buffer
  }
  /** What is drawn reaches no farther, px; null where nothing is in the frame. */
  function boxOf(parts: readonly ComposedLevel[]) {
    const corners = parts.flatMap(({ reach }) => reach)
    // Behind the lens there is no telling.
    if (corners.some(([, , w]) => w <= 0)) return { left: 0, top: 0, width: widthPx, height: heightPx }
    const [xs, ys] = [corners.map(([x, , w]) => x / w), corners.map(([, y, w]) => y / w)]
    const [left, top] = [Math.max(0, Math.floor(Math.min(...xs))), Math.max(0, Math.floor(Math.min(...ys)))]
    const [right, bottom] = [Math.min(widthPx, Math.ceil(Math.max(...xs))), Math.min(heightPx, Math.ceil(Math.max(...ys)))]
    return right <= left || bottom <= top ? null : { left, top, width: right - left, height: bottom - top }
  }
  async function pngOf(composition: Composition, box: { readonly left: number; readonly top: number; readonly width: number; readonly height: number }): Promise<Uint8Array> {
    draw(composition)
    const cut = new OffscreenCanvas(box.width, box.height)
    cut.getContext('2d')!.drawImage(canvas, -box.left, -box.top)
    return new Uint8Array(await (await cut.convertToBlob({ type: 'image/png' })).arrayBuffer())
  }

  async function handedOn(context: OffscreenCanvasRenderingContext2D): Promise<ArrayBuffer> {
    if (framesAs === 'pixels') return context.getImageData(0, 0, out.widthPx, out.heightPx).data.buffer
    const blob = await context.canvas.convertToBlob({ type: 'image/png' })
    return blob.arrayBuffer()
  }
}

function anyTurned(stage: TakeStage): boolean {
  const cameras = new Set(stage.live.spans.map((span) => span.cameraId))
  // One that dissolves is seen before it is live, and after.
  for (const cameraId of cameras.size === 0 ? [null] : cameras) for (let frame = 0; frame < stage.lengthFrames; frame++) if (((at) => at.levels.some((placed) => !placed.square) || at.shadows.some((placed) => !placed.square))(stage.through(frame, cameraId))) return true
  return false
}
