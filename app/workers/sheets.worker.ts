import { backgroundSheet, needsOfTake, neededOf, seenRings, sheetSvg, SIDES, sightOf, takeForDrawings, togetherSheet, togetherWindow, type ArtNeed, type PieceOnSheet, type SheetPage } from '@rubato/core/checks'
import type { Drawing, TakeBody } from '@rubato/core/document'
import { heightOf, widthOf } from '@rubato/core/geometry'
import { createTakeStage, placedLevel } from '@rubato/core/stage'
import { strToU8, zipSync } from 'fflate'
import { PDFDocument, rgb, type PDFImage } from 'pdf-lib'
import { frameOfWidth, type ViewBox } from '../viewport/viewBox'
import { answerJobs, type Job } from './answerJobs'
import type { MadeSheets, SheetsAsk, SheetsProgress } from './messages'
import { drawingPicture } from './drawingPicture'
import { paintLayers } from './paintLayers'
import { dataUrl } from './dataUrl'
import { embedFonts } from './printFonts'
import { createThumbPainter } from './thumbPainter'

/** Of a picture on a page, px. */
const PICTURE_PX = 720
const ROUGH_PX = 2_000_000
const PAINT_ROUGH_PX = 12_000_000
type Pictures = ReadonlyMap<string, Blob>
interface Made {
  readonly name: string
  readonly page: SheetPage
  readonly pictures: Pictures
}

answerJobs<SheetsAsk, MadeSheets, SheetsProgress>(make)

