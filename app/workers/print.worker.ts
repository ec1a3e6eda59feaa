import { drawingsOf, placedPanels, type Panel } from '@rubato/core/document'
import { createTakeStage, moveOnBoard, opticsOf, type TakeStage } from '@rubato/core/stage'
import { PDFDocument, rgb, type PDFPage, type RGB } from 'pdf-lib'
import type { LoadedTake } from '#shared/projects'
import { withNotes } from '../viewport/printNotes'
import { frameOfWidth } from '../viewport/viewBox'
import { drawMove, MOVE, viewOf } from './printedMove'
import { layPage, paginate, pictureIn, wrapText, type Box } from '../boards/printLayout'
import { answerJobs, type Job } from './answerJobs'
import type { PrintAsk, PrintedBoards, PrintProgress } from './messages'
import { embedFonts, type Weight } from './printFonts'
import { createTakeReader } from './takeReader'
import { createThumbPainter } from './thumbPainter'

const INK = rgb(0.153, 0.141, 0.118)
const QUIET = rgb(0.42, 0.392, 0.333)
const PLUM = rgb(0.467, 0.278, 0.435)
/** Pixels a point: 160 an inch. */
const PX_PER_POINT = 160 / 72
const MOST_PX = 1600
const LINE = 1.28

answerJobs<PrintAsk, PrintedBoards, PrintProgress>(make)

interface Printed {
  readonly sequenceId: string
  readonly shotLabel: string
  readonly shotTitle: string
  readonly number: number
  readonly panel: Panel
  readonly startFrame: number
  readonly take: LoadedTake
}

