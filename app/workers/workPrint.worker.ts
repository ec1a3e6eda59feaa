import { drawingsOf } from '@rubato/core/document'
import { opticsOf } from '@rubato/core/stage'
import { PDFDocument, rgb, type PDFPage } from 'pdf-lib'
import { wrapText } from '../boards/printLayout'
import { frameOfWidth } from '../viewport/viewBox'
import { answerJobs, type Job } from './answerJobs'
import type { PrintedWork, WorkPrintAsk, WorkPrintProgress } from './messages'
import { embedFonts, type Weight } from './printFonts'
import { createTakeReader } from './takeReader'
import { createThumbPainter } from './thumbPainter'

const INK = rgb(0.153, 0.141, 0.118)
const QUIET = rgb(0.42, 0.392, 0.333)
const RULE = rgb(0.8, 0.77, 0.7)
/** A4, lying: points. */
const PAGE = { width: 841.89, height: 595.28, margin: 30, head: 44, foot: 18 }
const ROW = 34
const PICTURE = { width: 52, px: 160 }
const SIZE = 7.5
const TAKES_AT_ONCE = 40

answerJobs<WorkPrintAsk, PrintedWork, WorkPrintProgress>(make)

async function make(ask: WorkPrintAsk, { tell, signal }: Job<WorkPrintProgress>): Promise<PrintedWork> {
  const { project, rows, columns } = ask
  const optics = opticsOf(project)
  const pdf = await PDFDocument.create()
  pdf.setTitle(`${project.title}: ${ask.heading}`)
  pdf.setCreator('Rubato')
  const fonts = await embedFonts(pdf, [project.title, ask.heading, ask.dateText, ...columns.map(({ name }) => name), ...rows.flatMap(({ cells, group }) => [group ?? '', ...cells.flat()]), '0123456789 /…Page'].join(''))
  const reader = createTakeReader(ask.base)
  const painter = createThumbPainter(optics, project.widthPx, ask.pictureBase)
  const room = PAGE.width - 2 * PAGE.margin - PICTURE.width - 8
  const share = room / columns.reduce((sum, { width }) => sum + width, 0)

  const put = (on: PDFPage, text: string, x: number, y: number, size: number, weight: Weight, color = INK) => {
    let left = x
    for (const run of fonts.runs(text, weight)) {
      on.drawText(run.text, { x: left, y: PAGE.height - y - size, size, font: run.font, color })
      left += run.font.widthOfTextAtSize(run.text, size)
    }
  }
  const lines = (text: string, width: number, most: number, size: number, weight: Weight) => wrapText(text, width, most, (each) => fonts.measure(each, weight, size)).slice(0, most)

  const pictures = new Map<string, Awaited<ReturnType<typeof pdf.embedJpg>>>()
  const perPage = Math.floor((PAGE.height - 2 * PAGE.margin - PAGE.head - PAGE.foot) / ROW)
  const count = Math.max(1, Math.ceil(rows.length / perPage))
  let painted: readonly string[] = []
  for (let number = 0; number < count; number++) {
    const here = rows.slice(number * perPage, (number + 1) * perPage)
    const wanted = [...new Set(here.flatMap(({ takeId }) => (takeId === null || pictures.has(takeId) ? [] : [takeId])))]
    for (let at = 0; at < wanted.length; at += TAKES_AT_ONCE) {
      const takes = await reader.takes(wanted.slice(at, at + TAKES_AT_ONCE))
      for (const [id, { body }] of takes) {
        signal.throwIfAborted()
        painter.forgetDrawings(painted)
        painted = drawingsOf(body)
        await reader.drawings(painted, painter.putDrawing)
        const canvas = await painter.paint(body, 0, frameOfWidth(PICTURE.px, optics.aspect))
        pictures.set(id, await pdf.embedJpg(await (await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.82 })).arrayBuffer()))
      }
    }
    const on = pdf.addPage([PAGE.width, PAGE.height])
    const { margin } = PAGE
    put(on, lines(project.title, 420, 1, 14, 'bold')[0] ?? '', margin, margin, 14, 'bold')
    const right = `${ask.heading} · ${ask.dateText} · Page ${number + 1} / ${count}`
    put(on, right, PAGE.width - margin - fonts.measure(right, 'plain', 8), margin + 4, 8, 'plain', QUIET)
    let x = margin + PICTURE.width + 8
    for (const { name, width } of columns) {
      put(on, lines(name, width * share - 4, 1, SIZE, 'bold')[0] ?? '', x, margin + PAGE.head - 13, SIZE, 'bold')
      x += width * share
    }
    here.forEach((row, i) => {
      const y = margin + PAGE.head + i * ROW
      on.drawLine({ start: { x: margin, y: PAGE.height - y }, end: { x: PAGE.width - margin, y: PAGE.height - y }, thickness: 0.4, color: RULE })
      if (row.group !== null) return put(on, lines(row.group, room, 1, 10, 'bold')[0] ?? '', margin, y + 12, 10, 'bold')
      const image = row.takeId === null ? undefined : pictures.get(row.takeId)
      const tall = Math.min(ROW - 4, PICTURE.width / optics.aspect)
      if (image !== undefined) on.drawImage(image, { x: margin, y: PAGE.height - y - 2 - tall, width: tall * optics.aspect, height: tall })
      let left = margin + PICTURE.width + 8
      row.cells.forEach((cell, n) => {
        const width = columns[n]!.width * share
        const [main, under] = cell
        const said = lines(main, width - 4, under === '' ? 3 : 2, SIZE, n === 0 ? 'bold' : 'plain')
        said.forEach((line, l) => put(on, line, left, y + 4 + l * SIZE * 1.25, SIZE, n === 0 ? 'bold' : 'plain'))
        if (under !== '') put(on, lines(under, width - 4, 1, SIZE, 'plain')[0] ?? '', left, y + 4 + said.length * SIZE * 1.25, SIZE, 'plain', QUIET)
        left += width
      })
    })
    tell({ done: number + 1, total: count })
    await new Promise((resolve) => setTimeout(resolve))
    signal.throwIfAborted()
  }
  return { file: new Blob([(await pdf.save({ objectsPerTick: 200 })) as Uint8Array<ArrayBuffer>], { type: 'application/pdf' }), pages: count }
}