async function make(ask: SheetsAsk, { tell, signal }: Job<SheetsProgress>): Promise<MadeSheets> {
  const total = ask.levels.length + (ask.setName === null || ask.as === 'ora' ? 0 : 1)
  const painter = createThumbPainter(ask.optics, ask.widthPx, ask.pictureBase)
  for (const [id, drawing] of ask.drawings) painter.putDrawing(id, drawing)
  const hints = new Map(ask.levels.flatMap(({ drawings }) => drawings.map((drawing) => [drawing.id, drawing] as const)))
  const ids = new Set(hints.keys())
  const open = ask.takes[0]!
  const stages = new Map(ask.takes.map(({ takeId, take, beyond }) => [takeId, createTakeStage(takeForDrawings(take, ids), ask.optics, beyond)]))
  const parts = ask.takes.map(({ takeId }) => needsOfTake(stages.get(takeId)!, takeId, hints, ask.margin))
  const labels = new Map(ask.takes.map(({ takeId, label }) => [takeId, label]))
  const labelOf = (takeId: string, cameraId: string | null, take: TakeBody) => `${labels.get(takeId) ?? ''}${cameraId === null ? '' : ` ${take.cameras[cameraId]?.letter ?? ''}`}`.trim()
  const words = (title: string, about: string) => ({ title, film: ask.film, date: ask.dateText, about })
  const made: Made[] = []
  const unseen: string[] = []
  const pieces: (PieceOnSheet & { readonly id: string })[] = []
  let done = 0
  const step = async () => {
    tell({ done: ++done, total })
    await new Promise((resolve) => setTimeout(resolve))
    signal.throwIfAborted()
  }

  if (ask.as === 'ora') return { ...(await asLayers()), pages: 1 }
  for (const level of ask.levels) {
    const need = neededOf(level.drawings.map(({ id }) => id), parts)
    if (need === null) unseen.push(level.name)
    else {
      pieces.push({ id: level.id, name: level.name, need, rings: [] })
      made.push(await one(level, need))
    }
    await step()
  }
  if (ask.setName !== null && pieces.length > 0) {
    made.unshift(await together())
    await step()
  }
  if (made.length === 0) throw new Error('No shot sees any of these levels, so there is nothing to lay out.')
  return { ...(ask.as === 'pdf' ? { file: await asPdf(made), extension: 'pdf' as const } : await asSvg(made)), pages: made.length, canvas: null, unseen }

  async function one(level: SheetsAsk['levels'][number], need: ArtNeed): Promise<Made> {
    const sights = sightsOf(need)
    const pictures = new Map<string, Blob>()
    const drawing = level.rough === null ? null : painter.drawingOf(level.rough)
    const rough = drawing === null ? null : await roughOf(level.rough!, drawing)
    if (rough !== null) pictures.set('rough', rough.picture)
    // How it looks in the shot, where that is largest.
    const own = need.seen.filter(({ takeId }) => takeId === open.takeId)
    const closest = own.length === 0 ? null : own.reduce((best, each) => (each.magnification > best.magnification ? each : best))
    if (closest !== null) pictures.set('panel', await jpegOf(await painter.paint(open.take, closest.closestFrame, frameOfWidth(PICTURE_PX, ask.optics.aspect))))
    const about = need.owed.length === SIDES.length ? 'Has to fill the frame' : need.owed.length === 0 ? 'Stands in the picture' : `Past the frame at ${need.owed.join(', ')}`
    return { name: level.name, pictures, page: backgroundSheet({ paper: ask.paper, words: words(level.name, `${about}${need.isEndless ? '; goes on to the horizon' : ''}`), need, margin: ask.margin, widthPx: ask.widthPx, fps: ask.fps, sights, rough: rough?.bounds ?? null, laid: level.laid, panelAspect: closest === null ? null : ask.optics.aspect }) }
  }

  async function together(): Promise<Made> {
    const seen = pieces.flatMap(({ need }) => need.seen.filter(({ takeId }) => takeId === open.takeId))
    const at = seen.reduce((first, each) => (each.first < first.first ? each : first), seen[0] ?? { first: 0, cameraId: null, takeId: open.takeId })
    const view = stages.get(open.takeId)!.through(at.first, at.cameraId)
    const shown = pieces.map((piece) => {
      const placed = placedLevel(view, piece.id)
      return { ...piece, rings: placed === null ? [] : seenRings(view.lens, placed.plane, piece.need).map((ring) => [...ring]) }
    })
    const { halfHeight } = view.lens
    const window = togetherWindow(shown, halfHeight)
    const pxPerFw = Math.min(1400 / widthOf(window), 1400 / heightOf(window))
    const box: ViewBox = { widthPx: Math.round(widthOf(window) * pxPerFw), heightPx: Math.round(heightOf(window) * pxPerFw), frameLeftPx: (-0.5 - window.left) * pxPerFw, frameTopPx: (window.top - halfHeight) * pxPerFw, frameWidthPx: pxPerFw }
    const picture = await jpegOf(await painter.paint(open.take, at.first, box))
    const page = togetherSheet({ paper: ask.paper, words: words(ask.setName!, `A set of ${pieces.length}`), pieces: shown, widthPx: ask.widthPx, halfHeight, seenFrom: `${labelOf(open.takeId, at.cameraId, open.take)} · f ${at.first}`, window })
    return { name: ask.setName!, page, pictures: new Map([['together', picture]]) }
  }

  function sightsOf(need: ArtNeed) {
    return need.seen.map((seen) => sightOf(stages.get(seen.takeId)!, labelOf(seen.takeId, seen.cameraId, stages.get(seen.takeId)!.take), seen))
  }

  async function asLayers(): Promise<Omit<MadeSheets, 'pages'>> {
    const view = createTakeStage(open.take, ask.optics).at(ask.frame)
    const found = ask.levels.flatMap((level) => ((need) => (need === null ? [] : [{ level, need }]))(neededOf(level.drawings.map(({ id }) => id), parts)))
    if (found.length === 0) throw new Error('No shot sees any of these levels, so there is nothing to lay out.')
    // As they lie over each other in the picture, nearest first.
    const rank = new Map(view.levels.map(({ level }, i) => [level.id, i]))
    found.sort((a, b) => (rank.get(b.level.id) ?? -1) - (rank.get(a.level.id) ?? -1))
    const layers = await paintLayers(
      found.map(({ level, need }) => {
        const placed = placedLevel(view, level.id)
        return {
          ...level,
          need,
          sights: sightsOf(need),
          stands: placed === null ? null : { lens: view.lens, plane: placed.plane, size: placed.size },
          drawings: level.drawings.map(({ id }, i) => ({ id, name: level.drawingNames[i]!, isShown: id === level.rough, rough: async () => ((drawing) => (drawing === null ? null : roughOf(id, drawing, PAINT_ROUGH_PX)))(painter.drawingOf(id)) })),
        }
      }),
      ask.widthPx,
      ask.fps,
      step,
    )
    return { ...layers, extension: 'ora', unseen: ask.levels.filter((level) => !found.some((each) => each.level === level)).map(({ name }) => name) }
  }

  function roughOf(id: string, drawing: Drawing, mostPx = ROUGH_PX) {
    return drawingPicture(id, drawing, ask.widthPx, ask.pictureBase, mostPx)
  }
}

