export type PerPage = 1 | 3 | 6 | 9
export type Paper = 'a4' | 'letter'

export interface PrintChoice {
  readonly paper: Paper
  readonly landscape: boolean
  readonly perPage: PerPage
  /** Each sequence begins on a page of its own. */
  readonly sequencePages: boolean
  readonly notes: boolean
  /** A panel in which something moves shows all of the move, with its frames and ways. */
  readonly moves: boolean
  /** Words and arrows that are for print alone. */
  readonly forPrint: boolean
}

/** Rectangle in points, from the page's top left corner. */
export interface Box {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

export interface PrintCell {
  readonly box: Box
  /** Words stand beside the picture, not under it. */
  readonly beside: boolean
  readonly label: Box
  readonly picture: Box
  readonly words: Box
}

export interface PrintPage {
  readonly width: number
  readonly height: number
  readonly header: Box
  readonly footer: Box
  readonly cells: readonly PrintCell[]
}

const PAPERS: Readonly<Record<Paper, readonly [number, number]>> = { a4: [595.28, 841.89], letter: [612, 792] }
const MARGIN = 36
const HEADER = 26
const FOOTER = 18
const GAP = 14
const LABEL = 15

/** Columns and rows; three upright stand one under another with their words beside them. */
const GRIDS: Readonly<Record<PerPage, { readonly upright: readonly [number, number]; readonly across: readonly [number, number] }>> = {
  1: { upright: [1, 1], across: [1, 1] },
  3: { upright: [1, 3], across: [3, 1] },
  6: { upright: [2, 3], across: [3, 2] },
  9: { upright: [3, 3], across: [3, 3] },
}

/** Where everything stands on a page of panels of an aspect. Pictures keep their aspect and leave the words at least a quarter. */
export function layPage(choice: Pick<PrintChoice, 'paper' | 'landscape' | 'perPage'>, aspect: number): PrintPage {
  const [short, long] = PAPERS[choice.paper]
  const [width, height] = choice.landscape ? [long, short] : [short, long]
  const [columns, rows] = GRIDS[choice.perPage][choice.landscape ? 'across' : 'upright']
  const inner = { x: MARGIN, y: MARGIN + HEADER, width: width - 2 * MARGIN, height: height - 2 * MARGIN - HEADER - FOOTER }
  const cellWidth = (inner.width - GAP * (columns - 1)) / columns
  const cellHeight = (inner.height - GAP * (rows - 1)) / rows
  const beside = choice.perPage === 3 && !choice.landscape
  const cells: PrintCell[] = []
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const x = inner.x + column * (cellWidth + GAP)
      const y = inner.y + row * (cellHeight + GAP)
      const room = { width: beside ? cellWidth * 0.62 : cellWidth, height: beside ? cellHeight - LABEL : (cellHeight - LABEL) * 0.75 }
      const pictureWidth = Math.min(room.width, room.height * aspect)
      const picture = { x, y: y + LABEL, width: pictureWidth, height: pictureWidth / aspect }
      const words = beside
        ? { x: x + pictureWidth + GAP, y: y + LABEL, width: cellWidth - pictureWidth - GAP, height: cellHeight - LABEL }
        : { x, y: picture.y + picture.height + 5, width: cellWidth, height: cellHeight - LABEL - picture.height - 5 }
      cells.push({ box: { x, y, width: cellWidth, height: cellHeight }, beside, label: { x, y, width: beside ? pictureWidth : Math.max(pictureWidth, Math.min(cellWidth, 120)), height: LABEL }, picture, words })
    }
  }
  return { width, height, header: { x: MARGIN, y: MARGIN, width: width - 2 * MARGIN, height: HEADER }, footer: { x: MARGIN, y: height - MARGIN - FOOTER, width: width - 2 * MARGIN, height: FOOTER }, cells }
}

/** Where a picture of another shape stands in a cell, as large as it can be there, and the words with it. */
export function pictureIn({ box, beside, picture, words, label }: PrintCell, aspect: number): { readonly picture: Box; readonly words: Box } {
  const room = { width: beside ? box.width * 0.62 : box.width, height: beside ? box.height - label.height : (box.height - label.height) * 0.75 }
  const width = Math.min(room.width, room.height * aspect)
  const placed = { x: picture.x, y: picture.y, width, height: width / aspect }
  if (beside) return { picture: placed, words: { ...words, x: box.x + Math.max(width, picture.width) + GAP, width: box.width - Math.max(width, picture.width) - GAP } }
  const y = placed.y + placed.height + 5
  return { picture: placed, words: { ...words, y, height: Math.max(0, box.y + box.height - y) } }
}

/** Panels by page, in order; with `sequencePages` a page holds one sequence only. */
export function paginate<T extends { readonly sequenceId: string }>(panels: readonly T[], perPage: number, sequencePages: boolean): readonly (readonly T[])[] {
  const pages: T[][] = []
  for (const panel of panels) {
    const page = pages.at(-1)
    const fits = page !== undefined && page.length < perPage && (!sequencePages || page[0]!.sequenceId === panel.sequenceId)
    if (fits) page.push(panel)
    else pages.push([panel])
  }
  return pages
}

/**
 * Breaks text into lines no wider than `width`, at spaces, inside words only where one alone is too long. Lines past
 * `most` are cut and the last ends with an ellipsis.
 */
export function wrapText(text: string, width: number, most: number, measure: (text: string) => number): readonly string[] {
  const lines: string[] = []
  for (const paragraph of text.split('\n')) {
    let line = ''
    for (const word of paragraph.split(/\s+/).filter((each) => each !== '')) {
      const longer = line === '' ? word : `${line} ${word}`
      if (measure(longer) <= width) {
        line = longer
        continue
      }
      if (line !== '') lines.push(line)
      line = word
      while (measure(line) > width && [...line].length > 1) {
        const signs = [...line]
        let fits = 1
        while (fits < signs.length - 1 && measure(signs.slice(0, fits + 1).join('')) <= width) fits++
        lines.push(signs.slice(0, fits).join(''))
        line = signs.slice(fits).join('')
      }
    }
    if (line !== '') lines.push(line)
  }
  if (lines.length <= most) return lines
  if (most <= 0) return []
  let last = lines[most - 1]!
  while (last !== '' && measure(`${last}…`) > width) last = last.slice(0, -1).trimEnd()
  return [...lines.slice(0, most - 1), `${last}…`]
}
