import { compareOrdered, type Drawing, type Mark, type TakeBody } from '@rubato/core/document'
import { createTakeStage, mapShown, shownInTake, viewsOf, type Shown, type StageFrame, type TakeStage } from '@rubato/core/stage'
import type { CameraPose, Optics } from '@rubato/core/camera'
import { ArtLibrary } from '../viewport/artLibrary'
import { createCanvasCompositor } from '../viewport/canvasCompositor'
import type { Background, Compositor } from '../viewport/compositor'
import { compose, type Composition, type ViewBox } from '../viewport/composition'
import { createMixTable, frameBoxOf, mixShown } from '../viewport/mixPictures'
import { createPictureCache } from '../viewport/pictureCache'
import { forgetOutlines, paintMarks } from '../viewport/paint'
import { mayWakeGl, wakeGl } from '../viewport/wakeGl'

const RASTER_BUDGET_BYTES = 24 * 1024 * 1024
const PICTURE_BUDGET_BYTES = 32 * 1024 * 1024

/** What one camera of a take sees at a frame; `muted` levels are left out. */
export interface PaintedView {
  readonly take: TakeBody
  readonly frame: number
  readonly cameraId: string | null
  readonly muted: ReadonlySet<string>
  /** In the place of the camera's own. */
  readonly pose?: CameraPose
}
const NONE: ReadonlySet<string> = new Set()

export interface DrawingPlaced {
  readonly left: number
  readonly top: number
  readonly pxPerFw: number
  readonly widthPx: number
  readonly heightPx: number
}

export interface ThumbPainter {
  /** What the film shows of a take at a frame, in a view, without reference levels. */
  paint(take: TakeBody, frame: number, view: ViewBox): Promise<OffscreenCanvas>
  /** From a pose of one's own, without reference levels. */
  paintFrom(take: TakeBody, frame: number, cameraId: string | null, pose: CameraPose, view: ViewBox): Promise<OffscreenCanvas>
  /** Any views and mixes of them, with reference levels. */
  paintShown(shown: Shown<PaintedView>, view: ViewBox): Promise<OffscreenCanvas>
  /** What stands in a frame, on nothing. */
  paintAlone(frame: StageFrame, view: ViewBox): Promise<OffscreenCanvas>
  /** A drawing by itself, on nothing, its point (left, top) in the corner. */
  paintDrawing(drawing: Drawing, place: DrawingPlaced): Promise<OffscreenCanvas>
  putDrawing(id: string, drawing: Drawing): void
  /** The same drawing without some marks and with others. */
  changeDrawing(id: string, dropped: readonly string[], put: readonly Mark[]): void
  drawingOf(id: string): Drawing | null
  forgetDrawings(ids: readonly string[]): void
  /** Gives back the memory of what was rastered; it is made again when it is wanted. */
  rest(): void
  /** For good; when nothing is being painted. */
  end(): void
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
  let clear: Compositor | null = null
  const context = () => new OffscreenCanvas(1, 1).getContext('2d')!
  const [held, mixed] = [createMixTable(context), createMixTable(context)]

  function stageOf(take: TakeBody): TakeStage {
    const stage = stages.get(take) ?? createTakeStage(take, optics)
    stages.set(take, stage)
    return stage
  }

  /** With its pictures. One that can't be had is left out; the panel is still worth seeing. */
  async function settled<T>(make: () => T): Promise<T> {
    let made = make()
    for (let tries = 0; pictures.waiting && tries < 4; tries++) {
      await pictures.settled()
      made = make()
    }
    return made
  }

  async function draw(make: () => Composition, in2D: () => Compositor, background: Background): Promise<OffscreenCanvas> {
    art.freeAll()
    let composition = await settled(make)
    if (composition.turned && gl === null && mayWakeGl()) {
      gl = await wakeGl(new OffscreenCanvas(1, 1))
      // Something else may have been painted meanwhile, and taken the art's room.
      art.freeAll()
      composition = await settled(make)
    }
    const compositor = (composition.turned ? gl : null) ?? in2D()
    compositor.draw(composition, background, 'exact')
    return compositor.canvas as OffscreenCanvas
  }

  async function paintView({ take, frame, cameraId, muted, pose }: PaintedView, view: ViewBox, reference: boolean): Promise<OffscreenCanvas> {
    const stage = stageOf(take)
    return draw(
      () => compose(stage.through(frame, cameraId, pose), view, art, (id) => drawings.get(id) ?? null, reference, (placed) => (muted.has(placed.level.id) ? 0 : 1)),
      () => (flat ??= createCanvasCompositor(new OffscreenCanvas(1, 1))),
      { frame: '#ffffff', surround: null },
    )
  }

  async function paint(shown: Shown<PaintedView>, view: ViewBox, reference: boolean): Promise<OffscreenCanvas> {
    if (shown.kind === 'view') return paintView(shown, view, reference)
    for (const table of [held, mixed]) table.begin(view.widthPx, view.heightPx)
    const painted = new Map<PaintedView, OffscreenCanvas>()
    for (const each of viewsOf(shown)) {
      const picture = await paintView(each, view, reference)
      // The next view is painted on the same canvas.
      const kept = held.next()
      kept.globalCompositeOperation = 'copy'
      kept.drawImage(picture, 0, 0)
      painted.set(each, kept.canvas as OffscreenCanvas)
    }
    const into = mixed.next()
    mixShown(shown, (each) => painted.get(each)!, frameBoxOf(view, optics.aspect), into, mixed)
    return into.canvas as OffscreenCanvas
  }

  return {
    paint: (take, frame, view) => paint(mapShown(shownInTake('', frame, stageOf(take)), (each) => ({ take, frame: each.frame, cameraId: each.cameraId, muted: NONE })), view, false),
    paintFrom: (take, frame, cameraId, pose, view) => paintView({ take, frame, cameraId, pose, muted: NONE }, view, false),
    paintAlone: (frame, view) =>
      draw(
        () => compose(frame, view, art, (id) => drawings.get(id) ?? null, true),
        () => (clear ??= createCanvasCompositor(new OffscreenCanvas(1, 1), true)),
        { frame: null, surround: null },
      ),
    async paintDrawing(drawing, { left, top, pxPerFw, widthPx, heightPx }) {
      const canvas = new OffscreenCanvas(widthPx, heightPx)
      const context = canvas.getContext('2d', { willReadFrequently: true })
      if (context === null) throw new Error(`a canvas of ${widthPx} × ${heightPx} px could not be made`)
      await settled(() => {
        context.clearRect(0, 0, widthPx, heightPx)
        paintMarks(context, drawing.marks, pxPerFw, left, top, 0, pictures.lookup)
      })
      forgetOutlines(drawing.marks)
      return canvas
    },
    paintShown: (shown, view) => paint(shown, view, true),
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
    end() {
      for (const { marks } of drawings.values()) forgetOutlines(marks)
      art.empty()
      pictures.empty()
      for (const each of [flat, gl, clear]) each?.dispose()
      for (const table of [held, mixed]) table.end()
    },
  }
}