const jpegOf = (canvas: OffscreenCanvas) => canvas.convertToBlob({ type: 'image/jpeg', quality: 0.88 })

async function asSvg(made: readonly Made[]): Promise<Pick<MadeSheets, 'file' | 'extension'>> {
  const files = await Promise.all(made.map(async ({ name, page, pictures }) => [name, sheetSvg(page, new Map(await Promise.all([...pictures].map(async ([each, blob]) => [each, await dataUrl(blob)] as const))))] as const))
  if (files.length === 1) return { file: new Blob([files[0]![1]], { type: 'image/svg+xml' }), extension: 'svg' }
  const entries = Object.fromEntries(files.map(([name, svg], i) => [`${String(i + 1).padStart(2, '0')} ${name.replaceAll(/[^\p{L}\p{N} ._-]/gu, '')}.svg`, strToU8(svg)]))
  return { file: new Blob([zipSync(entries) as Uint8Array<ArrayBuffer>], { type: 'application/zip' }), extension: 'zip' }
}

const colourOf = (hex: string) => rgb(...([1, 3, 5].map((at) => Number.parseInt(hex.slice(at, at + 2), 16) / 255) as [number, number, number]))

async function asPdf(made: readonly Made[]): Promise<Blob> {
  const pdf = await PDFDocument.create()
  pdf.setCreator('Rubato')
  pdf.setTitle(made[0]!.name)
  const fonts = await embedFonts(pdf, made.flatMap(({ page }) => page.marks.flatMap((mark) => (mark.kind === 'text' ? [mark.text] : []))).join(''))
  for (const { page, pictures } of made) {
    const on = pdf.addPage([page.width, page.height])
    const images = new Map<string, PDFImage>()
    for (const [name, blob] of pictures) images.set(name, blob.type === 'image/png' ? await pdf.embedPng(await blob.arrayBuffer()) : await pdf.embedJpg(await blob.arrayBuffer()))
    for (const mark of page.marks) {
      if (mark.kind === 'picture') {
        const image = images.get(mark.name)
        if (image !== undefined) on.drawImage(image, { x: mark.x, y: page.height - mark.y - mark.height, width: mark.width, height: mark.height, opacity: mark.opacity })
      } else if (mark.kind === 'text') {
        const weight = mark.bold ? 'bold' : 'plain'
        let x = mark.x - (mark.anchor === 'start' ? 0 : fonts.measure(mark.text, weight, mark.size) / (mark.anchor === 'middle' ? 2 : 1))
        for (const run of fonts.runs(mark.text, weight)) {
          on.drawText(run.text, { x, y: page.height - mark.y, size: mark.size, font: run.font, color: colourOf(mark.colour) })
          x += run.font.widthOfTextAtSize(run.text, mark.size)
        }
      } else {
        // Its own y goes down, as the page's here does.
        const d = mark.rings.map((ring) => ring.map((value, i) => `${i === 0 ? 'M' : i % 2 === 0 ? 'L' : ' '}${value.toFixed(3)}`).join('') + (mark.closed ? 'Z' : '')).join('')
        on.drawSvgPath(d, { x: 0, y: page.height, borderColor: colourOf(mark.stroke), borderWidth: mark.width, ...(mark.dash === undefined ? {} : { borderDashArray: [...mark.dash] }) })
      }
    }
  }
  return new Blob([(await pdf.save({ objectsPerTick: Infinity })) as Uint8Array<ArrayBuffer>], { type: 'application/pdf' })
}