async function make(ask: PrintAsk, { tell }: Job<PrintProgress>): Promise<PrintedBoards> {
  const begun = performance.now()
  const { project, choice } = ask
  const reader = createTakeReader(ask.base)
  const panels: Printed[] = []
  for (let at = 0; at < ask.shots.length; at += 50) {
    const part = ask.shots.slice(at, at + 50)
    const takes = await reader.takes(part.map((shot) => shot.takeId))
    for (const shot of part) {
      const take = takes.get(shot.takeId)
      if (take === undefined) continue
      for (const { panel, index, startFrame } of placedPanels(take.body)) {
        if (ask.only !== null && !ask.only.includes(`${shot.takeId}/${panel.id}`)) continue
        panels.push({ sequenceId: shot.sequenceId, shotLabel: shot.label, shotTitle: shot.title, number: index + 1, panel, startFrame, take })
      }
    }
    tell({ phase: 'reading', done: Math.min(ask.shots.length, at + 50), total: ask.shots.length })
  }
  if (panels.length === 0) throw new Error('There are no panels to print.')
  const optics = opticsOf(project)
  const page = layPage(choice, optics.aspect)
  const pdf = await PDFDocument.create()
  pdf.setTitle(project.title)
  pdf.setCreator('Rubato')
  const sequenceText = (id: string) => ask.sequences[id] ?? ''
  const all = [project.title, ask.dateText, ...Object.values(ask.sequences), ...panels.flatMap(({ panel, shotTitle, shotLabel }) => [panel.action, panel.dialogue, panel.notes, shotTitle, shotLabel]), '0123456789 f/·–…Page'].join('')
  const fonts = await embedFonts(pdf, all)
  const painter = createThumbPainter(optics, project.widthPx, ask.pictureBase)
  const picturePx = Math.min(MOST_PX, Math.round(page.cells[0]!.picture.width * PX_PER_POINT))
  const pages = paginate(panels, choice.perPage, choice.sequencePages)
  const size = choice.perPage === 1 ? 12 : choice.perPage === 3 ? 10 : choice.perPage === 6 ? 9 : 8

  const put = (on: PDFPage, text: string, x: number, y: number, at: number, weight: Weight, color: RGB) => {
    let left = x
    for (const run of fonts.runs(text, weight)) {
      on.drawText(run.text, { x: left, y: page.height - y - at, size: at, font: run.font, color })
      left += run.font.widthOfTextAtSize(run.text, at)
    }
  }
  const putRight = (on: PDFPage, text: string, right: number, y: number, at: number, weight: Weight, color: RGB) => put(on, text, right - fonts.measure(text, weight, at), y, at, weight, color)
  const oneLine = (text: string, width: number, at: number, weight: Weight) => wrapText(text, width, 1, (each) => fonts.measure(each, weight, at))[0] ?? ''

  // Panels of a shot follow each other.
  let staged: { readonly take: LoadedTake; readonly stage: TakeStage } | null = null
  const stageOf = (take: LoadedTake): TakeStage => (staged = staged?.take === take ? staged : { take, stage: createTakeStage(take.body, optics) }).stage
  let shown: readonly string[] = []
  let done = 0
  for (const [pageIndex, onPage] of pages.entries()) {
    const sheet = pdf.addPage([page.width, page.height])
    const sequences = [...new Set(onPage.map((each) => sequenceText(each.sequenceId)))].join(' · ')
    put(sheet, oneLine(project.title, page.header.width * 0.5, 13, 'bold'), page.header.x, page.header.y, 13, 'bold', INK)
    putRight(sheet, oneLine(sequences, page.header.width * 0.45, 10, 'plain'), page.header.x + page.header.width, page.header.y + 2, 10, 'plain', QUIET)
    sheet.drawLine({ start: { x: page.header.x, y: page.height - page.header.y - 19 }, end: { x: page.header.x + page.header.width, y: page.height - page.header.y - 19 }, thickness: 0.6, color: INK })
    put(sheet, ask.dateText, page.footer.x, page.footer.y + 6, 8, 'plain', QUIET)
    putRight(sheet, `Page ${pageIndex + 1} / ${pages.length}`, page.footer.x + page.footer.width, page.footer.y + 6, 8, 'plain', QUIET)

    const needed = [...new Set(onPage.flatMap(({ take }) => drawingsOf(take.body)))]
    if (needed.some((id) => !shown.includes(id))) {
      painter.forgetDrawings(shown)
      await reader.drawings(needed, painter.putDrawing)
      shown = needed
    }
    for (const [i, each] of onPage.entries()) {
      const cell = page.cells[i]!
      const name = `${each.shotLabel} – ${each.number}`
      const length = `${each.panel.lengthFrames} f`
      put(sheet, name, cell.label.x, cell.label.y, size + 1, 'bold', INK)
      const nameWidth = fonts.measure(name, 'bold', size + 1) + 8
      const lengthWidth = fonts.measure(length, 'plain', size)
      putRight(sheet, length, cell.label.x + cell.label.width, cell.label.y + 1, size, 'plain', INK)
      if (each.number === 1 && each.shotTitle !== '') put(sheet, oneLine(each.shotTitle, cell.label.width - nameWidth - lengthWidth - 8, size, 'plain'), cell.label.x + nameWidth, cell.label.y + 1, size, 'plain', QUIET)
      const move = choice.moves ? moveOnBoard(stageOf(each.take), each.startFrame, each.startFrame + each.panel.lengthFrames) : null
      const { picture, words: room } = move === null ? cell : pictureIn(cell, (move.window.right - move.window.left) / (move.window.top - move.window.bottom))
      const view = move === null ? frameOfWidth(picturePx, optics.aspect) : viewOf(move, Math.round(picture.width * PX_PER_POINT), optics.aspect)
      const painted = move === null ? await painter.paint(each.take.body, each.startFrame, view) : await painter.paintFrom(each.take.body, each.startFrame, move.cameraId, move.pose, view)
      const seen = stageOf(each.take).through(each.startFrame, move?.cameraId ?? stageOf(each.take).at(each.startFrame).cameraId, move?.pose)
      const canvas = choice.forPrint ? withNotes(painted, seen, view, painter.drawingOf) : painted
      const image = await pdf.embedJpg(await (await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.86 })).arrayBuffer())
      sheet.drawImage(image, { x: picture.x, y: page.height - picture.y - picture.height, width: picture.width, height: picture.height })
      sheet.drawRectangle({ x: picture.x, y: page.height - picture.y - picture.height, width: picture.width, height: picture.height, borderColor: INK, borderWidth: 0.7 })
      if (move !== null) drawMove(sheet, page.height, picture, move, (text, x, y) => put(sheet, text, x, y, 8, 'bold', MOVE))
      words(sheet, room, each.panel)
      tell({ phase: 'panels', done: ++done, total: panels.length })
    }
  }
  tell({ phase: 'closing', done, total: panels.length })
  const bytes = await pdf.save({ objectsPerTick: Infinity })
  return { file: new Blob([bytes as Uint8Array<ArrayBuffer>], { type: 'application/pdf' }), pages: pages.length, panels: panels.length, missing: [...fonts.missing].slice(0, 20).join(''), totalMs: performance.now() - begun }

  function words(sheet: PDFPage, box: Box, panel: Panel) {
    const step = size * LINE
    let left = Math.floor(box.height / step)
    let y = box.y
    const part = (text: string, weight: Weight, color: RGB, most: number) => {
      for (const line of wrapText(text, box.width, Math.min(left, most), (each) => fonts.measure(each, weight, size))) {
        put(sheet, line, box.x, y, size, weight, color)
        y += step
        left--
      }
    }
    // Dialogue always gets some of the room.
    part(panel.action, 'plain', INK, panel.dialogue === '' ? left : Math.max(1, left - 2))
    part(panel.dialogue, 'bold', PLUM, left)
    if (choice.notes) part(panel.notes, 'plain', QUIET, left)
  }
}
